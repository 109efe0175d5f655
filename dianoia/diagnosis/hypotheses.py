"""Which faults, alone and in pairs, could be behind the codes of a job, and how likely each is before any reading."""

from collections.abc import Mapping, Sequence
from itertools import combinations

import numpy as np

from dianoia.case.types import Case
from dianoia.circuit.network import Array
from dianoia.codes.types import Decoded
from dianoia.diagnosis.tables import document, faults, influences, shared_codes
from dianoia.diagnosis.types import FaultRow

Hypothesis = tuple[str, ...]


def hypotheses(loop: str, case: Case, codes: Sequence[Decoded]) -> tuple[list[Hypothesis], Array]:
    """The hypotheses of a loop, no fault first, then singles, then pairs; and their prior, summing to 1."""
    weight = {row.id: _weight(row, case, codes) for row in faults().values() if _possible(row, loop, case)}
    table = faults()
    pairs = [pair for pair in combinations(weight, 2) if table[pair[0]].site != table[pair[1]].site]
    listed: list[Hypothesis] = [(), *((name,) for name in weight), *pairs]
    total = sum(weight.values())
    pair_factor = float(document()["pair_factor"])
    prior = [
        float(document()["no_fault_weight"]),
        *weight.values(),
        *(pair_factor * weight[a] * weight[b] / total * 0.14 for a, b in pairs),
    ]
    share = np.array(prior)
    return listed, share / share.sum()


def _possible(row: FaultRow, loop: str, case: Case) -> bool:
    if row.loop != loop:
        return False
    switch = case.sensor.heater_switch if case.sensor else None
    if row.id == "wire-short-battery:heater_supply":
        return switch != "low-side"
    if row.id in ("wire-short-ground:heater_control", "wire-short-battery:heater_control", "module-ground-high"):
        return switch != "high-side"
    return True


def _weight(row: FaultRow, case: Case, codes: Sequence[Decoded]) -> float:
    weight = row.weight
    failures = {code.failure for code in codes if code.circuit == row.loop and code.failure}
    for failure in failures:
        weight *= row.by_code.get(failure, 1.0) ** (1.0 / len(failures))
    for influence in influences():
        if influence.when in case.history and influence.applies_to(row.id):
            weight *= influence.times
    heaters = {sensor for code in codes if code.circuit == "heater" for sensor in code.sensors}
    if len(heaters) > 1 and shared_codes().applies_to(row.id):
        weight *= shared_codes().times
    return weight


def latch_chances() -> Mapping[str, float]:
    """Fault id -> chance that the module has shut the heater off over it."""
    return {row.id: row.latch for row in faults().values()}
