"""Which engine a job gets, how many are kept, and that what does not matter to the circuit does not make another one."""

from threading import Thread
from typing import Any
from unittest import TestCase

from dianoia.case.job import Job, job_of
from dianoia.diagnosis.inference.store import EngineStore
from tests.cases import BATTERY, STEADY, SUPPLY, case

SIGNAL = {**SUPPLY, "red": "harness.signal", "value": "0.45 V"}


def job(*readings: dict[str, Any], **fields: Any) -> Job:
    return job_of(case(*readings, **{"sensor": STEADY, **fields}))


def store(kept: int = 12) -> EngineStore:
    """One that has nothing worked out ahead."""
    return EngineStore(lambda job, engine: (), lambda job, engine: (), kept)


class Keys(TestCase):
    """Explicit keys: what the circuit and its hypotheses depend on, and nothing else."""

    def test_what_makes_another_engine(self) -> None:
        engines, plain = store(60), job()
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

    def test_no_more_are_kept_than_was_asked_for_and_the_latest_stay(self) -> None:
        engines = store(2)
        jobs = [job(code=code) for code in ("P0036", "P0037", "P0038")]
        first, second, third = (engines.engine(item) for item in jobs)
        self.assertIs(engines.engine(jobs[2]), third)
        self.assertIs(engines.engine(jobs[1]), second)
        self.assertIsNot(engines.engine(jobs[0]), first)
        self.assertIsNot(engines.engine(jobs[2]), third)  # the one not used for longest went
        self.assertEqual(len(engines._engines), 2)

    def test_two_threads_get_one_engine(self) -> None:
        engines, found = store(), []
        waiting = [Thread(target=lambda: found.append(engines.engine(job(BATTERY)))) for _ in range(4)]
        for thread in waiting:
            thread.start()
        for thread in waiting:
            thread.join()
        self.assertEqual(len({id(item) for item in found}), 1)
