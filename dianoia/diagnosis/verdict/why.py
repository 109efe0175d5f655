"""Why a reading is proposed: what each of the leading suspects would make the instrument show."""

from dataclasses import dataclass

import numpy as np

from dianoia.case.measures import Probe
from dianoia.circuit.network import Array
from dianoia.diagnosis.catalogue.candidates import Candidate
from dianoia.diagnosis.decision.assessment import Assessment
from dianoia.diagnosis.decision.decide import Standing
from dianoia.diagnosis.faults.elsewhere import counterpart
from dianoia.diagnosis.faults.partition import Partition
from dianoia.diagnosis.faults.space import JointSpace
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.verdict.vocabulary import PARTS
from dianoia.quantities.show import say_range, show
from dianoia.readings.display import Categorical, Numeric
from dianoia.readings.model import Hypothesis, LoopModel
from dianoia.readings.moving import MovingValue
from dianoia.readings.outcomes import Display
from dianoia.readings.scale import error_units

#: Suspects that are weighed, down to this chance, and answers that are told.
_MOST, _LEAST, _TOLD = 10, 0.01, 3
#: Two figures whose middles lie closer than this many error units look the same on a meter.
_ALIKE_STEPS = 5.0


@dataclass
class _Answer:
    """What would be shown, where on the scale of error units (None for words), and by which suspects."""

    text: str
    middle: float | None
    by: list[str]

    def like(self, other: "_Answer") -> bool:
        """Whether a technician would read the same."""
        if self.middle is None or other.middle is None:
            return self.text == other.text
        return abs(self.middle - other.middle) < _ALIKE_STEPS


def why_next(candidate: Candidate, seen: Assessment, standing: Standing, again: bool = False) -> str:
    """Why a reading is proposed: what it tells apart, with the values that would say so. again: it was taken before."""
    first = "Once more: the first reading fits nothing else that was measured. " if again else ""
    probe = candidate.probe
    if probe.acted is not None:
        return first + "Shows whether the fault is there now: back at once, later, or not at all."
    if probe.looked == "pins":
        return (
            "A terminal that does not grip a spare male pin opens the circuit, and a meter at the plug cannot see it."
        )
    if probe.looked is not None:
        return "A look takes a minute and may explain the whole fault."
    if standing.missing and standing.confidence > 0.9:
        first += f"Needed before the decision: {', '.join(PARTS[part].phrase for part in standing.missing)}. "
    return first + _told(_answers(candidate, seen))


def _told(answers: list[_Answer]) -> str:
    if not answers:
        return "The figure depends on what is not known of this vehicle: any clear figure settles it."
    if len(answers) == 1:
        return f"All that is left would show {answers[0].text}. Anything else points elsewhere."
    return "; ".join(f"{item.text} if {_named(item.by)}" for item in answers[:_TOLD]) + "."


def _named(by: list[str]) -> str:
    """The likeliest two or three; the rest counted."""
    if len(by) <= _TOLD:
        return " or ".join(by)
    return f"{' or '.join(by[: _TOLD - 1])}, or for {len(by) - _TOLD + 1} other reasons"


def _answers(candidate: Candidate, seen: Assessment) -> list[_Answer]:
    """The different answers of the leading suspects, the likeliest suspect's first."""
    answers: list[_Answer] = []
    for name, found in _shown(candidate.probe, seen).items():
        found.by.append(faults()[name].says if name else "nothing is wrong")
        alike = next((item for item in answers if item.like(found)), None)
        if alike:
            alike.by += found.by
        else:
            answers.append(found)
    return answers


def _shown(probe: Probe, seen: Assessment) -> dict[str, _Answer]:
    """What the instrument would most likely show under each leading suspect; none where that is open."""
    model = next((model for model in seen.belief.models.values() if model.healthy(probe)), None)
    if model is None:
        return {}
    meets = {
        name: _met(name, model, seen.belief.space, probe) for name in _leading(seen.engine.partition, seen.posterior)
    }
    known = {name: hypothesis for name, hypothesis in meets.items() if hypothesis in model.hypotheses}
    if not known:
        return {}
    answering = model.answering(probe, [*dict.fromkeys(known.values())])
    display = next(iter((answering.displays(probe) or {}).values()), None)
    if display is None:
        return {}
    shape = (len(answering.hypotheses), model.draw_weight.size)
    rows = np.array([model.hypotheses.index(hypothesis) for hypothesis in known.values()])
    found = {}
    for (name, hypothesis), draws in zip(known.items(), seen.belief.foreseen(model.name, rows), strict=True):
        found[name] = _would_show(display, shape, answering.hypotheses.index(hypothesis), draws)
    return {name: answer for name, answer in found.items() if answer is not None}


def _met(name: str, model: LoopModel, space: JointSpace, probe: Probe) -> Hypothesis:
    """What a reading in a loop meets where a fault is there, "" for none: a fault of another loop leaves this one sound."""
    row = space.row_of[frozenset((name,) if name else ())]
    return counterpart(model.hypotheses[space.rows[model.name][row]], probe)


def _leading(partition: Partition, posterior: Array) -> list[str]:
    chance = {name: float(posterior[rows].sum()) for name, rows in partition.has_fault.items()}
    none = float(posterior[partition.set_of == partition.sets.index(frozenset())].sum())
    best = sorted(chance, key=lambda name: -chance[name])[:_MOST]
    listed = [name for name in best if chance[name] > _LEAST]
    return [*listed, ""] if none > 0.1 else listed


def _would_show(display: Display, shape: tuple[int, int], row: int, draws: Array) -> _Answer | None:
    """What the instrument would most likely show under a hypothesis; None where that is open.

    shape: of the display, (hypotheses, draws); draws: the chance of each under the row's hypothesis.
    """
    if isinstance(display, Categorical):
        chance = {
            word: float((np.broadcast_to(values, shape)[row] * draws).sum()) for word, values in display.chance.items()
        }
        likely = [word for word, share in sorted(chance.items(), key=lambda item: -item[1]) if share > 0.3]
        return _Answer(" or ".join(likely[:2]), None, []) if likely else None
    if isinstance(display, MovingValue):
        return _span(display, shape, row, draws)
    return _figure(np.broadcast_to(display.shown, shape)[row], draws, display)


def _span(display: MovingValue, shape: tuple[int, int], row: int, weight: Array) -> _Answer | None:
    """What a signal would run through; where it stands still, what it would stand at."""
    ends = [_figure(np.broadcast_to(end.shown, shape)[row], weight, end) for end in (display.low, display.high)]
    low, high = ends
    if low is None or high is None or low.middle is None or high.middle is None:
        return None
    if high.middle - low.middle < _ALIKE_STEPS:
        return _figure(np.broadcast_to(display.shown, shape)[row], weight, display.low)
    one, other = (float(np.nanmedian(np.broadcast_to(end.shown, shape)[row])) for end in (display.low, display.high))
    return _Answer(f"about {say_range(one, other, display.kind)}, moving", (low.middle + high.middle) / 2.0, [])


def _figure(shown: Array, weight: Array, display: Numeric) -> _Answer | None:
    present = ~np.isnan(shown)
    if not present.any():
        return None
    values, weights = shown[present], weight[present]
    order = np.argsort(values)
    cumulated = np.cumsum(weights[order]) / weights.sum()
    ranked = values[order]
    low, high = (float(ranked[min(int(np.searchsorted(cumulated, q)), values.size - 1)]) for q in (0.15, 0.85))
    if display.kind == "voltage" and high - low > 5:
        return None
    placed = error_units(np.array([low, high]), display.kind)
    return _Answer(_text(low, high, display), float(placed.mean()), [])


def _text(low: float, high: float, display: Numeric) -> str:
    if display.kind == "resistance" and low > 4e6:
        return "OL"
    if display.kind == "voltage" and abs(low) < 0.05 and abs(high) < 0.05:
        return "about 0 V"
    if display.kind == "resistance" and high > 50 * max(low, 0.1):
        return f"{show(low, 'resistance')} or far more"
    return say_range(low, high, display.kind)


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]
