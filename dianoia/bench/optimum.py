"""The planner against the exact optimum on a reduced problem, with one stopping rule for all.

The problem is one heater circuit with its vehicle data known: single faults only, some readings, and of each reading the
outcome that a fault most likely shows. A state is which faults are still possible, which parts have been spoken for
under load, and where the last reading left the technician. The optimum over all orders is found by dynamic programming.
"""

from collections.abc import Callable, Mapping, Sequence
from typing import Any, get_args

import numpy as np

from dianoia.bench.work import fixed_order
from dianoia.case.job import Job, job_of
from dianoia.case.load import case_from_plain
from dianoia.case.terms import Style
from dianoia.circuit.network import Array
from dianoia.circuit.types import Choice
from dianoia.diagnosis.catalogue.candidates import Candidate
from dianoia.diagnosis.catalogue.costs import after, cost, prices_of
from dianoia.diagnosis.catalogue.offered import engines, offered
from dianoia.diagnosis.decision.assessment import circuit_load
from dianoia.diagnosis.decision.gates import parts_asked
from dianoia.diagnosis.decision.proof import Load, right_kind, to_exclude
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Part
from dianoia.diagnosis.inference.engine import Engine
from dianoia.diagnosis.inference.loops import parts_of
from dianoia.diagnosis.inference.predictions import Predictions
from dianoia.diagnosis.planning.lookahead import LookaheadProblem, LookaheadState, choose

#: The readings of the reduced problem.
READINGS = (
    "supply-live", "control-live-cleared", "across-live-cleared", "clamp", "element", "lamp-across", "lamp-supply",
    "lamp-control", "control-wire-ohms", "lamp-at-module", "supply-wire-ohms", "fuse-loaded", "fuse-out", "look-pins",
    "control-wire-battery", "scan-current-cleared",
)  # fmt: skip
_CASE = {
    "format": "dianoia-case/1", "codes": [{"code": "P0037"}],
    "vehicle": {"label": "reduced", "system_voltage": 12, "feed_live": "running", "feed_order": "relay-fuse"},
    "sensor": {"bank": 1, "position": 2, "family": "switching-4w", "heater_switch": "low-side",
               "heater_drive": "steady", "heater_ohms_20c": [4.0, 6.5]},
}  # fmt: skip
_FIGURES = ("voltage", "resistance", "current", "scope", "scan")
#: A way this long follows every plan of the reduced problem to its end.
_TO_THE_END = 99
_WIDTH = 8


def compare() -> Mapping[str, Any]:
    """Mean minutes of the optimum, the planner and each style's fixed order, and the planner's over the optimum."""
    job = job_of(case_from_plain(_CASE))
    engine = engines.engine(job)
    options = [item for item in offered(job, engine) if item.id in READINGS]
    problem, chance = reduced(job, engine, options)
    start = problem.start(chance)
    optimum = Optimum(problem).minutes(start)
    planner = followed(problem, start, lambda state: choose(problem, state, _WIDTH, _TO_THE_END))
    orders = {style: [options.index(item) for item in fixed_order(options, style)] for style in get_args(Style)}
    styles = {style: round(followed(problem, start, _in_order(problem, order)), 3) for style, order in orders.items()}
    return {
        "faults": int(chance.size), "readings": len(options), "optimum_minutes": round(optimum, 3),
        "planner_minutes": round(planner, 3), "planner_over_optimum": round(planner / optimum, 4),
        "greedy_minutes": round(problem.minutes(start, _TO_THE_END), 3), "styles_minutes": styles,
    }  # fmt: skip


def reduced(job: Job, engine: Engine, options: Sequence[Candidate]) -> tuple[LookaheadProblem, Array]:
    """The problem of a circuit's single faults with these readings, and the faults' chances."""
    space = engine.space
    rows = np.array([row for row, names in enumerate(space.faults) if len(names) == 1])
    predictions = Predictions(engine.belief(engine.models_for(job.readings)), rows)
    table = faults()
    components = [frozenset((table[space.faults[row][0]].component,)) for row in rows]
    groups = list(dict.fromkeys(components))
    parts = {part: 1 << place for place, part in enumerate(parts_of("heater", engine.subject.known.family))}
    load = circuit_load(engine)
    shown = np.stack(
        [_most_likely(predictions.tables(item.probe)[0], item.probe.measure in _FIGURES) for item in options]
    )
    outcomes = int(shown.max()) + 1
    tables = (shown[:, :, None] == np.arange(outcomes)).astype(float)
    names = [space.faults[row][0] for row in rows]
    speaks = np.array([[_speaks(item, shown[place], outcome, names, parts, load) for outcome in range(outcomes)]
                       for place, item in enumerate(options)], dtype=np.int64)  # fmt: skip
    asked = [parts_asked(next(iter(group)), "heater", tuple(parts)) for group in groups]
    gate = np.array([sum(parts[part] for part in own) for own in asked], dtype=np.int64)
    prices = prices_of(job)
    positions = [None, *(after(item, None) for item in options)]
    price = np.array([[cost(item, position, prices) for item in options] for position in positions])
    group = np.array([groups.index(item) for item in components])
    return LookaheadProblem(
        tables, speaks, price, group, gate, decide=np.full(len(groups), 1.0 - 1e-9), seldom=0.0
    ), space.prior[rows]


def _most_likely(table: Array, figure: bool) -> Choice:
    """The outcome that each hypothesis most likely shows, numbered from 0; of a figure neighbouring bins are one."""
    top = table.argmax(axis=1)
    used = np.unique(top)
    number = np.cumsum(np.diff(used, prepend=used[0]) > (1 if figure else 0))
    found: Choice = number[np.searchsorted(used, top)]
    return found


def _speaks(
    item: Candidate, shown: Choice, outcome: int, names: Sequence[str], parts: Mapping[Part, int], load: Load
) -> int:
    """Bits of the parts that an outcome speaks for: one of the part's hidden faults would have shown another."""
    bits = 0
    for part, bit in parts.items():
        if not right_kind(part, item.probe, load):
            continue
        hidden = to_exclude(part)
        if any(name in hidden and shown[row] != outcome for row, name in enumerate(names)):
            bits |= bit
    return bits


class Optimum:
    """Least expected minutes by dynamic programming over the states."""

    def __init__(self, problem: LookaheadProblem) -> None:
        self._problem = problem
        self._known: dict[tuple[bytes, int, int], float] = {}

    def minutes(self, state: LookaheadState) -> float:
        """Least expected minutes to the decision, or until no reading tells anything."""
        if self._problem.decided(state):
            return 0.0
        key = ((state.chance > 0).tobytes(), state.spoken, state.last)
        if key not in self._known:
            telling = np.flatnonzero(self._problem.scores(state) > 0)
            ways = [
                float(self._problem.price[1 + state.last, option])
                + sum(chance * self.minutes(later) for chance, later in self._problem.branches(state, int(option)))
                for option in telling
            ]
            self._known[key] = min(ways, default=0.0)
        return self._known[key]


def followed(problem: LookaheadProblem, state: LookaheadState, policy: Callable[[LookaheadState], int]) -> float:
    """Expected minutes when ``policy`` names every reading; -1 ends."""
    if problem.decided(state):
        return 0.0
    option = policy(state)
    if option < 0:
        return 0.0
    rest = sum(chance * followed(problem, later, policy) for chance, later in problem.branches(state, option))
    return float(problem.price[1 + state.last, option]) + rest


def _in_order(problem: LookaheadProblem, order: Sequence[int]) -> Callable[[LookaheadState], int]:
    def policy(state: LookaheadState) -> int:
        scores = problem.scores(state)
        return next((option for option in order if scores[option] > 0), -1)

    return policy
