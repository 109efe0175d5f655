"""The loops of a job's circuit: which there are, their models, and the parts of each."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache, partial
from typing import get_args

from dianoia.circuit.draws import DRAWS, MINOR_DRAWS, Draws, Sampling
from dianoia.circuit.known import Known
from dianoia.diagnosis.faults.hypotheses import concerns, heater_and_signal, one_loop, traits
from dianoia.diagnosis.faults.space import JointSpace
from dianoia.diagnosis.faults.subject import Subject
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Part
from dianoia.diagnosis.inference.learn import Learnt
from dianoia.families.tables import FamilyRow, families
from dianoia.families.types import Family
from dianoia.readings.circuit_model import Asked
from dianoia.readings.heater_model import HeaterModel
from dianoia.readings.model import Hypothesis, LoopModel
from dianoia.readings.nox_model import NoxModel
from dianoia.readings.signal_model import SignalModel
from dianoia.tables import require

#: Draws by loop: of a heater's alone, of a signal's or a NOx sensor's alone, of either where both are in play.
_ALONE = {"heater": DRAWS, "signal": 104, "nox": 104}
_TOGETHER = {"heater": 104, "signal": 88}
#: So many times more once the draws are taken by what was read: a ledger that wore the first ones out leaves few of any.
_AGAIN = 2
#: Of the draws as they are first taken.
SEED = 7
#: Parts of the heater loop, in the order they are shown; those of the others are the cell's.
_OF_HEATER: tuple[Part, ...] = ("supply", "control", "driver", "heater")


def modelled(subject: Subject, learnt: Learnt | None) -> tuple[JointSpace, tuple[LoopModel, ...]]:
    """The joint hypotheses of a subject, and the models of its loops.

    learnt: how to take the draws, None as wide as the unknown is.
    """
    family, taking = subject.known.family, _Taking(subject.known, learnt)
    if family.kind.unit:
        space = one_loop("nox", subject)
        return space, (taking.nox(space.faults, _ALONE["nox"]),)
    if not family.has_heater_terminals:
        space = one_loop("signal", subject)
        return space, (taking.signal(space.faults, _ALONE["signal"]),)
    if not subject.with_signal:
        space = one_loop("heater", subject)
        return space, (taking.heater(space.faults, _ALONE["heater"]),)
    space, heater, signal = heater_and_signal(subject)
    return space, (taking.signal(signal, _TOGETHER["signal"]), taking.heater(heater, _TOGETHER["heater"]))


def parts_of(loop: str, family: FamilyRow) -> tuple[Part, ...]:
    """The parts of a loop that can be proven, in the order they are shown. Raises BrokenTable for any family with a suspect without a part."""
    return _OF_HEATER if loop == "heater" else _of_cells()[family.id]


@cache
def _of_cells() -> Mapping[Family, tuple[Part, ...]]:
    return {family.id: parts_checked(family) for family in families().values()}


def parts_checked(family: FamilyRow) -> tuple[Part, ...]:
    """The parts of a family's cell, and its own, before the cell itself. Raises BrokenTable where a suspect has none."""
    *wires, cell = family.kind.parts
    listed = (*wires, *(part for part in family.parts if part not in wires), cell)
    found = tuple(part for name in listed for part in get_args(Part) if part == name)
    require(len(found) == len(listed), "families.json", f"{family.id}.parts", "parts of the circuit", listed)
    loop = "nox" if family.kind.unit else "signal"
    for row in faults().values():
        proven = row.part in found or not concerns(row, loop, family)
        require(proven, "families.json", f"{family.id}.parts", f"{row.part}, the part of {row.id}", listed)
    return found


@dataclass(frozen=True)
class _Taking:
    """How a subject's draws are taken: by what was learnt, or, where nothing was, as wide as the unknown is."""

    known: Known
    learnt: Learnt | None

    def heater(self, hypotheses: Sequence[Hypothesis], draws: int) -> LoopModel:
        count = self._more(draws)
        sampling = self._sampling("heater", count, (self.learnt or Learnt({})).minor_draws(count))
        return HeaterModel(self.known, Asked(hypotheses, traits()), sampling)

    def signal(self, hypotheses: Sequence[Hypothesis], draws: int) -> LoopModel:
        return SignalModel(self.known, Asked(hypotheses, traits()), self._sampling("signal", self._more(draws)))

    def nox(self, hypotheses: Sequence[Hypothesis], draws: int) -> LoopModel:
        return NoxModel(self.known, Asked(hypotheses, traits()), self._sampling("nox", self._more(draws)))

    def _more(self, draws: int) -> int:
        return (_AGAIN + self.learnt.times - 1 if self.learnt else 1) * draws

    def _sampling(self, loop: str, count: int, minor: int = MINOR_DRAWS) -> Sampling:
        density = self.learnt.density.get(loop) if self.learnt else None
        seed = SEED + (self.learnt.times - 1 if self.learnt else 0)
        return Sampling(count, minor, seed=seed, make=partial(Draws, density=density))
