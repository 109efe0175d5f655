"""The heater loop under every hypothesis: all ways the vehicle may be wired, all faults, single and in pairs.

Axes: hypotheses first, draws last. The draws of the possible wirings (low side, high side) lie one after another.
"""

import copy
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from dianoia.case.types import Case, Probe
from dianoia.circuit.draws import DRAWS, Draws
from dianoia.circuit.heater import OFF, ON, PHASES, HeaterLoop, HeaterVariant
from dianoia.circuit.network import Array, Port, UnknownPlace
from dianoia.circuit.respond import Response, respond
from dianoia.circuit.setting import Setting
from dianoia.circuit.types import Circuit
from dianoia.families.tables import FamilyRow, weights
from dianoia.readings.display import Display, Outcomes
from dianoia.readings.instruments import FLICKER_HZ, Place, Query, Seen, displays, measured, query_of
from dianoia.readings.model import Hypothesis, Weighed

#: Chance that a module has shut off a heater whose circuit is whole again, while the code still stands.
LATCH_WHEN_SOUND = 0.12
#: Added while the plug is apart and the code was not cleared: the module sees an open circuit.
LATCH_WHEN_UNPLUGGED = 0.2
#: Seconds after codes were cleared from which the module may have latched again.
LATCH_AGAIN_S = 45.0
#: Draws kept for the less usual wiring where the vehicle's is not known.
MINOR_DRAWS = 16


@dataclass(frozen=True)
class Answer:
    """Volts and ohms of one place: phase -> (hypotheses, draws)."""

    volts: Mapping[str, Array]
    ohms: Mapping[str, Array]


class HeaterModel:
    """Answers queries about the heater loop, and keeps every answer."""

    name: str = "heater"

    def __init__(
        self, case: Case, family: FamilyRow, hypotheses: Sequence[Hypothesis], latch: Mapping[str, float],
        seed: int = 7, draws: int = DRAWS,
    ) -> None:  # fmt: skip
        self.hypotheses: Sequence[Hypothesis] = list(hypotheses)
        self.loops = [HeaterLoop(variant) for variant in _variants(case, family, seed, draws)]
        self.system_v: float = self.loops[0].variant.system_v
        self.draw_weight: Array = np.concatenate([np.full(loop.draws.count, share / loop.draws.count)
                                           for loop, share in zip(self.loops, _shares(case), strict=True)])  # fmt: skip
        self._latch = np.array([max((latch[name] for name in h), default=LATCH_WHEN_SOUND) for h in self.hypotheses])
        self._swap = {
            ON: np.array(["driver-open" in h for h in self.hypotheses]),
            OFF: np.array(["driver-stuck-on" in h and "driver-open" not in h for h in self.hypotheses]),
        }
        self._anchor: Mapping[str, float] = {}
        self._answers: dict[tuple[Setting, Place], Answer | None] = {}
        self._displays: dict[object, Mapping[str, Display] | None] = {}
        self._outcomes: dict[object, Outcomes | None] = {}
        self.weighed: dict[object, Weighed | None] = {}

    @property
    def draws(self) -> int:
        """Length of the draws axis."""
        return len(self.draw_weight)

    def each_draw(self, name: str) -> Array:
        """A named unit sample over the whole draws axis."""
        return np.concatenate([loop.draws.unit(name) for loop in self.loops])

    def anchored(self, battery_v: Mapping[str, float]) -> "HeaterModel":
        """This model with the battery voltage known in some key positions: all its voltages follow it.

        The battery is the loop's only source, so what was solved stays good and is only scaled.
        """
        twin = copy.copy(self)
        twin._anchor = dict(battery_v)
        twin._displays, twin._outcomes, twin.weighed = {}, {}, {}
        return twin

    def prepare(self, probes: Iterable[Probe]) -> None:
        """Work out the probes' predictions, each state solved once."""
        self._prepare([query for probe in probes if (query := query_of(probe)) is not None])

    def displays(self, probe: Probe) -> Mapping[str, Display] | None:
        """What the probe's instrument shows; None where this loop has nothing to say to it."""
        if probe.of is not None:
            return None
        key = measured(probe)
        if key not in self._displays:
            query = query_of(probe)
            seen = self.seen(query) if query else None
            self._displays[key] = displays(probe, seen) if seen else None
        return self._displays[key]

    def outcomes(self, probe: Probe) -> Outcomes | None:
        """The first figure of the probe's display, binned; None where ``displays`` is."""
        key = measured(probe)
        if key not in self._outcomes:
            shown = self.displays(probe)
            shape = (len(self.hypotheses), self.draws)
            self._outcomes[key] = Outcomes(next(iter(shown.values())), shape) if shown else None
        return self._outcomes[key]

    def working(self, probe: Probe) -> Array:
        """(draws,) True where the sound circuit's driver is on in the probe's state, or cannot be.

        Where the wiring is not known, only the usual one is held up as sound.
        """
        charged = np.concatenate([~loop.battery_is_flat for loop in self.loops])
        charged[self.loops[0].draws.count :] = False
        query = query_of(probe)
        if query is None or not query.setting.powered:
            return charged
        on = charged & (self._share(query.setting)[ON][0] > 0.02)
        return on if on.any() else charged

    def _prepare(self, queries: Iterable[Query]) -> None:
        wanted: dict[Setting, dict[Place, None]] = {}
        for query in queries:
            for place in query.places:
                if (query.setting, place) not in self._answers:
                    wanted.setdefault(query.setting, {})[place] = None
        for setting, places in wanted.items():
            self._work_out(setting, list(places))

    def seen(self, query: Query) -> Seen | None:
        """What the loop shows to a query; None where none of its wirings has the points."""
        self._prepare([query])
        answers = [self._answers[query.setting, place] for place in query.places]
        if any(answer is None for answer in answers):
            return None
        known = [answer for answer in answers if answer is not None]
        leads = np.concatenate([loop.draws.uniform("leads", 0.0, 0.5) for loop in self.loops])
        scale = self._scale(query.setting.key)
        return Seen(
            volts={phase: tuple(answer.volts[phase] * scale for answer in known) for phase in PHASES},
            ohms={phase: tuple(answer.ohms[phase] for answer in known) for phase in PHASES},
            share=self._share(query.setting),
            system_v=self.system_v,
            leads_ohms=leads,
            flicker=self._flicker(),
        )

    def _scale(self, key: str) -> Array:
        """Known over drawn battery voltage, (draws,)."""
        drawn = np.concatenate([loop.battery_v(key) for loop in self.loops])
        return self._anchor[key] / drawn if key in self._anchor else np.ones_like(drawn)

    def latched(self, setting: Setting) -> Array:
        """1 where the module has shut the heater off after a bad current, (hypotheses, draws)."""
        chance = self._latch
        if setting.codes_cleared:
            again = setting.at_s is not None and setting.at_s > LATCH_AGAIN_S
            chance = chance * (0.6 if again else 0.0)
        elif setting.connector == "unplugged":
            chance = np.minimum(chance + LATCH_WHEN_UNPLUGGED, 0.95)
        latched: Array = (self.each_draw("latched")[None] < chance[:, None]).astype(float)
        return latched

    def _share(self, setting: Setting) -> dict[str, Array]:
        command = np.concatenate([loop.command(setting) for loop in self.loops])[None]
        on = command * (1.0 - self.latched(setting))
        return {ON: on, OFF: 1.0 - on}

    def _flicker(self) -> Array:
        """Chance that the PWM is slow enough to be seen, from its frequency spread 2 to 300 Hz."""
        share = float(np.log(FLICKER_HZ / 2.0) / np.log(300.0 / 2.0))
        return (self.each_draw("frequency")[None] < share).astype(float)

    def _work_out(self, setting: Setting, places: Sequence[Place]) -> None:
        parts = [self._one_wiring(loop, setting, places) for loop in self.loops]
        for index, place in enumerate(places):
            pieces = [part[index] for part in parts]
            if all(piece is None for piece in pieces):
                self._answers[setting, place] = None
                continue
            shapes = [(len(self.hypotheses), loop.draws.count) for loop in self.loops]
            filled = [piece or _nowhere(shape) for piece, shape in zip(pieces, shapes, strict=True)]
            self._answers[setting, place] = Answer(
                {phase: np.concatenate([item.volts[phase] for item in filled], axis=1) for phase in PHASES},
                {phase: np.concatenate([item.ohms[phase] for item in filled], axis=1) for phase in PHASES},
            )

    def _one_wiring(self, loop: HeaterLoop, setting: Setting, places: Sequence[Place]) -> list[Answer | None]:
        raw: dict[str, Response] = {}
        found: dict[int, int] = {}
        for phase in PHASES:
            circuit = loop.circuit(setting, phase)
            ports: list[Port] = []
            for index, place in enumerate(places):
                port = _port(circuit, place)
                if port is not None:
                    found[index] = len(ports)
                    ports.append(port)
            if not ports:
                return [None] * len(places)
            raw[phase] = respond(circuit, self.hypotheses, ports)
        return [self._answer(raw, found[index]) if index in found else None for index in range(len(places))]

    def _answer(self, raw: Mapping[str, Response], column: int) -> Answer:
        volts: dict[str, Array] = {}
        ohms: dict[str, Array] = {}
        for phase in PHASES:
            own, other = raw[phase], raw[OFF if phase == ON else ON]
            swap = self._swap[phase][:, None]
            volts[phase] = np.where(swap, other.value[:, column], own.value[:, column])
            ohms[phase] = np.where(swap, other.source[:, column], own.source[:, column])
        return Answer(volts, ohms)


def _nowhere(shape: tuple[int, int]) -> Answer:
    empty: Array = np.full(shape, np.nan, dtype=np.float32)
    return Answer(dict.fromkeys(PHASES, empty), dict.fromkeys(PHASES, empty))


def _port(circuit: Circuit, place: Place) -> Port | None:
    network = circuit.network
    try:
        if place.black is None:
            return network.through(circuit.branch_at.get(place.red, place.red))
        return network.across(place.red, place.black)
    except UnknownPlace:
        return None


def _known_switch(case: Case) -> str | None:
    return case.sensor.heater_switch if case.sensor else None


def _shares(case: Case) -> list[float]:
    if _known_switch(case):
        return [1.0]
    table = weights("heater_switch")
    return [table["low-side"], table["high-side"]]


def _variants(case: Case, family: FamilyRow, seed: int, count: int) -> list[HeaterVariant]:
    order = case.vehicle.feed_order or "relay-fuse"
    known = _known_switch(case)
    if known:
        return [HeaterVariant(known, order, Draws(seed, count), family, case)]
    return [
        HeaterVariant("low-side", order, Draws(seed, count - MINOR_DRAWS), family, case),
        HeaterVariant("high-side", order, Draws(seed, MINOR_DRAWS), family, case),
    ]
