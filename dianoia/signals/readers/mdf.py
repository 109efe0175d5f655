"""Measurement files of ASAM MDF 4, read by asammdf. It is imported only here, in a process of its own where a server asks."""

from collections.abc import Iterator, Sequence
from contextlib import redirect_stdout
from io import StringIO
from pathlib import Path
from typing import Any

import numpy as np

from dianoia.errors import RefusedInput, refuse
from dianoia.signals.columns import match
from dianoia.signals.known import signals
from dianoia.signals.readers.source import Chosen, Column, RawTrace, refuse_columns, refuse_rows

_SHOWN = 3


class MdfLog:
    """A measurement file: each channel has times of its own."""

    def __init__(self, path: Path) -> None:
        from asammdf import MDF

        try:
            with redirect_stdout(StringIO()):  # of damaged files the library prints what it has read so far
                self._file: Any = MDF(path)
            self._channels = list(_channels(self._file))
            self.rows = max((int(group.channel_group.cycles_nr) for group in self._file.groups), default=0)
        except Exception as problem:  # a damaged file makes the library raise nearly anything
            raise _damaged(problem) from problem
        refuse_columns(len(self._channels) + 1)
        refuse_rows(self.rows)
        self.columns = tuple(self._column(place) for place in range(len(self._channels)))

    def _column(self, place: int) -> Column:
        name, unit, group, index = self._channels[place]
        found = match(name, unit)
        shows: tuple[str, ...] = ()
        if found.signal is not None:
            shows = tuple(str(_plain(value)) for value in self._samples(group, index)[0][:_SHOWN])
        return Column(place, name, found.unit, found.signal, found.of, shows)

    def _samples(self, group: int, index: int) -> tuple[Any, Any]:
        try:
            with redirect_stdout(StringIO()):
                got = self._file.get(group=group, index=index, ignore_invalidation_bits=False)
        except Exception as problem:
            raise _damaged(problem) from problem
        return got.samples, got.timestamps

    def read(self, chosen: Sequence[Chosen]) -> Iterator[RawTrace]:
        """See ``Source``."""
        for one in chosen:
            name, _, group, index = self._channels[one.place]
            samples, times = self._samples(group, index)
            at_s = np.asarray(times, dtype=float)
            if signals()[one.signal].vocabulary:
                yield RawTrace(one, name, at_s, [str(_plain(value)) or None for value in samples])
            elif samples.dtype.kind in "fiub" and samples.ndim == 1:
                yield RawTrace(one, name, at_s, samples.astype(float))
            else:
                raise refuse(name, "a channel of numbers", "a channel of texts or of several values")


def _channels(file: Any) -> Iterator[tuple[str, str, int, int]]:
    """Name, unit, group and index of each channel but the times."""
    for place, group in enumerate(file.groups):
        master = file.masters_db.get(place)
        for index, channel in enumerate(group.channels):
            if index != master:
                unit = channel.unit or (channel.conversion.unit if channel.conversion else "")
                yield channel.name, unit or "", place, index


def _plain(value: Any) -> Any:
    return value.decode("utf-8", "replace").strip("\x00 ") if isinstance(value, bytes) else value


def _damaged(problem: Exception) -> RefusedInput:
    said = str(problem).split("\n")[0][:80] or problem.__class__.__name__
    return refuse("file", "a whole measurement file (MDF 4)", f"a damaged one: {said}")
