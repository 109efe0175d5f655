"""The loops of a job's circuit: which there are, their models, and the parts of each."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import partial

from dianoia.circuit.draws import DRAWS, MINOR_DRAWS, Draws, Sampling
from dianoia.circuit.known import Known
from dianoia.diagnosis.faults.hypotheses import heater_and_signal, one_loop, traits
from dianoia.diagnosis.faults.space import JointSpace
from dianoia.diagnosis.faults.subject import Subject
from dianoia.diagnosis.faults.types import Part
from dianoia.diagnosis.inference.learn import Learnt
from dianoia.families.tables import FamilyRow
from dianoia.readings.circuit_model import Asked
from dianoia.readings.heater_model import HeaterModel
from dianoia.readings.model import Hypothesis, LoopModel
from dianoia.readings.nox_model import NoxModel
from dianoia.readings.signal_model import SignalModel

#: Draws by loop: of a heater's alone, of a signal's or a NOx sensor's alone, of either where both are in play.
_ALONE = {"heater": DRAWS, "signal": 104, "nox": 104}
_TOGETHER = {"heater": 104, "signal": 88}
#: So many times more once the draws are taken by what was read: a ledger that wore the first ones out leaves few of any.
_AGAIN = 2
#: Of the draws as they are first taken.
SEED = 7
#: Parts of a loop, in the order they are shown.
_PARTS: Mapping[str, tuple[Part, ...]] = {
    "heater": ("supply", "control", "driver", "heater"),
    "nox": ("supply", "ground", "bus", "heater", "cell"),
}  # fmt: skip
#: The same of the signal loop, by kind of cell.
_SIGNAL_PARTS: Mapping[str, tuple[Part, ...]] = {
    "zirconia": ("bias", "signal", "return", "cell"), "titania": ("bias", "signal", "return", "cell"),
    "limiting-current": ("bias", "signal", "return", "cell"),
    "two-cell": ("bias", "reference", "return", "pump", "trim", "cell"),
}  # fmt: skip


def modelled(subject: Subject, learnt: Learnt | None) -> tuple[JointSpace, tuple[LoopModel, ...]]:
    """The joint hypotheses of a subject, and the models of its loops.

    learnt: how to take the draws, None as wide as the unknown is.
    """
    family, taking = subject.known.family, _Taking(subject.known, learnt)
    if family.cell == "nox":
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
    """The parts of a loop, in the order they are shown."""
    return _SIGNAL_PARTS[family.cell] if loop == "signal" else _PARTS[loop]


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
