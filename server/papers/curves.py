"""Recordings of a job on paper: the most telling curves, and the figures of the sensor's own signals."""

from collections.abc import Iterator
from typing import Any

from dianoia.drawings.curves import curves_svg
from dianoia.errors import RefusedInput
from dianoia.signals.recording import Event
from dianoia.signals.view import SamplesView, samples_view
from server.jobs.stored import case_of
from server.ledger.models import Job
from server.ledger.recordings import path_of
from server.work.samples import measured

#: Figures that are printed of a signal, and so many recordings at most.
_PRINTED = (
    "min", "max", "switches_per_min", "first_activity_s", "rise_s", "fall_s", "rich_delay_s", "lean_delay_s", "inrush", "settled", "ohms",
    "latched_off_s", "duty_low", "duty_low_first", "duty_low_last", "frequency", "drop_under_load", "valid_s", "passed_on",
)  # fmt: skip
_CONTEXT = ("engine_speed", "battery_voltage", "coolant", "loop", "heater_command", "short_trim", "long_trim")
_MOST = 6


def curves_of(job: Job) -> list[dict[str, Any]]:
    """The job's recordings as the template is given them; those whose samples are not here are left out."""
    found: list[dict[str, Any]] = []
    for noted in case_of(job).recordings[:_MOST]:
        try:
            made = measured(path_of(noted.recording), [Event(mark.at_s, mark.event, mark.note) for mark in noted.marks])
        except RefusedInput:
            continue
        svg = curves_svg(made)
        if svg and not noted.purged:
            about = f"{noted.to_s - noted.from_s:.0f} s, {noted.recording[:15]}" + (
                ", simulated" if noted.instrument else ""
            )
            found.append(
                {
                    "title": noted.title or "Recording",
                    "about": about,
                    "svg": svg,
                    "file": f"curves-{len(found)}.svg",
                    "figures": list(_figures(samples_view(made))),
                }
            )
    return found


def _figures(shown: SamplesView) -> Iterator[str]:
    for trace in shown.traces:
        if trace.signal in _CONTEXT:
            continue
        told = [f"{item.label} {item.text}" for item in trace.figures if item.name in _PRINTED and not item.reason]
        yield f"{trace.label}: {', '.join(told)}"
