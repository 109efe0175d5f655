"""The loops of a job's circuit: which there are, their models, and the parts of each."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache, lru_cache, partial
from typing import get_args

import numpy as np

from dianoia.circuit.draws import DRAWS, MINOR_DRAWS, Draws, Sampling
from dianoia.circuit.known import KnownValues
from dianoia.circuit.types import Choice
from dianoia.diagnosis.faults.hypotheses import concerns, heater_and_signal, one_loop, traits
from dianoia.diagnosis.faults.space import JointSpace
from dianoia.diagnosis.faults.subject import Subject
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Part
from dianoia.diagnosis.inference.learn import LearnedProposal
from dianoia.families.tables import FamilyRow, families
from dianoia.families.types import Family
from dianoia.readings.circuit_model import ModelRequest
from dianoia.readings.heater_model import HeaterModel
from dianoia.readings.model import Hypothesis, LoopModel
from dianoia.readings.nox_model import NoxModel
from dianoia.readings.signal_model import SignalModel
from dianoia.tables import require

#: Draws of a heater loop alone, of a signal or NOx loop alone, and of either where both are in play.
_ALONE = {"heater": DRAWS, "signal": 104, "nox": 104}
_TOGETHER = {"heater": 104, "signal": 88}
#: Seed of the draws that no reading has chosen.
SEED = 7
#: Parts of the heater loop, in the order they are shown; those of the others are the cell's.
_OF_HEATER: tuple[Part, ...] = ("supply", "control", "driver", "heater")


@dataclass(frozen=True)
class DrawSettings:
    """How draws are taken."""

    count: int | None = None
    """In each loop, None for the usual numbers."""
    learnt: LearnedProposal = field(default_factory=LearnedProposal)
    """Where, None as wide as the unknown is."""
    seed: int = SEED


def space_of(subject: Subject) -> JointSpace:
    """The joint hypotheses of a subject."""
    return _listed(subject)[0]


@dataclass(frozen=True)
class Subset:
    """Some of the joint hypotheses."""

    rows: Choice
    """Which of all (see ``JointSpace.restricted``)."""
    kept: Mapping[str, tuple[LoopModel, Choice]] = field(default_factory=dict)
    """Loop -> a model of it with draws already taken, and which of the loop's own hypotheses it knows."""


def modelled(
    subject: Subject, drawing: DrawSettings, subset: Subset | None = None
) -> tuple[JointSpace, tuple[LoopModel, ...], Mapping[str, Choice]]:
    """The joint hypotheses of a subject, the models of its loops, and which of each loop's own hypotheses they know.

    subset: the hypotheses that are wanted, None for all.
    """
    space, hypotheses = _listed(subject)
    own = {loop: np.arange(len(listed)) for loop, listed in hypotheses.items()}
    kept = subset.kept if subset else {}
    if subset is not None:
        space, own = space.restricted(subset.rows, {loop: rows for loop, (_, rows) in kept.items()})
    usual = _TOGETHER if len(hypotheses) > 1 else _ALONE
    models = (
        kept[loop][0]
        if loop in kept
        else _model(loop, subject.known, [listed[int(row)] for row in own[loop]], drawing, usual[loop])
        for loop, listed in hypotheses.items()
    )
    return space, tuple(models), own


@lru_cache(maxsize=128)
def _listed(subject: Subject) -> tuple[JointSpace, Mapping[str, Sequence[Hypothesis]]]:
    """The joint hypotheses, and each loop's own, in the order in which the loops are asked."""
    family = subject.known.family
    both = family.has_heater_terminals and subject.with_signal and not family.kind.unit
    if both:
        space, heater, signal = heater_and_signal(subject)
        return space, {"signal": signal, "heater": heater}
    loop = "nox" if family.kind.unit else "heater" if family.has_heater_terminals else "signal"
    space = one_loop(loop, subject)
    return space, {loop: space.faults}


def _model(
    loop: str, known: KnownValues, hypotheses: Sequence[Hypothesis], drawing: DrawSettings, usual: int
) -> LoopModel:
    count = drawing.count or usual
    minor = drawing.learnt.minor_draws(count) if loop == "heater" else MINOR_DRAWS
    make = partial(Draws, ways=drawing.learnt.ways.get(loop, ()))
    sampling, asked = Sampling(count, minor, drawing.seed, make), ModelRequest(hypotheses, traits())
    if loop == "heater":
        return HeaterModel(known, asked, sampling)
    return SignalModel(known, asked, sampling) if loop == "signal" else NoxModel(known, asked, sampling)


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
