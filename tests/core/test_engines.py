"""Which engine a job gets, how many are kept, and that what does not matter to the circuit does not make another one."""

from collections.abc import Callable
from itertools import product
from threading import Thread
from time import monotonic
from typing import Any, cast
from unittest import TestCase

import numpy as np

from dianoia.case.job import Job, job_of
from dianoia.circuit.network import Array
from dianoia.diagnosis.catalogue.offered import engines as kept_engines
from dianoia.diagnosis.catalogue.offered import readable_candidates
from dianoia.diagnosis.inference.engine import Engine
from dianoia.diagnosis.inference.evidence import take_in
from dianoia.diagnosis.inference.predictions import get_ready
from dianoia.diagnosis.inference.size import array_bytes
from dianoia.diagnosis.inference.store import KEPT_BYTES, EngineStore
from dianoia.readings.circuit_model import CircuitModel
from dianoia.readings.display import Categorical
from dianoia.readings.moving import MovingValue
from dianoia.readings.outcomes import Display
from tests.cases import BATTERY, STEADY, SUPPLY, case

SIGNAL = {**SUPPLY, "red": "harness.signal", "value": "0.45 V"}


def job(*readings: dict[str, Any], **fields: Any) -> Job:
    return job_of(case(*readings, **{"sensor": STEADY, **fields}))


def store(kept_bytes: int = KEPT_BYTES, clock: Callable[[], float] = monotonic) -> EngineStore:
    """One that has nothing worked out ahead."""
    return EngineStore(lambda job, engine: (), lambda job, engine: (), kept_bytes, clock)


def engine_of(worked: Job) -> Engine:
    """A job's engine, with what may be proposed foreseen and its readings taken in."""
    engine = EngineStore(kept_engines._ready, kept_engines._may_follow).engine(worked)
    models = engine.models_for(worked.readings)
    for item in kept_engines._ready(worked, engine):
        get_ready(engine.space, models, item)
    take_in(engine.belief(models), worked.readings)
    return engine


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

    def test_the_oldest_let_go_of_what_they_can_and_then_go(self) -> None:
        jobs = [job(BATTERY, SUPPLY, code=code) for code in ("P0036", "P0037", "P0038")]
        one = store()
        one.engine(jobs[0])
        for bound, kept, small in ((KEPT_BYTES, 3, 0), (int(0.9 * one.kept_bytes), 3, 2), (1, 1, 0)):
            engines = store(bound)
            found = [engines.engine(item) for item in jobs]
            with self.subTest(bound):
                self.assertEqual(len(engines.kept), kept)
                has_let_go = [not engine.models[0]._solved.answers for engine in found]  # type: ignore[attr-defined]
                self.assertEqual(sum(has_let_go[-kept:]), small)
                self.assertIs(engines.engine(jobs[-1]), found[-1])

    def test_engines_that_have_nothing_worked_out_yet_go_like_others(self) -> None:
        engines = store(1)
        found = [engines.bare_engine(job(BATTERY, code=code)) for code in ("P0036", "P0037", "P0038")]
        self.assertEqual([item in engines.kept for item in found], [False, False, True])

    def test_those_of_a_job_that_rests_go_first_unless_it_is_worked_on_again(self) -> None:
        jobs = [job(BATTERY, SUPPLY, code=code) for code in ("P0036", "P0037", "P0038")]
        one = store()
        one.engine(jobs[0])
        for again, kept in ((False, [False, True, True]), (True, [True, True, True])):
            engines = store(int(2.6 * one.kept_bytes))
            found = [engines.engine(item) for item in jobs[:2]]
            engines.rest(jobs[0])
            if again:
                engines.engine(jobs[0])
            found.append(engines.engine(jobs[2]))
            engines.settle()
            with self.subTest(again=again):
                self.assertEqual([item in engines.kept for item in found], kept)

    def test_those_that_nobody_has_come_back_to_go_before_any_in_use_shrinks(self) -> None:
        jobs = [job(BATTERY, SUPPLY, code=code) for code in ("P0036", "P0037", "P0038")]
        one, now = store(), [0.0]
        one.engine(jobs[0])
        for waits, kept in ((100.0, [True, True, True]), (400.0, [False, True, True])):
            engines = store(int(2.6 * one.kept_bytes), lambda: now[0])
            found = [engines.engine(item) for item in jobs[:2]]
            for later in (20.0, 20.0, waits - 40.0):
                now[0] += later
                engines.engine(jobs[1])
            found.append(engines.engine(jobs[2]))
            engines.settle()
            with self.subTest(waits=waits):
                self.assertEqual([item in engines.kept for item in found], kept)

    def test_of_a_job_two_beliefs_are_kept_and_the_oldest_go_that_are_too_big_together(self) -> None:
        engines, other = store(), job(BATTERY, code="P0031")
        for ledger in ((), (BATTERY,), (BATTERY, SUPPLY)):
            engines.converged(job(*ledger))
        self.assertEqual(len(engines._believed), 2)
        newest = engines.converged(other)
        engines.settle()
        self.assertEqual(len(engines._believed), 3)
        engines.keep_at_most(engines.believed_bytes)  # half of it is theirs
        engines.settle()
        self.assertLess(len(engines._believed), 3)
        self.assertIs(engines.converged(other), newest)

    def test_what_was_let_go_of_is_worked_out_again(self) -> None:
        before, after = job(BATTERY, SUPPLY), job(BATTERY, SUPPLY, {**SUPPLY, "value": "0.2 V"})
        untouched, shrunk = engine_of(before), engine_of(before)
        shrunk.let_go()
        self.assertLess(array_bytes(shrunk), 0.3 * array_bytes(untouched))
        told = []
        for engine in (untouched, shrunk):
            belief = engine.belief(engine.models_for(after.readings))
            take_in(belief, after.readings)
            told.append(belief.posterior())
        np.testing.assert_allclose(told[0], told[1], atol=1e-9)

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


class Few(TestCase):
    """A model asked about few of its hypotheses."""

    def test_it_shows_the_same_under_each_whatever_is_read(self) -> None:
        for family, code in (
            ("switching-1w", "P0130"), ("switching-4w", "P0135"), ("titania-4w", "P0130"), ("airfuel-4w", "P2237"), ("wideband-6w", "P2243"), ("nox-can-4w", "P229E"),
        ):  # fmt: skip
            worked = job_of(case(BATTERY, code=code, sensor={"family": family}))
            engine = store().engine(worked)
            for candidate, model in product(
                readable_candidates(worked, engine, "low-side")[::3], engine.models_for(worked.readings)
            ):
                rows = np.arange(0, len(model.hypotheses), 7)
                few = cast(CircuitModel, model).only([model.hypotheses[row] for row in rows])
                shape = (len(model.hypotheses), model.draw_weight.size)
                with self.subTest(family, loop=model.name, candidate=candidate.id):
                    whole, part = model.displays(candidate.probe) or {}, few.displays(candidate.probe) or {}
                    self.assertEqual(list(whole), list(part))
                    for name in whole:
                        for one, other in zip(
                            shown(whole[name], shape), shown(part[name], (rows.size, shape[1])), strict=True
                        ):
                            np.testing.assert_allclose(other, one[rows], rtol=1e-4, atol=1e-5)


def shown(display: Display, shape: tuple[int, int]) -> list[Array]:
    """All that a display says, each (hypotheses, draws)."""
    if isinstance(display, Categorical):
        return [np.broadcast_to(item, shape) for item in display.chance.values()]
    ends = (display.low, display.high) if isinstance(display, MovingValue) else (display,)
    return [np.broadcast_to(item.shown, shape) for item in ends]
