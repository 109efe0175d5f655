"""A loop of the circuit under every hypothesis: what all loops have in common.

Axes: hypotheses first, draws last. The draws of the possible wirings lie one after another.
"""

import copy
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from dianoia.case.measures import Probe
from dianoia.case.setting import Setting
from dianoia.case.terms import Pid
from dianoia.circuit.draws import Draws, names_of
from dianoia.circuit.network import Array, Network, Port, UnknownPlace
from dianoia.circuit.respond import Response, respond
from dianoia.circuit.types import Circuit
from dianoia.readings.folded import Folded, healthy
from dianoia.readings.instruments import displays, query_of
from dianoia.readings.instruments.seen import PICKS_UP, NetworkView, ProbePlace, Query
from dianoia.readings.model import Hypothesis, ReadingLikelihood, Traited, Traits
from dianoia.readings.outcomes import Display, Outcomes
from dianoia.scheduling import checkpoint
from dianoia.tables import require


class Loop(Protocol):
    """Builds one wiring's network for any setting, from one set of draws."""

    draws: Draws

    def electrical(self, setting: Setting) -> Setting:
        """The setting without what leaves the network as it is: settings that are the same by this are solved once."""

    def circuit(self, setting: Setting, phase: str) -> Circuit:
        """The network in a setting and phase, and what each fault does in it."""


@dataclass(frozen=True)
class ModelResponse:
    """Volts and ohms of one place: phase -> (hypotheses, draws)."""

    volts: Mapping[str, Array]
    ohms: Mapping[str, Array]


#: What a network shows at places in settings; None where it has no such place.
_Answers = dict[tuple[Setting, ProbePlace], ModelResponse | None]


@dataclass
class _SolvedLoop:
    """What a loop's network was solved for; shared by a model and those conditioned from it."""

    answers: _Answers = field(default_factory=dict)


@dataclass(frozen=True)
class ModelRequest:
    """What a model is asked about."""

    hypotheses: Sequence[Hypothesis]
    traits: Traited
    """Of every fault, by id."""


class CircuitModel:
    """Answers queries about a loop, and keeps every answer. A loop's own model says its phases and their shares."""

    name: str = ""
    #: Of the sensor on the pipe.
    position: int = 1
    phases: tuple[str, ...] = ()
    #: Scan values that follow from this loop's currents and voltages.
    scans: frozenset[Pid] = frozenset(("battery_voltage",))
    #: See ``NetworkView``.
    floats_from: float | None = None

    #: Faults that show in what the loop does, not in its network.
    behaviours: frozenset[str] = frozenset()

    def __init__(self, asked: ModelRequest, loops: Sequence[Any], shares: Sequence[float], system_v: float) -> None:
        self.traits = asked.traits
        self.loops = list(loops)
        self.system_v: float = system_v
        self.draw_weight: Array = np.concatenate(
            [share * loop.draws.weight / loop.draws.weight.sum() for loop, share in zip(loops, shares, strict=True)]
        )
        self._ask(asked.hypotheses)
        self._displays: dict[object, Mapping[str, Display] | None] = {}
        self._healthy: dict[object, Mapping[str, Display] | None] = {}
        self._outcomes: dict[object, tuple[Outcomes, ...]] = {}
        self.weighed: dict[object, ReadingLikelihood | None] = {}

    def _ask(self, hypotheses: Sequence[Hypothesis]) -> None:
        """Set all that depends on which hypotheses are asked about."""
        self.hypotheses: tuple[Hypothesis, ...] = tuple(hypotheses)
        self._faults = {name for faults in self.hypotheses for name in faults}
        self._before = Folded(self._draws_before())
        self._acted_on: set[str] = set()
        self._solved = _SolvedLoop()

    def answering(self, probe: Probe, hypotheses: Sequence[Hypothesis]) -> Any:
        """See ``LoopModel``."""
        return self if self._at_hand(probe) else self.only(hypotheses)

    def _at_hand(self, probe: Probe) -> bool:
        """Whether all that a probe needs is solved."""
        solved = self._solved.answers
        wanted = ((self._electrical(query.setting), place) for query in self.queries(probe) for place in query.places)
        return probe.shows in self._displays or all(item in solved for item in wanted)

    def only(self, hypotheses: Sequence[Hypothesis]) -> Any:
        """This model asked about some of its hypotheses, with nothing worked out yet."""
        twin = self.fresh()
        twin._ask(hypotheses)
        return twin

    def _electrical(self, setting: Setting) -> Setting:
        """See ``Loop.electrical``: all wirings of a loop are alike in this."""
        return self.loops[0].electrical(setting)

    def has(self, *beginnings: str) -> Array:
        """(hypotheses, 1) True where a fault begins so."""
        return having(self.hypotheses, beginnings)

    def with_trait(self, holds: Callable[[Traits], bool]) -> Array:
        """(hypotheses, 1) True where a fault has a trait."""
        own = {name for name, traits in self.traits.items() if holds(traits)}
        return np.array([[not own.isdisjoint(faults)] for faults in self.hypotheses])

    def when_heated(self) -> Array | None:
        """See ``LoopModel``."""
        return None

    def can_be(self) -> Array:
        """Whether a hypothesis can be told from a healthy circuit of that draw at all; broadcastable (hypotheses, draws)."""
        return np.ones((1, 1), dtype=bool)

    @property
    def draws_before(self) -> Array:
        """(hypotheses, draws) how usual each draw is where a hypothesis holds."""
        return self._before.whole

    def _draws_before(self) -> Array:
        weight = np.where(self.can_be(), self.draw_weight[None], 0.0)
        weight = np.broadcast_to(weight, (len(self.hypotheses), self.draws))
        weight = np.where(weight.sum(axis=1, keepdims=True) > 0, weight, self.draw_weight[None])
        rows: Array = weight / weight.sum(axis=1, keepdims=True)
        return rows

    @property
    def kinds(self) -> NDArray[np.int64]:
        """(draws,) which draws are of one kind of vehicle: alike in what is not a matter of tolerance."""
        return np.zeros(self.draws, dtype=np.int64)

    def share(self, setting: Setting) -> dict[str, Array]:
        """Phase -> its part of the time, broadcastable to (hypotheses, draws)."""
        raise NotImplementedError

    def scale(self, key: str) -> Array:
        """Factor on all voltages, (draws,)."""
        return np.ones(self.draws)

    def flicker(self) -> Array:
        """Chance that switching is slow enough to be seen."""
        return np.zeros((1, self.draws))

    def swapped(self, phase: str) -> tuple[str, Array] | None:
        """A phase seen instead of ``phase`` under some hypotheses, and under which, (hypotheses,); None for none."""
        return None

    def own_displays(self, probe: Probe) -> Mapping[str, Display] | None:
        """Displays that the loop answers without its network."""
        return None

    @property
    def unconditioned(self) -> Any:
        """See ``LoopModel``."""
        return self

    def fresh(self) -> Any:
        """A copy that shares what was solved and nothing that depends on the scale."""
        twin = copy.copy(self)
        twin._displays, twin._healthy, twin._outcomes, twin.weighed = {}, {}, {}, {}
        return twin

    @property
    def kept(self) -> tuple[int, ...]:
        """How many things of each kind are kept."""
        tables = (self._solved.answers, self._displays, self._healthy, self._outcomes, self.weighed)
        return tuple(len(table) for table in tables)

    def drop_answers(self) -> None:
        """See ``LoopModel``."""
        self._solved.answers, self._displays = {}, {}

    @property
    def draws(self) -> int:
        """Length of the draws axis."""
        return len(self.draw_weight)

    def each_draw(self, name: str) -> Array:
        """A named unit sample over the whole draws axis."""
        return np.concatenate([loop.draws.unit(name) for loop in self.loops])

    def samples(self) -> dict[str, Array]:
        """Every named unit sample that this loop may take, over the whole draws axis: not only those taken so far, or what is
        learnt from them would depend on what was predicted before. Raises BrokenTable for one that draws.csv does not list.
        """
        listed = names_of(self.name)
        taken = {name for loop in self.loops for name in loop.draws.samples()}
        require(
            taken <= set(listed),
            "draws.csv",
            self.name,
            "every sample that the loop takes",
            sorted(taken - set(listed)),
        )
        return {name: self.each_draw(name) for name in listed}

    def prepare(self, probes: Iterable[Probe]) -> None:
        """Work out the probes' predictions, each state solved once."""
        self._prepare([query for probe in probes for query in self.queries(probe)])

    def queries(self, probe: Probe) -> list[Query]:
        """What has to be solved for a probe; a loop adds what its own displays need."""
        query = query_of(probe)
        return [query] if query else []

    def displays(self, probe: Probe) -> Mapping[str, Display] | None:
        """What the probe's instrument shows; None where this loop has nothing to say to it."""
        key, kept = probe.shows, self._displays
        if key not in kept:
            shown = kept[key] = self.worked_out(probe)
            self._healthy.setdefault(key, healthy(shown) if shown else None)
        return kept[key]

    def worked_out(self, probe: Probe) -> Mapping[str, Display] | None:
        """The same, worked out anew and not kept."""
        return self.own_displays(probe) or self._network_displays(probe)

    def _passing(self, probe: Probe) -> Mapping[str, Display] | None:
        """The same, for something that is made of it and kept in its place."""
        key = probe.shows
        return self._displays[key] if key in self._displays else self.worked_out(probe)

    def healthy(self, probe: Probe) -> Mapping[str, Display] | None:
        """The same of a healthy circuit alone, (1, draws)."""
        key, kept = probe.shows, self._healthy
        if key not in kept:
            shown = self._passing(probe)
            kept[key] = healthy(shown) if shown else None
        return kept[key]

    def _network_displays(self, probe: Probe) -> Mapping[str, Display] | None:
        if probe.live_value and probe.live_value not in self.scans:
            return None
        query = query_of(probe)
        seen = self.seen(query) if query else None
        return displays(probe, seen) if seen else None

    def outcomes(self, probe: Probe) -> tuple[Outcomes, ...]:
        """The figures of the probe's display, each binned; none where ``displays`` is None."""
        key, kept = probe.shows, self._outcomes
        if key not in kept:
            checkpoint()
            shown = self._passing(probe)
            self._healthy.setdefault(key, healthy(shown) if shown else None)
            shape = (len(self.hypotheses), self.draws)
            kept[key] = tuple(Outcomes(item, shape) for item in shown.values()) if shown else ()
        return kept[key]

    def _prepare(self, queries: Iterable[Query]) -> _Answers:
        """All that is solved, with the queries'; another thread may let go of it meanwhile."""
        known = self._solved.answers
        wanted: dict[Setting, dict[ProbePlace, None]] = {}
        for query in queries:
            setting = self._electrical(query.setting)
            for place in query.places:
                if (setting, place) not in known:
                    wanted.setdefault(setting, {})[place] = None
        for setting, places in wanted.items():
            checkpoint()
            known.update(
                zip(((setting, place) for place in places), self._work_out(setting, list(places)), strict=True)
            )
        return known

    def answers(self, query: Query) -> list[ModelResponse] | None:
        """What the network says of each place, phase by phase; None where none of its wirings has the points."""
        solved = self._prepare([query])
        found = [solved[self._electrical(query.setting), place] for place in query.places]
        known = [answer for answer in found if answer is not None]
        return known if len(known) == len(found) else None

    def seen(self, query: Query) -> NetworkView | None:
        """What the loop shows to a query; None where none of its wirings has the points."""
        known = self.answers(query)
        if known is None:
            return None
        leads = np.concatenate([loop.draws.uniform("leads", 0.0, 0.5) for loop in self.loops]).astype(np.float32)
        scale = self.scale(query.setting.key).astype(np.float32)  # all at the precision of the answers
        share = {phase: part.astype(np.float32) for phase, part in self.share(query.setting).items()}
        return NetworkView(
            volts={phase: tuple(answer.volts[phase] * scale for answer in known) for phase in self.phases},
            ohms={phase: tuple(answer.ohms[phase] for answer in known) for phase in self.phases},
            share=share,
            system_v=self.system_v,
            leads_ohms=leads,
            flicker=self.flicker().astype(np.float32),
            floats_from=self.floats_from,
            picks_up=None if self.floats_from is None else (self.each_draw("picks up") < PICKS_UP).astype(np.float32),
        )

    def _work_out(self, setting: Setting, places: Sequence[ProbePlace]) -> list[ModelResponse | None]:
        parts = [self._one_wiring(loop, setting, places) for loop in self.loops]
        self._refuse_faults_without_effect()
        return [self._joined([part[index] for part in parts]) for index in range(len(places))]

    def _joined(self, pieces: Sequence[ModelResponse | None]) -> ModelResponse | None:
        """One place's answers of all wirings; None where none of them has it."""
        if all(piece is None for piece in pieces):
            return None
        shapes = [(len(self.hypotheses), loop.draws.count) for loop in self.loops]
        filled = [piece or _nowhere(shape, self.phases) for piece, shape in zip(pieces, shapes, strict=True)]
        return ModelResponse(
            {phase: np.concatenate([item.volts[phase] for item in filled], axis=1) for phase in self.phases},
            {phase: np.concatenate([item.ohms[phase] for item in filled], axis=1) for phase in self.phases},
        )

    def _refuse_faults_without_effect(self) -> None:
        """A fault that changes nothing would be explained by everything. Raises BrokenTable."""
        if self._acted_on >= self._faults:
            return
        idle = self._faults - self._acted_on - self.behaviours
        require(
            not idle,
            "faults.json",
            ", ".join(sorted(idle)),
            f"an effect on the {self.name} circuit, or a behaviour",
            "none",
        )
        self._acted_on |= self._faults

    def _one_wiring(self, loop: Loop, setting: Setting, places: Sequence[ProbePlace]) -> list[ModelResponse | None]:
        raw: dict[str, Response] = {}
        found: dict[int, int] = {}
        before: Network | None = None
        for phase in self.phases:
            circuit = loop.circuit(setting, phase)
            self._acted_on |= circuit.effects.keys()
            ports: list[Port] = []
            for index, place in enumerate(places):
                port = _port(circuit, place)
                if port is not None:
                    found[index] = len(ports)
                    ports.append(port)
            if not ports:
                return [None] * len(places)
            raw[phase], before = respond(circuit, self.hypotheses, ports, before), circuit.network
        return [self._answer(raw, found[index]) if index in found else None for index in range(len(places))]

    def _answer(self, raw: Mapping[str, Response], column: int) -> ModelResponse:
        volts: dict[str, Array] = {}
        ohms: dict[str, Array] = {}
        for phase in self.phases:
            volts[phase], ohms[phase] = raw[phase].value[:, column], raw[phase].source[:, column]
            swap = self.swapped(phase)
            if swap is not None:
                other, where = raw[swap[0]], swap[1][:, None]
                volts[phase] = np.where(where, other.value[:, column], volts[phase])
                ohms[phase] = np.where(where, other.source[:, column], ohms[phase])
        return ModelResponse(volts, ohms)


@lru_cache(maxsize=512)
def having(hypotheses: tuple[Hypothesis, ...], beginnings: tuple[str, ...]) -> NDArray[np.bool_]:
    """(hypotheses, 1) True where a fault's name begins with one of ``beginnings``. Not to be written to."""
    return np.array([[any(name.startswith(beginnings) for name in faults)] for faults in hypotheses])


def _nowhere(shape: tuple[int, int], phases: Sequence[str]) -> ModelResponse:
    empty: Array = np.full(shape, np.nan, dtype=np.float32)
    return ModelResponse(dict.fromkeys(phases, empty), dict.fromkeys(phases, empty))


def _port(circuit: Circuit, place: ProbePlace) -> Port | None:
    network = circuit.network
    try:
        if place.black is None:
            return network.through(circuit.branch_at.get(place.red, place.red))
        return network.across(place.red, place.black)
    except UnknownPlace:
        return None
