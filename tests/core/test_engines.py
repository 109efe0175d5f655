"""Which engine a job gets, how many are kept, and that what does not matter to the circuit does not make another one."""

from threading import Thread
from typing import Any
from unittest import TestCase

import numpy as np

from dianoia.case.job import Job, job_of
from dianoia.diagnosis.inference.size import array_bytes
from dianoia.diagnosis.inference.store import KEPT_BYTES, NEWEST, EngineStore
from tests.cases import BATTERY, STEADY, SUPPLY, case

SIGNAL = {**SUPPLY, "red": "harness.signal", "value": "0.45 V"}


def job(*readings: dict[str, Any], **fields: Any) -> Job:
    return job_of(case(*readings, **{"sensor": STEADY, **fields}))


def store(kept_bytes: int = KEPT_BYTES) -> EngineStore:
    """One that has nothing worked out ahead."""
    return EngineStore(lambda job, engine: (), lambda job, engine: (), kept_bytes)


class Keys(TestCase):
    """Explicit keys: what the circuit and its hypotheses depend on, and nothing else."""

    def test_what_makes_another_engine(self) -> None:
        engines, plain = store(), job()
        base = engines.engine(plain)
        for why, other, same in (
            ("the title", job(title="Tuesday"), True), ("the complaint", job(complaint="shakes"), True), ("the style", job(style="basic-kit"), True),
            ("what the workshop has", job(workshop={"tools": ["meter"]}), True), ("a vehicle's label", job(vehicle={"label": "Bus 7"}), True),
            ("the colours of the wires", job(sensor={**STEADY, "pins": {"1": {"colour": "grey"}}}), True),
            ("a first reading", job(BATTERY), True), ("its note", job({**BATTERY, "note": "windy"}), True),
            ("the voltage", job(vehicle={"label": "Bus 4", "system_voltage": 24}), False), ("when the feed is live", job(vehicle={"label": "Bus 4", "feed_live": "always"}), False),
            ("the element", job(sensor={**STEADY, "heater_ohms_20c": [8, 9]}), False), ("the side", job(sensor={**STEADY, "heater_switch": "high-side"}), False),
            ("the code", job(code="P0037"), False), ("the past", job(history=["water"]), False), ("a symptom", job(symptoms=["black-smoke"]), False),
            ("a reading at the signal", job(SIGNAL), False),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertEqual(engines.engine(other) is base, same)

    def test_no_more_bytes_are_kept_than_was_asked_for_and_the_latest_engines_stay(self) -> None:
        engines, roomy = store(1), store()
        codes = ("P0036", "P0037", "P0038", "P0031", "P0032")
        jobs = [job(BATTERY, SUPPLY, code=code) for code in codes[: NEWEST + 1]]
        for item in jobs:
            for kept in (engines, roomy):
                kept.engine(item)
        self.assertGreater(roomy.kept_bytes, engines.kept_bytes)
        self.assertEqual(len(engines._engines), NEWEST)
        latest = engines.engine(jobs[-1])
        self.assertIsNot(
            engines.engine(jobs[0]), None
        )  # the one not used for longest had gone, and takes the next one's place
        self.assertIs(engines.engine(jobs[-1]), latest)
        self.assertEqual(len(engines._engines), NEWEST)

    def test_the_arrays_of_an_engine_are_counted_once(self) -> None:
        array = np.zeros(1000)
        self.assertEqual(
            array_bytes({"one": [array, array[:10]], "other": (array.reshape(10, 100), "text", None)}), 8000
        )

    def test_two_threads_get_one_engine(self) -> None:
        engines, found = store(), []
        waiting = [Thread(target=lambda: found.append(engines.engine(job(BATTERY)))) for _ in range(4)]
        for thread in waiting:
            thread.start()
        for thread in waiting:
            thread.join()
        self.assertEqual(len({id(item) for item in found}), 1)
