"""The simulated jobs: which sensors and codes, what is known of the vehicle, and what is hidden in it."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any

import numpy as np

from dianoia.case.job import Job, job_of
from dianoia.case.load import case_from_plain
from dianoia.diagnosis.catalogue.offered import engines

#: Share of jobs with two faults and with none.
TWO, NONE = 0.06, 0.06
#: (code, family, position, code group): every family twice, so that n jobs a row are 2n jobs a family.
GROUPS = (
    ("P0130", "switching-1w", 1, "signal"), ("P0134", "switching-1w", 1, "inactive"),
    ("P0131", "switching-2w", 1, "signal"), ("P0134", "switching-2w", 1, "inactive"),
    ("P0036", "switching-3w", 2, "heater"), ("P0132", "switching-3w", 1, "signal"),
    ("P0037", "switching-4w", 2, "heater"), ("P0134", "switching-4w", 1, "inactive"),
    ("P0030", "titania-4w", 1, "heater"), ("P0130", "titania-4w", 1, "signal"),
    ("P0031", "airfuel-4w", 1, "heater"), ("P2237", "airfuel-4w", 1, "reference"),
    ("P0032", "wideband-5w", 1, "heater"), ("P2243", "wideband-5w", 1, "reference"),
    ("P0135", "wideband-6w", 1, "heater"), ("P2251", "wideband-6w", 1, "reference"),
    ("P229E", "nox-can-4w", 2, "nox"), ("U029D", "nox-can-4w", 1, "nox"),
    ("P2203", "nox-can-5w", 1, "nox"), ("U029E", "nox-can-5w", 2, "nox"),
)  # fmt: skip
#: What is known of the vehicle in every second job, as service data would say it.
_KNOWN: dict[str, dict[str, Any]] = {
    "zirconia": {"heater_switch": "low-side", "heater_drive": "steady", "bias_v": 0.45, "heater_ohms_20c": [4.0, 6.5]},
    "titania": {"heater_switch": "low-side", "heater_drive": "steady", "heater_ohms_20c": [5.0, 7.5]},
    "limiting-current": {"heater_switch": "low-side", "heater_drive": "pwm", "heater_ohms_20c": [1.8, 2.8]},
    "two-cell": {"heater_switch": "low-side", "heater_drive": "pwm", "heater_ohms_20c": [2.4, 4.0]},
    "nox": {},
}


@dataclass(frozen=True)
class SimulatedJob:
    """A job and what is hidden in its vehicle."""

    job: Job
    group: str
    hidden: tuple[str, ...]
    seed: int


def simulated(jobs: int, seed: int, wanted: range | None = None) -> Iterator[SimulatedJob]:
    """Of ``jobs`` jobs spread evenly over the groups, one group after another, those wanted; the same for the same seed."""
    for index in wanted or range(jobs):
        row = index * len(GROUPS) // jobs
        own = np.random.default_rng([seed, index])
        job = prepared(row, bool(own.random() < 0.5))
        engine = engines.engine(job)
        hidden = hide(engine.space.faults, engine.space.prior, own)
        yield SimulatedJob(job, GROUPS[row][3], hidden, int(own.integers(1 << 40)))


@cache
def prepared(row: int, known: bool) -> Job:
    """The job of a group's row, with or without data on its vehicle."""
    code, family, position, _ = GROUPS[row]
    sensor: dict[str, Any] = {"family": family, "bank": 1, "position": position}
    vehicle: dict[str, Any] = {"label": "simulated", "system_voltage": 12}
    plain = {"format": "dianoia-case/1", "vehicle": vehicle, "sensor": sensor, "codes": [{"code": code}]}
    if known:
        cell = job_of(case_from_plain(plain)).family.cell
        data = {
            name: value for name, value in _KNOWN[cell].items() if not name.startswith("heater") or family[-2] in "3456"
        }
        sensor.update(data)
        vehicle["feed_live"] = "running"
    return job_of(case_from_plain(plain))


def hide(listed: Sequence[tuple[str, ...]], prior: Any, random: np.random.Generator) -> tuple[str, ...]:
    """A truth drawn by the base rates, with a fixed share of pairs and of healthy circuits."""
    kind = random.random()
    wanted = 2 if kind < TWO else 0 if kind < TWO + NONE else 1
    rows = [row for row, names in enumerate(listed) if len(names) == wanted]
    weight = np.asarray(prior)[rows]
    return listed[rows[int(random.choice(len(rows), p=weight / weight.sum()))]]
