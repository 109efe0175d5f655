"""Figures of a heater's current."""

from dataclasses import dataclass

import numpy as np

from dianoia.signals.figures.figure import Figure, cannot_tell
from dianoia.signals.recording import Event, Recording, Trace
from dianoia.signals.timing import Timing

#: Amps above which a heater is on, well above a clamp's drift and below the smallest element's hot current.
ON_A = 0.1
#: Seconds after switching on in which the inrush is looked for, on-time after which it has settled, and share of it that counts.
INRUSH_S, SETTLED_S, LAST_SHARE = 2.0, 20.0, 0.25
#: Seconds without current that are a latch and not a pause of the drive, and on-time before them.
LATCHED_S, DRIVEN_S = 10.0, 0.2
#: Revolutions a minute above which an engine runs.
RUNS_RPM = 300.0


@dataclass(frozen=True, slots=True)
class _Drive:
    """When the heater drew current first and last, in seconds."""

    on_s: float
    off_s: float
    seen_on: bool
    """Whether switching on was seen."""
    seen_off: bool
    """Whether it drew no more at the end."""


def heater_figures(trace: Trace, timing: Timing, recording: Recording, started: Event | None) -> list[Figure]:
    """All figures of a heater's current."""
    drive = _drive(trace)
    if drive is None:
        began, ended = float(trace.at_s[0]), float(trace.at_s[-1])
        settled = Figure("settled", float(np.median(trace.values)), timing.resolution / 2 + 0.01, began, ended)
        nothing = [cannot_tell(name, "it drew no current") for name in ("inrush", "ohms")]
        return [settled, *nothing, Figure("latched_off_s", None, None, began, ended)]
    settled = _settled(trace, timing, drive)
    return [
        _inrush(trace, timing, drive),
        settled,
        _ohms(trace, settled, recording),
        _latched(trace, timing, drive, recording, started),
    ]


def _drive(trace: Trace) -> _Drive | None:
    on = np.flatnonzero(trace.values > ON_A)
    if len(on) == 0:
        return None
    first, last = int(on[0]), int(on[-1])
    return _Drive(float(trace.at_s[first]), float(trace.at_s[last]), first > 0, last < len(trace.values) - 1)


def _inrush(trace: Trace, timing: Timing, drive: _Drive) -> Figure:
    if not drive.seen_on:
        return cannot_tell("inrush", "the heater was on when the recording began")
    if timing.step_s > INRUSH_S / 2:
        return cannot_tell("inrush", "sampled too coarsely")
    part = trace.between(drive.on_s, drive.on_s + INRUSH_S)
    place = int(part.values.argmax())
    highest = float(part.values[place])
    fell = abs(highest - float(part.values[-1])) / max(len(part.values) - 1, 1)
    at = float(part.at_s[place])
    return Figure("inrush", highest, timing.resolution / 2 + fell, at, at)


def _settled(trace: Trace, timing: Timing, drive: _Drive) -> Figure:
    """Mean current of the last quarter of the time it was driven; a mean, because a pulsed heater is averaged."""
    lasted = drive.off_s - drive.on_s
    if lasted < SETTLED_S and drive.seen_on:
        return cannot_tell("settled", f"driven for less than {SETTLED_S:g} s")
    began = drive.off_s - lasted * LAST_SHARE
    part = trace.between(began, drive.off_s)
    drift = abs(float(part.values[: len(part.values) // 2 + 1].mean()) - float(part.values.mean()))
    return Figure("settled", float(part.values.mean()), timing.resolution / 2 + drift, began, drive.off_s)


def _ohms(trace: Trace, settled: Figure, recording: Recording) -> Figure:
    """Volts times the share of time driven, over the mean current."""
    volts, command = recording.find("battery_voltage"), recording.find("heater_command", trace.of)
    if settled.value is None or settled.from_s is None or settled.to_s is None:
        return cannot_tell("ohms", settled.reason)
    if volts is None or command is None:
        missing = "the battery's volts" if volts is None else "the heater's command"
        return cannot_tell("ohms", f"{missing} were not recorded" if volts is None else f"{missing} was not recorded")
    at_v, at_share = (one.between(settled.from_s, settled.to_s).values for one in (volts, command))
    if len(at_v) == 0 or len(at_share) == 0 or at_share.mean() < 5.0 or settled.value < ON_A:
        return cannot_tell("ohms", "the heater was hardly driven")
    found = float(at_v.mean()) * float(at_share.mean()) / 100.0 / settled.value
    relative = (settled.error or 0.0) / settled.value + float(at_share.std()) / float(at_share.mean())
    return Figure("ohms", found, found * (relative + 0.02), settled.from_s, settled.to_s)


def _latched(trace: Trace, timing: Timing, drive: _Drive, recording: Recording, started: Event | None) -> Figure:
    """When the drive was switched off for good while the engine ran, counted from its start."""
    name, ended = "latched_off_s", float(trace.at_s[-1])
    if not drive.seen_off or drive.off_s - drive.on_s < DRIVEN_S:
        return Figure(name, None, None, drive.on_s, ended)
    speed = recording.find("engine_speed")
    if speed is not None:
        running = speed.at_s[speed.values > RUNS_RPM]
        ended = float(running[-1]) if len(running) else drive.off_s
    if ended - drive.off_s < LATCHED_S:
        return Figure(name, None, None, drive.on_s, ended)
    began = started.at_s if started else float(trace.at_s[0])
    return Figure(name, drive.off_s - began, timing.step_s, drive.off_s, ended)
