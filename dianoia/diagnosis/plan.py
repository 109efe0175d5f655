"""The next reading: most information about the decision for the minutes it costs.

Every candidate's outcomes are binned under every hypothesis with the draws' present weights; its worth is the mutual
information between outcome and component set, plus that about each part the decision still needs proven, over the
minutes of the reading and of the change of set-up. The working style favours its own kind of reading; it never
changes what has to be proven.
"""

from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np

from dianoia.case.load import from_plain
from dianoia.case.points import AT_TERMINALS
from dianoia.case.types import Probe, Reading
from dianoia.circuit.network import Array
from dianoia.circuit.setting import setting_of
from dianoia.circuit.types import Choice
from dianoia.diagnosis.belief import Belief
from dianoia.diagnosis.components import Meaning
from dianoia.diagnosis.observations import chances
from dianoia.diagnosis.others import rows_met
from dianoia.diagnosis.proof import LOADED_PARTS, hidden_faults, under_load
from dianoia.families.tables import FamilyRow
from dianoia.readings.display import Display
from dianoia.tables import read_json

_FILE = Path(__file__).parent / "data" / "candidates.json"
#: How much a style favours its own readings.
STYLE_FAVOUR = 2.5
#: Weight of proving a part the decision needs, against telling the components apart.
PROOF_WEIGHT = 0.6
#: A part still to be proven is treated as at least this doubtful, or its proof would never be sought.
LEAST_DOUBT = 0.12
#: Bits from which a reading is said to settle a part, and how much settling a further one is worth: the look ahead
#: to the reading that it saves.
SETTLES, ALSO_SETTLES = 0.08, 2.0
#: A hypothesis of less weight than this in every question is left out of the sums.
NEGLIGIBLE = 2e-6
#: Bits below which a reading is not worth taking.
WORTHLESS = 0.002


@dataclass(frozen=True)
class Candidate:
    """A reading that may be proposed. minutes: for the reading itself; at: where the technician has to be."""

    id: str
    probe: Any
    minutes: float
    at: str
    styles: tuple[str, ...]
    tool: str | None
    cautions: tuple[str, ...]
    switch: str | None
    loops: tuple[str, ...]
    cells: tuple[str, ...] = ()
    brief: bool = False


@dataclass(frozen=True)
class Scored:
    """A candidate with its cost in minutes, set-up included, and its worth in bits."""

    candidate: Candidate
    minutes: float
    bits: float
    score: float


@cache
def _document() -> dict[str, Any]:
    return read_json(_FILE, "dianoia-candidates/1")


@cache
def candidates(
    positive: str = "signal", negative: str | None = "signal_return", twin: str = "B2S1"
) -> tuple[Candidate, ...]:
    """Every reading that may be proposed.

    positive and negative: the cell's terminals, negative None for the shell; twin: another sensor to compare with.
    """
    cautions: dict[str, str] = _document()["cautions"]
    terminals = {"harness.{negative}": f"harness.{negative}" if negative else "sensor.shell",
                 "sensor.{negative}": f"sensor.{negative}" if negative else "sensor.shell",
                 "module.{negative}": f"module.{negative}" if negative else "module.power_ground", "{twin}": twin}  # fmt: skip

    def placed(reading: dict[str, Any]) -> dict[str, Any]:
        return {
            name: terminals.get(value, value.replace("{positive}", positive)) if isinstance(value, str) else value
            for name, value in reading.items()
        }

    return tuple(
        Candidate(
            id=row["id"], probe=from_plain(Probe, placed(row["reading"]), f"candidates.{row['id']}"), minutes=row["minutes"],
            at=row["at"], styles=tuple(row["styles"]), tool=row.get("tool"),
            cautions=tuple(cautions[name] for name in row["cautions"]), switch=row.get("switch"),
            loops=tuple(row["loops"]), cells=tuple(row.get("cells", ())), brief=row.get("brief", False),
        )
        for row in _document()["candidates"]
    )  # fmt: skip


def usable(
    loops: Sequence[str],
    focus: Set[str],
    style: str,
    heater_switch: str,
    family: FamilyRow,
    terminals: tuple[str, str | None, str],
) -> list[Candidate]:
    """The candidates that the sensor has and the style's tools allow: all of the loops in focus, the brief ones of others."""
    without = ("scan", "scope", "clamp") if style == "basic-kit" else ()
    return [
        item for item in candidates(*terminals)
        if (focus & set(item.loops) or (item.brief and set(item.loops) & set(loops)))
        and (item.tool not in without or item.probe.measure == "act")
        and item.switch in (None, heater_switch)
        and (not item.cells or family.cell in item.cells)
        and _reachable(item.probe, family)
    ]  # fmt: skip


def _reachable(probe: Any, family: FamilyRow) -> bool:
    """Whether the family has the probe's points, and they are two."""
    points = [str(getattr(probe, name, "")) for name in ("red", "black")]
    named = [point.partition(".")[2] for point in points if point.partition(".")[0] in AT_TERMINALS]
    known = all(name in (*family.terminals, "shell", "power_ground", "power_feed") for name in named)
    return known and (points[0] != points[1] or not points[0])


def cost(candidate: Candidate, last: Reading | None) -> float:
    """Minutes for a candidate after the last reading, the change of set-up included."""
    places, changes = _document()["places"], _document()["changes"]
    if last is None:
        return float(candidate.minutes + places[candidate.at])
    before = setting_of(last, last.measure == "resistance")
    after = setting_of(candidate.probe, candidate.probe.measure == "resistance")
    total = candidate.minutes
    for name, minutes in changes.items():
        if getattr(before, name) != getattr(after, name) and not (name == "codes_cleared" and before.codes_cleared):
            total += minutes
    if place_of(last) != candidate.at:
        total += places[candidate.at]
    return float(total)


def place_of(probe: Any) -> str:
    """Where the technician stood for a reading."""
    points = " ".join(str(getattr(probe, name, "") or "") for name in ("red", "black", "at"))
    for word, place in (("module", "module"), ("harness", "plug"), ("sensor", "plug"), ("inline", "inline"),
                        ("fuse", "fusebox"), ("relay", "fusebox"), ("battery", "battery")):  # fmt: skip
        if word in points:
            return place
    if probe.measure in ("inspect", "act"):
        return _LOOKED_AT.get(getattr(probe, "target", None) or probe.action, "look")
    return "scan"


_LOOKED_AT = {"connector": "plug", "pins": "plug", "harness": "plug", "sensor": "plug", "wiggle": "plug", "fuse": "fusebox",
              "inline-connector": "inline", "clear-codes": "scan"}  # fmt: skip


def same_measurement(candidate: Candidate, reading: Reading) -> bool:
    """Whether a reading already is what the candidate asks for."""
    probe = candidate.probe
    if probe.measure != reading.measure or probe.of != reading.of:
        return False
    names = ("red", "black", "at", "pid", "signal", "target", "action", "load", "jumper", "in_place_of")
    if any(getattr(probe, name, None) != getattr(reading, name, None) for name in names):
        return False
    if getattr(probe, "watts", 0) > getattr(reading, "watts", 0):
        return False
    a, b = (setting_of(item, probe.measure == "resistance") for item in (probe, reading))
    return (a.key, a.connector, a.module_connector, a.conditions) == (
        b.key, b.connector, b.module_connector, b.conditions,
    ) and (b.codes_cleared or not a.codes_cleared)  # fmt: skip


def rank(
    belief: Belief,
    meaning: Meaning,
    posterior: Array,
    needed: Sequence[str],
    offered: Sequence[Candidate],
    last: Reading | None,
    style: str,
    confirming: bool = False,
) -> list[Scored]:
    """The candidates worth taking, best first. confirming: only proofs are left, so settling several at once pays."""
    groups = _groups(meaning, posterior, needed)
    rows = np.flatnonzero(np.max([item.weight.max(axis=0) for item in groups], axis=0) > NEGLIGIBLE)
    groups = [_Question(item.weight[:, rows], item.importance, item.part) for item in groups]
    scored = []
    for candidate in offered:
        bits, settled = _worth(candidate, belief, groups, rows)
        if bits < WORTHLESS:
            continue
        minutes = cost(candidate, last)
        favour = STYLE_FAVOUR if style in candidate.styles and not confirming else 1.0
        favour *= 1.0 + (ALSO_SETTLES * max(settled - 1, 0) if confirming else 0.0)
        scored.append(Scored(candidate, minutes, bits, favour * bits / minutes))
    return sorted(scored, key=lambda item: -item.score)


@dataclass(frozen=True)
class _Question:
    """A partition of the joint hypotheses: weight (groups, joint), rows summing over all to 1."""

    weight: Array
    importance: float
    part: str = ""


def _groups(meaning: Meaning, posterior: Array, needed: Sequence[str]) -> list[_Question]:
    sets = np.zeros((len(meaning.sets), len(posterior)))
    sets[meaning.set_of, np.arange(len(posterior))] = posterior
    questions = [_Question(sets, 1.0)]
    for part in needed:
        hidden = [meaning.has_fault[name] for name in hidden_faults(part) if name in meaning.has_fault]
        if not hidden:
            continue
        bad = np.any(hidden, axis=0)
        chance = posterior[bad].sum()
        doubt = min(max(chance, LEAST_DOUBT), 1 - LEAST_DOUBT)
        weight = np.stack([posterior * bad * (doubt / max(chance, 1e-12)),
                           posterior * ~bad * ((1 - doubt) / max(1 - chance, 1e-12))])  # fmt: skip
        questions.append(_Question(weight, PROOF_WEIGHT, part))
    return questions


def _worth(candidate: Candidate, belief: Belief, questions: Sequence[_Question], rows: Choice) -> tuple[float, int]:
    """Bits about the decision and its proofs, and how many parts still to be proven the reading speaks to."""
    tables = outcome_chances(candidate.probe, belief, rows)
    if not tables:
        return 0.0, 0
    loaded = under_load(candidate.probe)
    asked = [item for item in questions if loaded or item.part not in LOADED_PARTS]
    bits = [max(_information(item.weight @ table) for table in tables) for item in asked]
    settled = sum(1 for item, gained in zip(asked, bits, strict=True) if item.part and gained > SETTLES)
    return sum(item.importance * gained for item, gained in zip(asked, bits, strict=True)), settled


def outcome_chances(probe: Any, belief: Belief, rows: Choice) -> list[Array]:
    """For each figure of a probe the chance of every outcome under the joint hypotheses ``rows``, (rows, outcomes).

    Empty where nothing answers.
    """
    if probe.measure in ("inspect", "act"):
        table = chances(probe.measure, getattr(probe, "target", None) or probe.action, belief.space)
        return [] if table is None else [table[rows]]
    for model in belief.models.values():
        outcomes = model.outcomes(probe)
        if outcomes:
            own, back = np.unique(belief.space.rows[model.name][rows], return_inverse=True)
            met = rows_met(model.hypotheses, probe)[own] if probe.of is not None else None
            return [item.chances(belief.foreseen(model.name), own, met)[back] for item in outcomes]
    return []


def _information(joint: Array) -> float:
    """Mutual information in bits of a table of joint chances (groups, outcomes)."""
    joint = joint / max(joint.sum(), 1e-300)
    independent = joint.sum(axis=1, keepdims=True) * joint.sum(axis=0, keepdims=True)
    present = joint > 1e-15
    return float((joint[present] * np.log2(joint[present] / independent[present])).sum())


def typical(candidate: Candidate, belief: Belief) -> Mapping[str, Display] | None:
    """The display of a candidate in the loop that answers it."""
    for model in belief.models.values():
        displays = model.displays(candidate.probe)
        if displays:
            return displays
    return None
