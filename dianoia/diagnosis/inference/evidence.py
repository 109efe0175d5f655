"""The ledger's readings taken into belief one after another, and what each of them did."""

from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass, field, replace
from math import isinf

import numpy as np
from numpy.typing import NDArray

from dianoia.case.measures import Probe
from dianoia.case.observed import Observed
from dianoia.case.types import MOST_READINGS
from dianoia.circuit.network import Array
from dianoia.diagnosis.faults.elsewhere import of_another_bank, rows_met, rows_met_jointly, speaks, without_one_bank
from dianoia.diagnosis.faults.moved import HOLDS, come_and_gone
from dianoia.diagnosis.faults.observations import log_factor, observation, repaired
from dianoia.diagnosis.faults.space import JointSpace
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.inference.belief import Belief
from dianoia.diagnosis.inference.differences import comparable, fit_of_difference
from dianoia.quantities.types import Kind, Quantity
from dianoia.readings.circuit_model import having
from dianoia.readings.display import ENOUGH, GROSS_ERROR, GROSS_ERROR_TWICE
from dianoia.readings.fit import agree, fit
from dianoia.readings.folded import Folded
from dianoia.readings.model import LoopModel, ReadingLikelihood
from dianoia.scheduling import checkpoint

#: Share of a reading's likelihood taken from the mean over all draws of its kind. Of some tens of draws none may fit every reading of
#: a long ledger at once, and that must not speak against the hypothesis. Of many draws (``ENOUGH``) some always do.
MIXTURE = 0.15
#: Repairs that mend what was found and leave the rest as it was; a fault is what was mended from this chance on.
PIECEMEAL = frozenset(("repair-wiring", "repair-exhaust", "repair-mixture", "repair-dosing"))
LIKELY_MENDED = 0.2
#: Faults under which any value may be shown of the gas, and the scan values that are.
NONSENSE = ("cell-nonsense", "probe-nonsense")
_BY_THE_CELL = frozenset(("sensor_voltage", "cell_current", "lambda", "nox", "o2"))
#: A heater that draws more than this on average gets hot, in amperes.
DRAWS_A = 0.06
#: Hypotheses below this chance do not matter to whether a reading is a gross error.
_BELIEVED = 1e-3


@dataclass(frozen=True)
class Evidence:
    """One reading taken in."""

    place: int
    """In the ledger."""
    reading: Observed
    loop: str
    """The loop it spoke to, empty for looking and acting."""
    odds: Array
    """(joint,) its log-likelihood for each joint hypothesis, on its own, before any other reading."""
    weighed: ReadingLikelihood | None = None
    """Its likelihood for its loop's hypotheses and draws; None for looking and acting."""
    repaired: frozenset[str] = frozenset()
    """Faults an act took away."""
    also: Mapping[str, Array] = field(default_factory=dict)
    """Loop -> (draws,) a log-factor that follows for another loop."""


def take_in(belief: Belief, readings: Sequence[Observed]) -> list[Evidence]:
    """Update ``belief`` with every reading that counts, in order; struck ones keep their place and say nothing."""
    taken: list[Evidence] = []
    told_hot = False
    gross_error, told_before, moved = (
        gross_error_chances(readings),
        repeats_of_nothing(readings),
        come_and_gone(readings),
    )
    for place, reading in enumerate(readings):
        checkpoint()
        other = comparable(place, readings)
        item = weigh(belief, place, reading, gross_error[place], other, moved[place]) if reading.counts else None
        if item is not None and place in told_before:
            item = replace(item, odds=np.zeros_like(item.odds), weighed=None)
        if item is not None:
            item = replace(item, repaired=mended(belief, item)) if item.repaired else item
            if shows_heat(item.reading) and not told_hot:
                item, told_hot = replace(item, also=_heated(belief)), True
            apply(belief, item)
            taken.append(item)
            told_hot = told_hot and not item.repaired
    return taken


def shows_heat(reading: Observed) -> bool:
    """Whether this sensor's heater is seen to draw current while the engine runs."""
    probe = reading.probe
    return probe.of_heater_current and probe.of is None and probe.key == "running" and (reading.number or 0.0) > DRAWS_A


def _heated(belief: Belief) -> dict[str, Array]:
    """What every loop makes of that, by its draws."""
    said = {name: model.when_heated() for name, model in belief.models.items()}
    return {name: factor for name, factor in said.items() if factor is not None}


def mended(belief: Belief, item: Evidence) -> frozenset[str]:
    """What a repair took away: what it was said to mend, else what was found; a part that is replaced takes all its faults along.

    A mended wire is whole in all ways, and no other wire is for it.
    """
    probe = item.reading.probe
    if probe.acted not in PIECEMEAL:
        return item.repaired
    if item.reading.of_fault in item.repaired:
        return _same_site({item.reading.of_fault}, item.repaired)
    posterior, names = belief.posterior(), belief.space.incidence[0]
    chance = dict(zip(names, posterior @ belief.space.incidence[1], strict=True))
    found = {name for name in item.repaired if chance[name] >= LIKELY_MENDED}
    return _same_site(found, item.repaired) if found else item.repaired


def _same_site(found: Set[str], within: frozenset[str]) -> frozenset[str]:
    sites = {faults()[name].site for name in found}
    return frozenset(name for name in within if faults()[name].site in sites)


#: Share of the gross errors that a second reading with the same leads, at the same pins, repeats: a broken lead, a missed pin.
SHARED = 0.7
#: What such an error shows: nothing. As far from nothing, in the base unit, a display may be.
_NOTHING: Mapping[Kind, float] = {"voltage": 0.1, "current": 0.02}


def gross_error_chances(readings: Sequence[Observed]) -> list[float]:
    """Chance of each reading to be a gross error: little where the same was read again and came out alike.

    Where both show nothing, and the leads were not shorted nor other tips used between, the second shares the error of the first.
    """
    chances = [GROSS_ERROR] * len(readings)
    for places in _repeated(readings).values():
        for place in places:
            others = (readings[other] for other in places if other != place)
            if any(agree(readings[place], other) for other in others):
                shared = _shows_nothing(readings[place]) and not _is_checked(readings, places)
                chances[place] = SHARED * GROSS_ERROR if shared else GROSS_ERROR_TWICE
    return chances


def repeats_of_nothing(readings: Sequence[Observed]) -> frozenset[int]:
    """Places of readings that showed nothing where the same had shown nothing before: with one error between them they tell it once."""
    found: list[int] = []
    for places in _repeated(readings).values():
        empty = [place for place in places if _shows_nothing(readings[place])]
        if not _is_checked(readings, places):
            found += empty[1:]
    return frozenset(found)


def _repeated(readings: Sequence[Observed]) -> Mapping[object, list[int]]:
    """What was measured, since the act before it -> the places where it was read."""
    alike: dict[object, list[int]] = {}
    acts = 0
    for place, item in enumerate(readings):
        acts += item.counts and item.probe.acted is not None
        if item.counts and not item.probe.by_hand:
            alike.setdefault((acts, item.probe.shows), []).append(place)
    return alike


def _is_checked(readings: Sequence[Observed], places: Sequence[int]) -> bool:
    return any(readings[place].checked for place in places)


def _shows_nothing(item: Observed) -> bool:
    """Whether a display is what a lead that touches nothing would show."""
    if not item.probe.points:
        return False
    if isinstance(item.value, Quantity):
        ohms = item.value.kind == "resistance" and isinf(item.value.value)
        return ohms or abs(item.value.value) <= _NOTHING.get(item.value.kind, -1.0)
    return item.value == "off"


def weigh(
    belief: Belief, place: int, reading: Observed, gross_error: float = GROSS_ERROR, other: Observed | None = None,
    moved: frozenset[str] = frozenset(),
) -> Evidence | None:  # fmt: skip
    """What a reading says, without taking it in; None where it says nothing about any loop.

    gross_error: chance that it is a gross error; other: an earlier reading that its difference from is told as well; moved: faults of
    contacts that come and go.
    """
    probe = reading.probe
    if probe.by_hand or (probe.live_value == "heater_monitor"):
        return _looked_at(belief.space, place, reading, probe)
    if not speaks(reading.probe.of):
        return None
    for model in belief.models.values():
        weighed = _weighed(model, reading, gross_error, other, moved)
        if weighed is not None:
            alone = weighed.alone[belief.space.rows[model.name]]
            return Evidence(place, reading, model.name, alone, weighed)
    return None


def _looked_at(space: JointSpace, place: int, reading: Observed, probe: Probe) -> Evidence | None:
    seen = observation(probe, str(reading.value))
    known = frozenset(name for faults in space.faults for name in faults)
    gone = repaired(probe.acted, known) if probe.acted is not None else frozenset()
    if seen is None and not gone:
        return None
    odds = log_factor(seen, probe, space) if seen else np.zeros(len(space.faults))
    if probe.of is not None:
        odds = odds[rows_met_jointly(space, probe)]
    return Evidence(place, reading, "", odds, repaired=gone)


def _weighed(
    model: LoopModel, reading: Observed, gross_error: float, other: Observed | None, moved: frozenset[str]
) -> ReadingLikelihood | None:
    """A reading's likelihood; kept, as a ledger is weighed again with each line."""
    beside = (other.probe.shows, other.figures) if other else None
    key = (reading.probe.shows, reading.figures, reading.moves, gross_error, beside, moved)
    if key not in model.weighed:
        if len(model.weighed) > MOST_READINGS:
            model.weighed.clear()
        model.weighed[key] = _fit(model, reading, gross_error, other, moved)
    return model.weighed[key]


def _alone(model: LoopModel, found: Array) -> Array:
    weights = np.log(np.maximum(model.draws_before, 1e-12)) + found
    top = weights.max(axis=1)
    alone: Array = top + np.log(np.exp(weights - top[:, None]).sum(axis=1))
    return alone


def apply(belief: Belief, item: Evidence) -> None:
    """Take weighed evidence into belief."""
    if item.weighed is not None:
        belief.update(item.loop, item.weighed.fit)
    else:
        belief.favour(item.odds)
    for loop, factor in item.also.items():
        belief.update(loop, factor[None])
    if item.repaired:
        belief.repair(item.repaired)


def _fit(
    model: LoopModel, reading: Observed, gross_error: float, other: Observed | None, moved: frozenset[str]
) -> ReadingLikelihood | None:
    displays = model.displays(reading.probe)
    if not displays:
        return None
    found = fit(reading, displays, gross_error)
    if found is None:
        return None
    shape = (len(model.hypotheses), len(model.draw_weight))
    likelihood = np.exp(np.broadcast_to(found.all, shape))
    step = fit_of_difference(model, reading, other) if other else None
    if step is not None:
        likelihood = likelihood * (1.0 - 2.0 * gross_error) * step + 2.0 * gross_error * likelihood
    if shape[1] < ENOUGH:
        likelihood = (1.0 - MIXTURE) * likelihood + MIXTURE * _average_likelihood(model, likelihood)
    weighed: Array = np.log(likelihood)
    log_gross_error = np.broadcast_to(np.asarray(found.log_gross_error, dtype=np.float32), shape)
    if _tells_of_cell(reading.probe):
        nonsense = having(model.hypotheses, NONSENSE)
        weighed = np.where(nonsense, log_gross_error - np.log(gross_error), weighed)
    if reading.probe.of is not None:
        met = rows_met(model.hypotheses, reading.probe)
        weighed, log_gross_error = _of_either_bank(model, reading.probe, weighed, met), log_gross_error[met]
    if moved:
        weighed = _either_way(model, weighed, moved)
    return ReadingLikelihood(
        _alone(model, weighed), Folded(weighed.astype(np.float32)), Folded(log_gross_error.astype(np.float16))
    )


def _of_either_bank(model: LoopModel, probe: Probe, weighed: Array, met: NDArray[np.int64]) -> Array:
    """What a reading of another sensor meets, (hypotheses, draws): of another bank, in some draws none of what is of one bank."""
    felt = weighed[met]
    if not of_another_bank(probe, model.position):
        return felt
    share = max(
        (faults()[name].one_bank for names in model.hypotheses for name in names if name in faults()), default=0.0
    )
    if not share:
        return felt
    index = {frozenset(names): row for row, names in enumerate(model.hypotheses)}
    alone = [index.get(frozenset(without_one_bank(model.hypotheses[row])), row) for row in met]
    found: Array = np.where(model.each_draw("one bank") < share, weighed[alone], felt)
    return found


def _tells_of_cell(probe: Probe) -> bool:
    """Whether a reading shows what the cell makes of the gas."""
    return probe.scanned in _BY_THE_CELL or (probe.reads_volts and probe.may_move and probe.key == "running")


def _either_way(model: LoopModel, weighed: Array, moved: frozenset[str]) -> Array:
    """Log-likelihood (hypotheses, draws) where a contact that comes and goes may have held while it was read."""
    rows = {frozenset(names): row for row, names in enumerate(model.hypotheses)}
    without = np.array([rows.get(frozenset(names) - moved, row) for row, names in enumerate(model.hypotheses)])
    other = without != np.arange(len(without))
    found = weighed.copy()
    found[other] = np.logaddexp(weighed[other] + np.log(1.0 - HOLDS), weighed[without[other]] + np.log(HOLDS))
    return found


def _average_likelihood(model: LoopModel, likelihood: Array) -> Array:
    """The mean likelihood of all draws of one kind, given to each of them; (hypotheses, draws)."""
    kinds = model.kinds
    of_kind = (kinds[:, None] == np.arange(kinds.max() + 1)).astype(float)
    before = np.maximum(model.draws_before, 1e-12)
    mean = ((likelihood * before) @ of_kind) / np.maximum(before @ of_kind, 1e-300)
    spread: Array = mean[:, kinds]
    return spread


def gross_errors_of(belief: Belief, taken: Sequence[Evidence]) -> Mapping[int, float]:
    """Chance, for each reading of an instrument, that it is a gross error: each held against what was the case then, before the next
    repair. belief: before any reading; it is updated.
    """
    found: dict[int, float] = {}
    since: list[Evidence] = []
    for item in taken:
        if item.repaired:
            found.update(gross_errors(belief, since, belief.posterior()))
            since = []
        apply(belief, item)
        since.append(item)
    return {**found, **gross_errors(belief, since, belief.posterior())}


def gross_errors(belief: Belief, taken: Sequence[Evidence], posterior: Array) -> Mapping[int, float]:
    """The same of readings that nothing was mended between."""
    believed = {loop: _believed(belief, loop, posterior) for loop in belief.models}
    found = {}
    for item in taken:
        if item.weighed is not None:
            rows, weight = believed[item.loop]
            fit, log_gross_error = item.weighed.of(rows)
            chance = np.minimum(np.exp(log_gross_error - fit), 1.0)
            found[item.place] = float((weight * chance).sum())
    return found


def _believed(belief: Belief, loop: str, posterior: Array) -> tuple[NDArray[np.int64], Array]:
    """A loop's hypotheses that are believed in, and the chance of each with each draw, (rows, draws)."""
    own = np.bincount(belief.space.rows[loop], weights=posterior, minlength=len(belief.models[loop].hypotheses))
    rows = np.flatnonzero(own > _BELIEVED)
    return rows, own[rows, None] * belief.draws(loop)[rows]
