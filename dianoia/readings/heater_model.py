"""The heater loop under every hypothesis: all ways the vehicle may be wired, all faults, single and in pairs."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from dianoia.case.measures import Probe
from dianoia.case.setting import Setting
from dianoia.circuit.assumptions import prior
from dianoia.circuit.draws import Sampling
from dianoia.circuit.heater import HOT_RATIO, OFF, ON, PHASES, HeaterLoop, HeaterVariant
from dianoia.circuit.known import KnownValues
from dianoia.circuit.network import Array
from dianoia.families.tables import weights
from dianoia.readings.circuit_model import CircuitModel, ModelRequest
from dianoia.readings.display import Numeric
from dianoia.readings.instruments import query_of
from dianoia.readings.instruments.lamp import FLICKER_HZ
from dianoia.readings.model import Hypothesis
from dianoia.readings.outcomes import Display, Outcomes

#: Seconds after codes were cleared from which the module may have latched again.
LATCH_AGAIN_S = 45.0
#: Ratio of a heater's ohms at another position to this one's, either way.
OTHER_ELEMENT = 2.2
#: As wide as the unknown is.
EVEN = Sampling()


class HeaterModel(CircuitModel):
    """Answers queries about the heater loop. Its phases are the driver's."""

    name = "heater"
    phases = PHASES
    scans = frozenset(("heater_current", "heater_resistance", "heater_command", "battery_voltage"))
    floats_from = 3e4

    def __init__(self, known: KnownValues, asked: ModelRequest, sampling: Sampling = EVEN) -> None:
        loops = [HeaterLoop(variant) for variant in _variants(known, sampling)]
        super().__init__(asked, loops, _shares(known), known.system_v)
        self.position = known.position
        self._battery_v: Mapping[str, float] = {}
        self._unconditioned: HeaterModel | None = None

    def _ask(self, hypotheses: Sequence[Hypothesis]) -> None:
        """See ``CircuitModel``."""
        super()._ask(hypotheses)
        self._latch = np.array(
            [max((self.traits[name].latch for name in h), default=prior("latched-healthy")) for h in self.hypotheses]
        )
        self._swap = {
            ON: np.array(["driver-open" in h for h in self.hypotheses]),
            OFF: np.array(["driver-stuck-on" in h and "driver-open" not in h for h in self.hypotheses]),
        }
        self._shares: dict[Setting, dict[str, Array]] = {}

    def only(self, hypotheses: Sequence[Hypothesis]) -> "HeaterModel":
        """See ``CircuitModel``."""
        twin: HeaterModel = super().only(hypotheses)
        twin._unconditioned = self._unconditioned and self._unconditioned.only(hypotheses)
        return twin

    def conditioned(self, battery_v: Mapping[str, float]) -> "HeaterModel":
        """This model with the battery voltage known in some key positions: all its voltages follow it.

        The battery is the loop's only source, so what was solved stays good and is only scaled.
        """
        twin: HeaterModel = self.fresh()
        twin._battery_v, twin._unconditioned = dict(battery_v), self
        return twin

    def displays(self, probe: Probe) -> Mapping[str, Display] | None:
        """See ``CircuitModel``; in a key position whose battery voltage is not known nothing is worked out anew."""
        free = self._not_conditioned(probe)
        return free.displays(probe) if free else super().displays(probe)

    def answering(self, probe: Probe, hypotheses: Sequence[Hypothesis]) -> "HeaterModel":
        """The same for what answers."""
        free = self._not_conditioned(probe)
        found: HeaterModel = free.answering(probe, hypotheses) if free else super().answering(probe, hypotheses)
        return found

    def healthy(self, probe: Probe) -> Mapping[str, Display] | None:
        """The same of a healthy circuit alone."""
        free = self._not_conditioned(probe)
        return free.healthy(probe) if free else super().healthy(probe)

    def _network_displays(self, probe: Probe) -> Mapping[str, Display] | None:
        """Another position has an element of its own make: its figures say little about this one's."""
        shown = super()._network_displays(probe)
        if shown is None or not self._of_another_make(probe):
            return shown
        factor = OTHER_ELEMENT ** (2.0 * self.each_draw("other element")[None] - 1.0)
        return {
            name: replace(item, shown=item.shown * factor) if isinstance(item, Numeric) else item
            for name, item in shown.items()
        }

    def _of_another_make(self, probe: Probe) -> bool:
        where = probe.of or ""
        if not where.startswith("B") or int(where[-1]) == self.position:
            return False
        return probe.across_element or probe.reads_amps or probe.scanned in ("heater_current", "heater_resistance")

    def outcomes(self, probe: Probe) -> tuple[Outcomes, ...]:
        """The same for the outcomes."""
        free = self._not_conditioned(probe)
        return free.outcomes(probe) if free else super().outcomes(probe)

    def _not_conditioned(self, probe: Probe) -> "HeaterModel | None":
        return self._unconditioned if self._unconditioned and (probe.key or "off") not in self._battery_v else None

    @property
    def unconditioned(self) -> "HeaterModel":
        """See ``LoopModel``."""
        return self._unconditioned or self

    @property
    def hot_ohms(self) -> Array:
        """(draws,) the healthy element's resistance when hot, in ohms."""
        return np.concatenate([HOT_RATIO * loop.element_ohms_20c for loop in self.loops])

    @property
    def high_side(self) -> NDArray[np.bool_]:
        """(draws,) True where the module switches the positive end."""
        return np.concatenate([np.full(loop.draws.count, loop.variant.switch == "high-side") for loop in self.loops])

    def can_be(self) -> Array:
        """Some faults are none where the module switches the other end of the element."""
        high_side = self.high_side
        possible = np.ones((len(self.hypotheses), high_side.size), dtype=bool)
        for row, names in enumerate(self.hypotheses):
            sides = {self.traits[name].only_where for name in names}
            if "low-side" in sides:
                possible[row] &= ~high_side
            if "high-side" in sides:
                possible[row] &= high_side
        return possible

    @property
    def kinds(self) -> NDArray[np.int64]:
        """Low or high side, steady or PWM."""
        return np.concatenate([2 * number + loop.drive_is_pwm for number, loop in enumerate(self.loops)]).astype(
            np.int64
        )

    def swapped(self, phase: str) -> tuple[str, Array] | None:
        """An open driver is never on, a stuck one never off."""
        return (OFF if phase == ON else ON), self._swap[phase]

    def working(self, probe: Probe) -> Array:
        """(draws,) True where the healthy circuit's driver is on in the probe's state, or cannot be.

        Where the wiring is not known, only the usual one is held up as healthy.
        """
        charged = np.concatenate([~loop.battery_is_flat for loop in self.loops])
        charged[self.loops[0].draws.count :] = False
        query = query_of(probe)
        if query is None or not query.setting.powered:
            return charged
        on = charged & (self.share(query.setting)[ON][0] > 0.02)
        return on if on.any() else charged

    def scale(self, key: str) -> Array:
        """Known over drawn battery voltage, (draws,)."""
        drawn = np.concatenate([loop.battery_v(key) for loop in self.loops])
        return self._battery_v[key] / drawn if key in self._battery_v else np.ones_like(drawn)

    def latched(self, setting: Setting) -> Array:
        """1 where the module has shut the heater off after a bad current, (hypotheses, draws)."""
        chance = self._latch
        if setting.codes_cleared:
            again = setting.at_s is not None and setting.at_s > LATCH_AGAIN_S
            chance = chance * (0.6 if again else 0.0)
        elif setting.connector == "unplugged":
            chance = np.minimum(chance + prior("latched-unplugged"), 0.95)
        latched: Array = (self.each_draw("latched")[None] < chance[:, None]).astype(float)
        return latched

    def share(self, setting: Setting) -> dict[str, Array]:
        """The driver on by command unless latched off, else off."""
        kept = self._shares
        if setting not in kept:
            command = np.concatenate([loop.command(setting) for loop in self.loops])[None]
            on = command * (1.0 - self.latched(setting))
            kept[setting] = {ON: on, OFF: 1.0 - on}
        return kept[setting]

    def drop_answers(self) -> None:
        """See ``CircuitModel``."""
        super().drop_answers()
        self._shares = {}

    def flicker(self) -> Array:
        """Chance that the PWM is slow enough to be seen, from its frequency spread 2 to 300 Hz."""
        share = float(np.log(FLICKER_HZ / 2.0) / np.log(300.0 / 2.0))
        return (self.each_draw("frequency")[None] < share).astype(float)


def _shares(known: KnownValues) -> list[float]:
    if known.heater_switch:
        return [1.0]
    table = weights("heater_switch")
    return [table["low-side"], table["high-side"]]


def _variants(known: KnownValues, sampling: Sampling) -> list[HeaterVariant]:
    if known.heater_switch:
        return [HeaterVariant(known, known.heater_switch, sampling.draws())]
    return [
        HeaterVariant(known, "low-side", sampling.draws(sampling.count - sampling.minor)),
        HeaterVariant(known, "high-side", sampling.draws(sampling.minor)),
    ]
