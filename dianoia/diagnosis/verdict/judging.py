"""A reading judged where it was taken: what a healthy circuit shows there, and what the reading alone says."""

from dataclasses import replace
from math import isfinite

import numpy as np

from dianoia.case.job import Job
from dianoia.case.measures import Probe
from dianoia.case.observed import Observed
from dianoia.diagnosis.catalogue.offered import engines
from dianoia.diagnosis.faults.moved import come_and_gone
from dianoia.diagnosis.faults.observations import observation
from dianoia.diagnosis.inference.differences import comparable
from dianoia.diagnosis.inference.engine import Engine
from dianoia.diagnosis.inference.evidence import Evidence, gross_error_chances, shows_heat, weigh
from dianoia.diagnosis.inference.store import EngineStore
from dianoia.diagnosis.verdict.explain import raised_faults, reading_says
from dianoia.diagnosis.verdict.types import Judged
from dianoia.quantities.types import Quantity
from dianoia.readings.judge import Expectation, Result, expect, expect_figures, expect_moving, judge, seen_on_some
from dianoia.readings.model import LoopModel

#: A reading that a healthy circuit may show is not called good where faults show it so many times more often, unless all of them together
#: have less than this chance before any reading.
RATHER, SELDOM = 4.0, 0.1
#: Why no current by itself is not bad.
LATCHED_OFF = (
    "A module that has shut its heater off over the code shows this, too: clear the codes, then read within seconds."
)
#: Why a path to ground that a healthy feed may have is not good.
OTHERS = "What else hangs on this feed reads like this, too: unplug it, then read again."
#: The scan value of the module's own test of the heater.
MONITOR = "heater_monitor"
#: Terminals at the end of a feed.
FED = frozenset(("heater_supply", "supply"))
#: Beyond this a bound of an expected range is none.
_ENDLESS = 1e11


def judge_newest(job: Job, store: EngineStore = engines) -> Judged:
    """The judgement of the job's last reading, by itself: quick, as nothing is concluded from it. The verdict on the
    whole job says the same of it.
    """
    engine = store.bare_engine(job)
    place = len(job.readings) - 1
    gross_error = gross_error_chances(job.readings)[place]
    belief = engine.belief(engine.models_for(job.readings))
    moved = come_and_gone(job.readings)[place]
    item = weigh(belief, place, job.readings[place], gross_error, comparable(place, job.readings), moved)
    return Judgements(job, engine).judged(place, item)


class Judgements:
    """The judgements of a job's readings by one engine."""

    def __init__(self, job: Job, engine: Engine) -> None:
        self.job, self.engine = job, engine
        self._models = engine.models_for(job.readings)
        self._expected: dict[object, Expectation | None] = {}

    def judged(self, place: int, item: Evidence | None) -> Judged:
        """The judgement of the reading at a place in the ledger. item: what it says; None where nothing is weighed."""
        reading = self.job.readings[place]
        if reading.struck is not None:
            struck = f"Struck: {reading.struck}."
            return Judged(reading=place, expected="", against="computed", result="unclear", says=struck, means=struck)
        expected = self._expected_of(reading)
        result, shown = judge(reading, expected)
        rests = False
        if (
            result == "fail"
            and expected is not None
            and expected.against == "computed"
            and self._on_some(place, expected)
        ):
            result = "unclear"
            rests = reading.probe.of_heater_current and reading.probe.key == "running"
        raised = self._raised(item) if result == "fail" and item is not None else []
        if result == "pass" and item is not None and expected is not None and expected.against == "computed":
            raised = self._shown_rather_by(item)
            result = "unclear" if raised else result
        others = result == "pass" and self._may_be_others(reading)
        result = "unclear" if others else result
        if reading.probe.looked is not None or reading.probe.scanned == MONITOR:
            result = _of_a_look(reading)
        held_against = expected if item is not None or reading.probe.of else None
        says, means = reading_says(
            reading, held_against, result, raised, LATCHED_OFF if rests else OTHERS if others else ""
        )
        return Judged(
            reading=place, expected=expected.text if expected else "", against=expected.against if expected else "computed",
            result=result, says=says, means=means, low=_bound(expected.low if expected else None),
            high=_bound(expected.high if expected else None),
            value=_bound(shown.value) if isinstance(shown, Quantity) else None,
            kind=expected.kind if expected else None, source=expected.source if expected else None,
        )  # fmt: skip

    def _raised(self, item: Evidence) -> list[str]:
        return raised_faults(item, self.engine.partition, self.engine.space.prior)

    def _may_be_others(self, reading: Observed) -> bool:
        """Whether ohms fit a healthy circuit only through the feed's other consumers: with those unplugged they would be bad."""
        probe = reading.probe
        if not probe.reads_ohms or probe.others is not None or not probe.terminals & FED:
            return False
        return judge(reading, self.expect(replace(probe, others="unplugged")))[0] == "fail"

    def _shown_rather_by(self, item: Evidence) -> list[str]:
        """The faults that make a reading likelier than a healthy circuit does, ``RATHER`` times and more; three at most, and none where all
        of them are seldom.
        """
        space, partition = self.engine.space, self.engine.partition
        likelihood = np.exp(item.odds - item.odds.max())
        healthy = float(likelihood[space.row_of[frozenset()]])
        speaks: dict[str, float] = {}
        share = 0.0
        for name, rows in partition.has_fault.items():
            own = space.prior[rows]
            given = float(own @ likelihood[rows])
            if given > RATHER * healthy * float(own.sum()):
                speaks[name] = given
                share += float(own.sum())
        return sorted(speaks, key=lambda name: -speaks[name])[:3] if share > SELDOM else []

    def _expected_of(self, reading: Observed) -> Expectation | None:
        """What a reading is held against; one with several figures, by each of them."""
        names = [name for name, _ in reading.figures]
        several = names != ["value"] and not reading.probe.by_hand
        model = self._answering(reading.probe) if several or reading.moves is not None else None
        displays = model.healthy(reading.probe) if model else None
        if not model or not displays:
            return None if several else self.expect(reading.probe)
        working = model.working(reading.probe)
        one = expect_figures(names, displays, working) if several else self.expect(reading.probe)
        return expect_moving(one, displays, working) if reading.moves else one

    def _on_some(self, place: int, expected: Expectation) -> bool:
        """Whether sound circuits of another kind, or at rest, show it, too; at rest no more where the heater was seen at work before."""
        reading = self.job.readings[place]
        model, shown = self._answering(reading.probe), reading.figure(expected.figure)
        displays = model.healthy(reading.probe) if model else None
        if not model or not displays or shown is None or expected.figure not in displays:
            return False
        weight = model.draw_weight
        if model.name == "heater" and self._was_at_work(place):
            weight = weight * model.working(reading.probe)
        return seen_on_some(shown, displays[expected.figure], weight)

    def _was_at_work(self, place: int) -> bool:
        """Whether the heater was seen to draw current before, since the last repair."""
        for item in reversed(self.job.readings[:place]):
            if item.counts and item.probe.mends:
                return False
            if item.counts and shows_heat(item):
                return True
        return False

    def expect(self, probe: Probe) -> Expectation | None:
        """What a healthy circuit shows to a probe; None where the circuit has nothing to say to it."""
        if probe.shows not in self._expected:
            model = self._answering(probe)
            displays = model.healthy(probe) if model else None
            working = model.working(probe) if model and displays else None
            self._expected[probe.shows] = expect(probe, self.job, displays, working)
        return self._expected[probe.shows]

    def _answering(self, probe: Probe) -> LoopModel | None:
        models = self.engine.models if probe.across_battery else self._models
        return next((model for model in models if model.healthy(probe)), None)


def _of_a_look(reading: Observed) -> Result:
    """Good where what was seen speaks for no fault, bad where it does."""
    seen = observation(reading.probe, str(reading.value))
    if seen is None or not seen.times:
        return "unclear"
    raises = any(times > 1 and "none" not in names for names, times in seen.times)
    return "fail" if raises else "pass"


def _bound(value: float | None) -> float | None:
    return value if value is not None and isfinite(value) and abs(value) < _ENDLESS else None
