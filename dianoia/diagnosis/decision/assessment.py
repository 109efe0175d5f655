"""A job's ledger weighed with one engine: what is believed after it, and how near that is to a decision."""

from collections.abc import Collection, Mapping, Sequence, Set
from functools import cached_property

import numpy as np

from dianoia.case.job import Job
from dianoia.case.terms import HeaterSwitch
from dianoia.circuit.network import Array
from dianoia.circuit.types import Choice
from dianoia.diagnosis.catalogue.candidates import Candidate
from dianoia.diagnosis.catalogue.offered import readable_candidates
from dianoia.diagnosis.decision.context import DecisionContext
from dianoia.diagnosis.decision.decide import DecisionName, Standing, standing
from dianoia.diagnosis.decision.feed import Stretch, paths, stretch
from dianoia.diagnosis.decision.hidden import Detectability
from dianoia.diagnosis.decision.ledger import Ledger
from dianoia.diagnosis.decision.proof import Load, PartState, PosteriorSummary, load_of, part_states, weighed
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Component, Part
from dianoia.diagnosis.inference.belief import Belief
from dianoia.diagnosis.inference.convergence import Converged
from dianoia.diagnosis.inference.engine import Engine, known_battery
from dianoia.diagnosis.inference.evidence import Evidence, apply, take_in
from dianoia.diagnosis.inference.loops import parts_of
from dianoia.readings.heater_model import HeaterModel

#: A running 12 V battery, where nobody measured it.
FEED_V = 14.0


class Assessment:
    """Belief over the hypotheses after a job's readings. engine: the job's, with the readings worked out; converged: what is believed
    after them.
    """

    def __init__(self, job: Job, engine: Engine, converged: Converged) -> None:
        self.job, self.engine, self.converged = job, engine, converged
        self.models = engine.models_for(job.readings)
        self.belief: Belief = engine.belief(self.models)
        self.taken: list[Evidence] = take_in(self.belief, job.readings)
        self.belief.correct(converged.chances, converged.told.rows, converged.measured)
        self.posterior: Array = self.belief.posterior()
        self.load = circuit_load(engine)
        self.known: PosteriorSummary = weighed(self.belief, engine.partition, self.posterior)
        self.states = self._states(self.known, self.taken)
        self.held = self._held(self.belief, self.known, self.states, self.taken)
        self.standing: Standing = standing(self.held)

    def components(self, posterior: Array | None = None) -> dict[Component, float]:
        """Chance of each component to be at fault."""
        chance = self.posterior if posterior is None else posterior
        return {name: round(float(chance[rows].sum()), 4) for name, rows in self.engine.partition.has_component.items()}

    @cached_property
    def fault_chances(self) -> dict[str, float]:
        """Chance of each fault."""
        return {name: float(self.posterior[rows].sum()) for name, rows in self.engine.partition.has_fault.items()}

    @property
    def gross_errors(self) -> Mapping[int, float]:
        """Chance, by place, that a reading is a gross error."""
        return self.converged.gross_errors

    @cached_property
    def out_of_reach(self) -> frozenset[str]:
        """Names of the readings that cannot be taken on this vehicle."""
        return frozenset(item.reading for item in self.job.case.cannot)

    def loop_chances(self) -> dict[str, float]:
        """Chance of a fault in each loop."""
        table = faults()
        chances = dict.fromkeys(self.engine.loops, 0.0)
        for name, chance in self.fault_chances.items():
            for loop in table[name].loop.split():
                if loop in chances:
                    chances[loop] += chance
        return chances

    def without(self, place: int) -> DecisionName:
        """The decision if the reading at ``place`` had not been taken."""
        kept = [item for item in self.taken if item.place != place]
        belief = self._belief_without(place, kept)
        known = weighed(belief, self.engine.partition, belief.posterior())
        return standing(self._held(belief, known, self._states(known, kept), kept, without=place)).decision

    def _belief_without(self, place: int, kept: Sequence[Evidence]) -> Belief:
        left_out = next((item for item in self.taken if item.place == place), None)
        if left_out and left_out.weighed is not None and not any(item.repaired for item in self.taken):
            belief = self.belief.copy()
            belief.update(left_out.loop, -left_out.weighed.fit)
            for loop, factor in left_out.also.items():
                belief.update(loop, -factor[None])
            return belief
        belief = self.engine.belief(self.models)
        for item in kept:
            apply(belief, item)
        return belief

    def _states(self, known: PosteriorSummary, taken: Sequence[Evidence]) -> dict[Part, PartState]:
        return part_states(self.engine.parts, known, taken, self.load)

    def _held(
        self, belief: Belief, known: PosteriorSummary, states: Mapping[Part, PartState], taken: Sequence[Evidence],
        without: int | None = None,
    ) -> DecisionContext:  # fmt: skip
        counted = [(place, item) for place, item in enumerate(self.job.readings) if item.counts and place != without]
        known_of = self.engine.subject.known
        ledger = Ledger(
            counted, known_of.family.has_heater_terminals,
            frozenset(part for part, state in states.items() if state.proven), known_of.position,
            fitted=max((item.place for item in taken if _fits_a_sensor(item)), default=-1),
            mended=max((item.place for item in taken if item.repaired), default=-1),
            log_ratio=_LogRatios(self.engine, taken), element_ohms=element_range(self.job), system_v=self.job.system_v,
        )  # fmt: skip
        return DecisionContext(known, states, ledger, self._telling, self.parts, self.engine.focus, self._feed(ledger))

    def _feed(self, ledger: Ledger) -> Stretch | None:
        """The stretch of the feed that is read bad, on a low-side heater and of a NOx unit."""
        ways = self.ways_of_feed()
        if not ways or ("heater_supply" in ways[0][-1] and self.switch == "high-side"):
            return None
        since = [(place, item) for place, item in ledger.readings if place > ledger.mended]
        volts = dict(known_battery(self.job.readings, self.job.system_v)).get(
            "running", FEED_V * self.job.system_v / 12.0
        )
        return stretch(since, ways, volts)

    def ways_of_feed(self) -> list[tuple[str, ...]]:
        """The points from the battery to the plug, as far as their order is known; none where the sensor has no feed."""
        terminal = next((name for name in ("heater_supply", "supply") if name in self.job.family.terminals), None)
        return paths(self.job.case.vehicle.feed_order, terminal) if terminal else []

    @cached_property
    def leads(self) -> tuple[tuple[Component | None, ...], Choice]:
        """What each hypothesis would first be decided for: the likeliest of its components, None for none; and for each joint
        row its place among those. Of two faults either may be mended first, and the other then read.
        """
        chances: dict[Component, float] = self.held.by_component
        by_set = [_likeliest_of(names, chances) for names in self.engine.partition.sets]
        distinct = tuple(dict.fromkeys(by_set))
        place = np.array([distinct.index(name) for name in by_set])
        return distinct, place[self.engine.partition.set_of]

    def parts(self, loop: str) -> Sequence[Part]:
        """The parts of a loop that this circuit has."""
        own = parts_of(loop, self.engine.subject.known.family) if loop in self.engine.loops else ()
        return [part for part in own if part in self.engine.parts]

    @cached_property
    def _telling(self) -> Detectability:
        return Detectability(self._told_of, lambda: self.readable)

    def _told_of(self) -> Belief:
        self.readable  # noqa: B018 - what is told of is worked out before
        return self.belief

    @cached_property
    def readable(self) -> Sequence[Candidate]:
        """All that could be read of the sensor's loops, whatever tools are at hand."""
        found = readable_candidates(self.job, self.engine, self.switch)
        self.engine.work_out(item.probe for item in found)
        return found

    @property
    def switch(self) -> HeaterSwitch:
        """The side that the module switches, as far as the readings tell."""
        return "high-side" if (self.converged.high_side or 0.0) > 0.5 else "low-side"


class _LogRatios:
    """What each reading alone says of faults (see ``Ledger.log_ratio``). The rows of the same faults are looked up once."""

    def __init__(self, engine: Engine, taken: Sequence[Evidence]) -> None:
        self._row_of = engine.space.row_of
        self._healthy = self._row_of[frozenset()]
        self._odds = {item.place: item.odds for item in taken}
        self._rows: dict[tuple[str, ...], list[int]] = {}

    def __call__(self, place: int, names: Collection[str]) -> float:
        """0 for a reading that says nothing, or of faults that are not listed."""
        odds, listed = self._odds.get(place), self._listed(tuple(names))
        return 0.0 if odds is None or not listed else float(odds[listed].max() - odds[self._healthy])

    def _listed(self, names: tuple[str, ...]) -> list[int]:
        if names not in self._rows:
            single = (frozenset((name,)) for name in names)
            self._rows[names] = [self._row_of[item] for item in single if item in self._row_of]
        return self._rows[names]


def element_range(job: Job) -> tuple[float, float]:
    """What a cold element of this sensor reads, lowest and highest, in ohms."""
    own = job.case.sensor.heater_ohms_20c if job.case.sensor else None
    general = [row.heater_ohms_20c for row in job.families if row.heater_ohms_20c]
    low, high = own or (
        (min(item[0] for item in general), max(item[1] for item in general)) if general else (0.8, 25.0)
    )
    return low, high


def _likeliest_of(names: Set[Component], chances: Mapping[Component, float]) -> Component | None:
    ordered: list[Component] = sorted(names, key=lambda name: (-chances[name], name))
    return ordered[0] if ordered else None


def _fits_a_sensor(item: Evidence) -> bool:
    return item.reading.probe.acted == "replace-sensor"


def circuit_load(engine: Engine) -> Load:
    """What loads an engine's circuit."""
    model = next((model for model in engine.models if isinstance(model, HeaterModel)), None)
    return load_of(float(np.median(model.hot_ohms)) if model else None)
