"""A verdict and the range that is printed beside it come from one calculation, whatever is measured on whatever sensor."""

import math
import re
from functools import cache
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from dianoia.bench.jobs import GROUPS, prepared
from dianoia.case.job import Job, job_of, read_as
from dianoia.case.load import case_from_plain, to_plain
from dianoia.case.measures import Probe
from dianoia.diagnosis.catalogue.offered import engines, offered
from dianoia.diagnosis.verdict.judging import judge_newest
from dianoia.diagnosis.verdict.types import Judged
from tests.cases import SUPPLY, case

#: What a number may be noted as, in each unit that a range is printed in.
_SCALE = {
    "V": 1.0,
    "mV": 1e-3,
    "A": 1.0,
    "mA": 1e-3,
    "ohm": 1.0,
    "kohm": 1e3,
    "Mohm": 1e6,
    "%": 1.0,
    "ppm": 1.0,
    "": 1.0,
}
_MEASURED = ("voltage", "resistance", "current")


@cache
def _probes(group: int) -> tuple[Job, tuple[Probe, ...]]:
    """A job of a group, and what of a meter may be read in it."""
    job = prepared(group, known=True)
    listed = offered(job, engines.engine(job))
    return job, tuple(item.probe for item in listed if to_plain(item.probe)["measure"] in _MEASURED)


def _judged(job: Job, probe: Probe, text: str) -> Judged:
    (reading,) = case_from_plain(
        {**to_plain(job.case), "readings": [{**to_plain(probe), "value": text}]}
    ).readings  # fmt: skip
    return judge_newest(job.with_readings([read_as(job, reading)]))


def _printed(text: str) -> tuple[float, float] | None:
    """The ends of a printed range in base units; None for none, or one that moves."""
    told = re.fullmatch(
        r"(?:(below|over|near|OL, or over|at most|at least) )?(-?[\d.]+)(?: (\w*%?))?(?: to (-?[\d.]+) ?(\w*%?))?", text
    )
    if told is None:
        return None
    word, first, unit, last, end_unit = told.groups()
    scale = _SCALE[(unit if unit is not None and last is None else unit or end_unit) or ""]
    value = float(first) * scale
    if last is not None:
        return value, float(last) * _SCALE[end_unit or ""]
    open_ends = {"below": (-math.inf, value), "at most": (-math.inf, value), "near": (-math.inf, math.inf)}
    return open_ends.get(word or "", (value, math.inf) if word else (value, value))


class VerdictAndRange(TestCase):
    """A good reading lies within what is printed, a bad one outside."""

    @settings(max_examples=150)
    @given(st.integers(0, len(GROUPS) - 1), st.integers(0, 400), st.floats(-2.0, 7.0), st.booleans())
    def test_good_lies_inside_and_bad_outside(self, group: int, place: int, size: float, beside: bool) -> None:
        job, probes = _probes(group)
        probe = probes[place % len(probes)]
        kind = to_plain(probe)["measure"]
        unit = {"voltage": "V", "current": "A", "resistance": "ohm"}[kind]
        blank = _judged(job, probe, f"1 {unit}")
        ends = _printed(blank.expected)
        value = 10.0**size if kind == "resistance" else 10.0 ** (size / 4.0)
        if beside and ends:  # just inside and just outside an end tells most
            near = ends[0] if math.isfinite(ends[0]) else ends[1]
            value = abs(near) * (1.0 + 0.01 * (size - 2.5)) if math.isfinite(near) else value
        text = f"{float(f'{value:.3g}'):f} {unit}"
        judged = _judged(job, probe, text)
        shown = float(text.split()[0])
        limits = _printed(judged.expected)
        if limits is None:
            self.assertTrue(judged.expected == "" or "moving" in judged.expected, judged.expected)
            return
        within = limits[0] * (1 - 1e-9) <= shown <= limits[1] * (1 + 1e-9)
        if judged.result == "pass":
            self.assertTrue(within, f"{text} is good beside {judged.expected}")
        if judged.result == "fail":
            self.assertFalse(
                within and not judged.expected.startswith("near"), f"{text} is bad beside {judged.expected}"
            )

    def test_a_range_that_excludes_nothing_is_not_printed(self) -> None:
        """A tap on a wire that the module may hold or not: present or absent, bright or off, 0 V to battery."""
        for group in range(len(GROUPS)):
            job, probes = _probes(group)
            for probe in probes:
                text = _judged(job, probe, "1 ohm" if to_plain(probe)["measure"] == "resistance" else "1").expected
                ends = _printed(text)
                if ends and to_plain(probe)["measure"] == "voltage":
                    self.assertFalse(ends[0] <= 0.05 and 10.0 < ends[1] < math.inf, f"{probe}: {text}")

    def test_what_was_read_two_tenths_below_the_range_is_not_good(self) -> None:
        element = {"measure": "resistance", "red": "sensor.heater_supply", "black": "sensor.heater_control", "key": "off",
                   "connector": "unplugged", "sensor_c": 20, "value": "2.2 ohm"}  # fmt: skip
        sensor = {"family": "switching-4w", "bank": 1, "position": 1, "heater_ohms_20c": [2.35, 3.65]}
        made = case(SUPPLY, sensor=sensor)
        (reading,) = case_from_plain({**to_plain(made), "readings": [element]}).readings
        job = job_of(made)
        self.assertNotEqual(judge_newest(job.with_readings([read_as(job, reading)])).result, "pass")
