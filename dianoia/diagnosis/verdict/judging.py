"""A reading judged where it was taken: what a sound circuit shows there, and what the reading alone says."""

from math import isfinite

from dianoia.case.job import Job
from dianoia.case.ledger import Reading
from dianoia.case.live import display_of
from dianoia.diagnosis.inference.engine import Circuit, is_battery
from dianoia.diagnosis.inference.evidence import Evidence, slip_chances, weigh
from dianoia.diagnosis.inference.store import reading_circuit
from dianoia.diagnosis.verdict.explain import reading_says
from dianoia.diagnosis.verdict.types import Judged
from dianoia.quantities.types import Quantity
from dianoia.readings.instruments import measured
from dianoia.readings.judge import Expectation, expect, expect_span, judge
from dianoia.readings.model import LoopModel
from dianoia.readings.value import figures

#: Beyond this a bound of an expected range is none.
_ENDLESS = 1e11


def judge_newest(job: Job) -> Judged:
    """The judgement of the job's last reading, by itself: quick, as nothing is concluded from it. The verdict on the
    whole job says the same of it.
    """
    circuit = reading_circuit(job)
    place = len(job.case.readings) - 1
    slip = slip_chances(job.case.readings)[place]
    belief = circuit.belief(circuit.models_for(job))
    item = weigh(belief, place, job.case.readings[place], slip)
    return Judging(job, circuit).judged(place, item)


class Judging:
    """The judgements of a job's readings by one circuit."""

    def __init__(self, job: Job, circuit: Circuit) -> None:
        self.job, self.circuit = job, circuit
        self._models = circuit.models_for(job)
        self._expected: dict[object, Expectation | None] = {}

    def judged(self, place: int, item: Evidence | None) -> Judged:
        """The judgement of the reading at a place in the ledger. item: what it says; None where nothing is weighed."""
        reading = self.job.case.readings[place]
        if reading.struck is not None:
            struck = f"Struck: {reading.struck}."
            return Judged(reading=place, expected="", against="computed", result="unclear", says=struck, means=struck)
        expected = self._expected_of(reading)
        result, shown = judge(reading, expected)
        says, means = reading_says(reading, expected, result, item, self.circuit.meaning, self.circuit.space.prior)
        return Judged(
            reading=place, expected=expected.text if expected else "", against=expected.against if expected else "computed",
            result=result, says=says, means=means, low=_bound(expected.low if expected else None),
            high=_bound(expected.high if expected else None),
            value=_bound(shown.value) if isinstance(shown, Quantity) else None,
            kind=expected.kind if expected else None, source=expected.source if expected else None,
        )  # fmt: skip

    def _expected_of(self, reading: Reading) -> Expectation | None:
        """What a reading is held against; a span is by its two ends."""
        display = display_of(reading)
        if display is reading:
            return self.expect(reading)
        model = self._answering(display) if display else None
        displays = model.displays(display) if model and display else None
        if not model or not display or not displays:
            return None
        low, high = figures(reading)
        return expect_span(low, high, displays, model.working(display))

    def expect(self, probe: object) -> Expectation | None:
        """What a sound circuit shows to a probe; None where the circuit has nothing to say to it."""
        key = measured(probe)
        if key not in self._expected:
            model = self._answering(probe)
            displays = model.displays(probe) if model else None  # type: ignore[arg-type]
            working = model.working(probe) if model and displays else None  # type: ignore[arg-type]
            self._expected[key] = expect(probe, self.job.case, displays, working)  # type: ignore[arg-type]
        return self._expected[key]

    def _answering(self, probe: object) -> LoopModel | None:
        models = self.circuit.models if is_battery(probe) else self._models
        return next((model for model in models if model.displays(probe)), None)  # type: ignore[arg-type]


def _bound(value: float | None) -> float | None:
    return value if value is not None and isfinite(value) and abs(value) < _ENDLESS else None
