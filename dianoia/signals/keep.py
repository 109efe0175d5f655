"""A recording kept as one Parquet file: a column of times that all share, and one of each trace, empty where it has no sample.

The file's own metadata say what each column is, so that it can be opened without the job it belongs to.
"""

import json
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl

from dianoia.errors import refuse
from dianoia.signals.hashing import hash_of
from dianoia.signals.known import signals
from dianoia.signals.readers.broken import BROKEN
from dianoia.signals.readers.source import Chosen, Column, RawTrace, refuse_rows
from dianoia.signals.recording import Event, Recording, Samples, Trace

FORMAT = "dianoia-recording/1"
_META, _TIME = "dianoia", "time_s"


def write(recording: Recording, path: Path) -> str:
    """Write a recording. Returns the file's hash, as ``sha256:...``. Words are written as words."""
    times = _common_times(recording.traces)
    columns = {_TIME: pl.Series(_TIME, times)}
    for trace in recording.traces:
        columns[trace.name] = _column(trace, times)
    about = {
        "format": FORMAT,
        "rows": recording.rows,
        "columns": [
            {"name": one.name, "column": one.column, "signal": one.signal, "of": one.of, "left_out": one.bad}
            for one in recording.traces
        ],
    }
    table = pl.DataFrame(list(columns.values()))
    table.write_parquet(path, compression="zstd", compression_level=1, metadata={_META: json.dumps(about)})
    return hash_of(path)


def read(path: Path, marks: Sequence[Event] = ()) -> Recording:
    """A kept recording. marks: what the job says of it. Raises RefusedInput for a damaged file."""
    about = _about(path)
    table = _table(path)
    try:
        traces = tuple(_trace(table, column) for column in about["columns"])
        return Recording(traces, int(about["rows"]), marks=tuple(marks))
    except (*BROKEN, KeyError, TypeError, AttributeError) as problem:
        raise refuse("file", "a recording that Dianoia kept", "one that says something else of itself") from problem


def table_of(recording: Recording) -> pl.DataFrame:
    """A recording as a table for other programs: times, then a column a trace, with unit in its heading."""
    times = _common_times(recording.traces)
    found = [pl.Series("time [s]", times)]
    for trace in recording.traces:
        unit = f" [{trace.row.unit}]" if trace.row.unit else ""
        name = trace.signal.replace("_", " ") if trace.signal not in ("volts", "amps") else trace.row.label
        found.append(_column(trace, times).alias(f"{trace.of} {name}{unit}" if trace.of else f"{name}{unit}"))
    return pl.DataFrame(found)


def _common_times(traces: Sequence[Trace]) -> Samples:
    columns = {id(trace.at_s): trace.at_s for trace in traces}
    if len(columns) == 1:
        return next(iter(columns.values()))
    return np.unique(np.concatenate(list(columns.values())))


def _column(trace: Trace, times: Samples) -> pl.Series:
    if trace.at_s is times:
        values = trace.values
    else:
        values = np.full(len(times), np.nan)
        values[np.searchsorted(times, trace.at_s)] = trace.values
    column = pl.Series(trace.name, values, nan_to_null=True)
    words = trace.row.vocabulary
    if not words:
        return column
    return column.replace_strict(
        {float(place): word for place, word in enumerate(words)}, default=None, return_dtype=pl.String
    )


def _trace(table: pl.DataFrame, about: dict[str, Any]) -> Trace:
    column = table[about["name"]]
    words = signals()[about["signal"]].vocabulary
    if words:
        column = column.replace_strict(
            {word: float(place) for place, word in enumerate(words)}, default=None, return_dtype=pl.Float64
        )
    times = table[_TIME].to_numpy()
    if column.null_count():
        there = column.is_not_null().to_numpy()
        return Trace(
            about["column"], about["signal"], about["of"], times[there], column.to_numpy()[there], about["left_out"]
        )
    return Trace(about["column"], about["signal"], about["of"], times, column.to_numpy(), about["left_out"])


def _about(path: Path) -> dict[str, Any]:
    try:
        about: dict[str, Any] = json.loads(pl.read_parquet_metadata(path)[_META])
    except (*BROKEN, KeyError) as problem:
        raise refuse(
            "file", "a recording that Dianoia kept", f"{path.name} ({problem.__class__.__name__})"
        ) from problem
    if about.get("format") != FORMAT:
        raise refuse("file", f"a recording of the format {FORMAT}", str(about.get("format")))
    return about


def _table(path: Path) -> pl.DataFrame:
    try:
        return pl.read_parquet(path).rechunk()
    except BROKEN as problem:
        raise refuse("file", "a whole recording", f"a damaged one ({problem.__class__.__name__})") from problem


class KeptLog:
    """A kept recording that comes in as a file: its columns are known."""

    def __init__(self, path: Path) -> None:
        self._recording = read(path)
        self.rows = self._recording.rows
        refuse_rows(max((len(trace.at_s) for trace in self._recording.traces), default=0))
        self.columns = tuple(
            Column(
                place,
                trace.column,
                trace.row.unit,
                trace.signal,
                trace.of,
                tuple(f"{value:g}" for value in trace.values[:3]),
            )
            for place, trace in enumerate(self._recording.traces)
        )

    def read(self, chosen: Sequence[Chosen]) -> Iterator[RawTrace]:
        """See ``Source``."""
        for one in chosen:
            trace = self._recording.traces[one.place]
            words = trace.row.vocabulary
            values = [words[int(value)] for value in trace.values] if words else trace.values
            yield RawTrace(one, trace.column, trace.at_s, values, trace.bad)
