"""What instruments recorded, written as files: CSV and MDF of values in time, CAN logs of frames."""

import csv
from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from dianoia.errors import refuse
from dianoia.instruments.can_recorder import CanRecorder
from dianoia.instruments.interface import Channel, Frame, FrameSource, Row, SampleSource
from dianoia.instruments.plans import Step, driven
from dianoia.instruments.scan_tool import ScanRecorder
from dianoia.instruments.scope import Lead, Scope
from dianoia.instruments.vehicle import SimulatedVehicle

#: Endings of files that hold values, and frames.
VALUES, FRAMES = (".csv", ".mf4"), (".asc", ".log", ".blf")


def rows(vehicle: SimulatedVehicle, source: SampleSource, steps: Sequence[Step]) -> Iterator[Row]:
    """Rows of a whole plan, in one count of seconds."""
    began_s = 0.0
    for step in driven(vehicle, steps):
        for row in source.samples(step.seconds):
            yield Row(round(began_s + row.at_s, 6), row.values)
        began_s += step.seconds


def frames(vehicle: SimulatedVehicle, source: FrameSource, steps: Sequence[Step]) -> Iterator[Frame]:
    """Frames of a whole plan, in one count of seconds."""
    began_s = 0.0
    for step in driven(vehicle, steps):
        for frame in source.frames(step.seconds):
            yield replace(frame, at_s=round(began_s + frame.at_s, 6))
        began_s += step.seconds


def record(
    vehicle: SimulatedVehicle, steps: Sequence[Step], path: Path, leads: Sequence[Lead] = (), rate_hz: float = 2000.0
) -> str:
    """Record a plan into a file whose ending says how; returns what was written in words.

    leads: of a scope, whose capture is written; none for a scan tool. Nothing is left behind where it is refused.
    """
    if path.suffix not in (*VALUES, *FRAMES):
        raise refuse("out", "a file that ends with " + ", ".join((*VALUES, *FRAMES)), path.name)
    if path.suffix in FRAMES:
        # a plan that cannot be is refused before anything is written
        found = list(frames(vehicle, CanRecorder(vehicle), steps))
        _write_frames(found, path)
        return f"{len(found)} frames, {sum(frame.error for frame in found)} of them error frames"
    source: SampleSource = Scope(vehicle, leads, rate_hz) if leads else ScanRecorder(vehicle)
    taken = list(rows(vehicle, source, steps))
    (write_csv if path.suffix == ".csv" else _write_mdf)(source.channels, taken, path)
    return f"{len(taken)} rows of {len(source.channels)} signals"


def write_csv(channels: Sequence[Channel], taken: Sequence[Row], path: Path) -> None:
    """Rows as CSV, as a scan tool writes them."""
    with path.open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file)
        writer.writerow(["time [s]", *(channel.name for channel in channels)])
        writer.writerows(
            [f"{row.at_s:.6g}", *("" if value is None else _written(value) for value in row.values)] for row in taken
        )


def _written(value: float | str) -> str:
    return value if isinstance(value, str) else f"{value + 0.0:.6g}"


def _write_mdf(channels: Sequence[Channel], taken: Sequence[Row], path: Path) -> None:
    import numpy as np
    from asammdf import MDF, Signal

    times = np.array([row.at_s for row in taken])
    signals = []
    for place, channel in enumerate(channels):
        values = [row.values[place] for row in taken]
        if any(isinstance(value, str) for value in values):
            samples = np.array([str(value or "").encode() for value in values])
            signals.append(Signal(samples, times, name=channel.name, unit=channel.unit, encoding="utf-8"))
        else:
            numbers = np.array([np.nan if value is None else value for value in values], dtype=float)
            signals.append(Signal(numbers, times, name=channel.name, unit=channel.unit))
    with MDF(version="4.10") as file:
        file.append(signals)
        file.save(path, overwrite=True)


def _write_frames(found: Sequence[Frame], path: Path) -> None:
    import can

    with can.Logger(str(path)) as log:
        for frame in found:
            log.on_message_received(_message(can.Message, frame))


def _message(make: Any, frame: Frame) -> Any:
    return make(
        timestamp=frame.at_s,
        arbitration_id=frame.can_id,
        is_extended_id=True,
        data=frame.data,
        is_error_frame=frame.error,
        channel=0,
    )
