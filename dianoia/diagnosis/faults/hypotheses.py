"""Which faults, alone and together, could be behind the codes of a job, and how likely each is before any reading.

Within a loop all single faults and all pairs are listed. A heater that does not work leaves the cell cold, so a signal
code may have its cause in the heater loop. Joint hypotheses say for each loop which of its own hypotheses they consist of.
"""

from collections.abc import Iterable, Mapping, Sequence
from functools import cache
from itertools import combinations

import numpy as np

from dianoia.circuit.known import KnownValues
from dianoia.circuit.network import Array
from dianoia.circuit.signal import BYPASSED, COLD_HEATER, WEAK_HEATER
from dianoia.diagnosis.faults.space import JointSpace
from dianoia.diagnosis.faults.subject import Subject
from dianoia.diagnosis.faults.tables import document, faults, influences, of_one_cause, shared_codes
from dianoia.diagnosis.faults.types import FaultRow
from dianoia.families.tables import FamilyRow
from dianoia.readings.model import Traits

Hypothesis = tuple[str, ...]


def loop_weights(loop: str, subject: Subject) -> dict[str, float]:
    """Fault id -> weight, for the faults that a loop of this sensor can have."""
    return {row.id: _weight(row, loop, subject) for row in faults().values() if _possible(row, loop, subject.known)}


def listed(weights: Mapping[str, float]) -> tuple[list[Hypothesis], Array]:
    """No fault, singles, pairs of different sites; and their prior, summing to 1."""
    table = faults()
    pairs = [pair for pair in combinations(weights, 2) if table[pair[0]].site != table[pair[1]].site]
    total = sum(weights.values())
    factor = document().pair_factor
    prior = [
        document().no_fault_weight,
        *weights.values(),
        *(factor * of_one_cause(a, b) * weights[a] * weights[b] / total for a, b in pairs),
    ]
    share = np.array(prior)
    return [(), *((name,) for name in weights), *pairs], share / share.sum()


def one_loop(loop: str, subject: Subject) -> JointSpace:
    """The joint space where only one loop is in play."""
    hypotheses, prior = listed(loop_weights(loop, subject))
    return JointSpace(hypotheses, {loop: np.arange(len(hypotheses))}, prior, subject.known.position)


def heater_and_signal(subject: Subject) -> tuple[JointSpace, list[Hypothesis], list[Hypothesis]]:
    """The joint space of both loops, and the heater's and the signal's own hypotheses."""
    heater, signal = (loop_weights(loop, subject) for loop in ("heater", "signal"))
    own, other = (heater, signal) if subject.heater_coded else (signal, heater)
    own_listed, own_prior = listed(own)
    side = _side_share(subject)
    total = sum(other.values())
    rows: list[tuple[Hypothesis, float]] = list(zip(own_listed, own_prior, strict=True))
    rows += [((name,), side * weight / total) for name, weight in other.items()]
    other_listed, other_prior = listed(other)
    rows += [
        (names, side * float(chance))
        for names, chance in zip(other_listed, other_prior, strict=True)
        if len(names) == 2
    ]
    rows += [
        ((first[0], name), document().coincidence * of_one_cause(first[0], name) * float(chance) * weight / total)
        for first, chance in zip(own_listed, own_prior, strict=True)
        if len(first) == 1
        for name, weight in other.items()
    ]
    return _joined(rows, heater, signal, subject.known.position)


def _joined(
    rows: Sequence[tuple[Hypothesis, float]], heater: Mapping[str, float], signal: Mapping[str, float], position: int
) -> tuple[JointSpace, list[Hypothesis], list[Hypothesis]]:
    heater_rows: dict[Hypothesis, int] = {}
    signal_rows: dict[Hypothesis, int] = {}
    places: dict[str, list[int]] = {"heater": [], "signal": []}
    ordered = sorted(rows, key=lambda row: len(row[0]))
    for hypothesis, _ in ordered:
        in_heater = tuple(name for name in hypothesis if name in heater)
        in_signal = tuple(name for name in hypothesis if name in signal)
        cold = without_heat(in_heater)
        if len(in_heater) == 2:
            in_signal = ()
        places["heater"].append(heater_rows.setdefault(in_heater, len(heater_rows)))
        places["signal"].append(signal_rows.setdefault(cold + in_signal, len(signal_rows)))
    prior = np.array([chance for _, chance in ordered])
    index = {loop: np.array(found) for loop, found in places.items()}
    space = JointSpace([hypothesis for hypothesis, _ in ordered], index, prior / prior.sum(), position)
    return space, list(heater_rows), list(signal_rows)


def _side_share(subject: Subject) -> float:
    """How likely a fault of the other loop alone is behind the code, against all of the code's own loop."""
    table = document().other_loop
    if subject.heater_coded:
        return table["heater-code"]
    failure = subject.primary.failure if subject.primary else None
    return table.get(failure or "", table["otherwise"])


def _possible(row: FaultRow, loop: str, known: KnownValues) -> bool:
    if not concerns(row, loop, known.family):
        return False
    if row.id == "bias-missing" and known.bias_v == 0 and known.family.kind.may_be_fed:
        return False
    if row.only_where is not None and known.heater_switch not in (None, row.only_where):
        return False
    return row.only_where is not None or not row.positions or known.position in row.positions


def concerns(row: FaultRow, loop: str, family: FamilyRow) -> bool:
    """Whether a sensor of this family can have a fault, wherever it sits and however it is wired."""
    if loop not in row.loop.split() or (row.heated and "heater_supply" not in family.terminals):
        return False
    if row.only_where is not None:
        return True
    terminal = row.id.partition(":")[2]
    if terminal and terminal not in family.terminals:
        return False
    by_shell = family.kind.shell_returns and "signal_return" not in family.terminals
    return not row.cells or ("shell" in row.cells and by_shell) or family.cell in row.cells


def _weight(row: FaultRow, loop: str, subject: Subject) -> float:
    weight = row.weight
    own = [
        code
        for code in subject.codes
        if code.failure and (loop == "nox" or (code.circuit == "heater") == (loop == "heater"))
    ]
    failures = {code.failure for code in own if code.failure}
    for failure in failures:
        weight *= row.by_code.get(failure, 1.0) ** (1.0 / len(failures))
    for code in own:
        weight *= row.by_code.get(f"circuit:{code.circuit}", 1.0) if loop == "nox" else 1.0
        if code.circuit in row.named_by:
            weight *= document().named_factor
    for influence in influences():
        if influence.when in subject.told and influence.applies_to(row.id):
            weight *= influence.times
    heaters = {sensor for code in subject.codes if code.circuit == "heater" for sensor in code.sensors}
    if loop == "heater" and len(heaters) > 1 and shared_codes().applies_to(row.id):
        weight *= shared_codes().times
    return weight


def without_heat(faults_of_heater: Iterable[str]) -> Hypothesis:
    """The mark of what some faults of the heater loop do to the cell's heat; none where it stays."""
    chilling = [faults()[name] for name in faults_of_heater if not faults()[name].heats]
    if not chilling:
        return ()
    mark = WEAK_HEATER if all(row.resistive for row in chilling) else COLD_HEATER
    return (mark + BYPASSED,) if all(row.bypassed for row in chilling) else (mark,)


@cache
def traits() -> Mapping[str, Traits]:
    """Fault id -> what the models of the loops have to know of it."""
    return {row.id: row.traits for row in faults().values()}
