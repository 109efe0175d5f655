"""The NOx sensor under every hypothesis: supply, ground and bus through the network; messages, status and values from
whether the unit lives, heats and is heard.
"""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from dianoia.case.measures import Probe
from dianoia.case.measures.scan import OF_UNIT, SCAN_KIND
from dianoia.case.setting import Setting
from dianoia.circuit.cells.nox import DOMINANT, HEATING, PHASES, RECESSIVE, WAITING, NoxLoop
from dianoia.circuit.draws import Sampling
from dianoia.circuit.known import KnownValues
from dianoia.circuit.network import Array
from dianoia.readings.circuit_model import CircuitModel, ModelRequest
from dianoia.readings.display import Categorical, Numeric
from dianoia.readings.instruments import query_of
from dianoia.readings.instruments.seen import METER_OHMS, ProbePlace, Query, average, loaded
from dianoia.readings.movement import AIR
from dianoia.readings.moving import live
from dianoia.readings.outcomes import Display

#: As wide as the unknown is.
EVEN = Sampling()
#: Shares of system voltage below which the unit reports its supply, and below which it is silent.
REPORTS, SILENT = 0.82, 0.55
#: And below which, under its heater, it stops heating.
GIVES_UP = 0.6
#: Share of the time for which a probe at its temperature is heated, between these.
REGULATED = (0.25, 1.0)
#: Share of the units that say nothing before the engine runs; own estimate.
SLEEPS = 0.25
#: A drifted probe: share of them whose oxygen reads wrong, and whose NOx has an offset, in ppm at most; the factor on NOx either way.
#: What shows in neither is left to its NOx reading.
OXYGEN_OFF, OFFSET_SHARE, OFFSET_PPM, DRIFT_FACTOR = 0.6, 0.75, 350.0, 2.2
#: The bus's two wires.
BUS = frozenset(("can_high", "can_low"))
_UNIT = ProbePlace("sensor.supply", "sensor.ground")


class NoxModel(CircuitModel):
    """Answers queries about a NOx sensor. Its phases are the unit's heater."""

    name = "nox"
    phases = PHASES
    behaviours = frozenset(
        ("probe-cell", "probe-drift", "probe-nonsense", "probe-crystals", "ammonia-slip", "dosing-low", "scr-worn")
    )

    def __init__(self, known: KnownValues, asked: ModelRequest, sampling: Sampling = EVEN) -> None:
        self.position = known.position
        self.loop = NoxLoop(known, sampling.draws())
        super().__init__(asked, [self.loop], [1.0], known.system_v)

    def conditioned(self, battery_v: Mapping[str, float]) -> "NoxModel":
        """The loop has sources besides the battery, so a known battery voltage is left to the draws."""
        return self

    def working(self, probe: Probe) -> Array:
        """(draws,) True where the healthy unit heats in the probe's state, or cannot."""
        heats = self.loop.dew_point_passed(probe.setting) > 0
        return heats if heats.any() else np.ones(self.draws, dtype=bool)

    def share(self, setting: Setting) -> dict[str, Array]:
        """While it heats the unit switches its heater on and off to hold the probe's temperature."""
        held = REGULATED[0] + (REGULATED[1] - REGULATED[0]) * self.each_draw("unit duty")[None]
        heats = self._heats(setting) * held
        return {HEATING: heats, WAITING: 1.0 - heats}

    def _heats(self, setting: Setting) -> Array:
        """The unit heats once the dew point has passed; where the feed breaks down under it, it gives up."""
        heats = self.loop.dew_point_passed(setting)[None]
        fed = self.answers(Query(setting, (_UNIT,)))
        if fed:
            heats = heats * (fed[0].volts[HEATING] / self.system_v > GIVES_UP)
        return np.where(self.with_trait(lambda traits: traits.bus == "held"), 0.5 * heats, heats)

    def queries(self, probe: Probe) -> list[Query]:
        """What the unit says depends on its supply."""
        if probe.live_value in OF_UNIT:
            return [Query(probe.setting, (_UNIT,))]
        return super().queries(probe)

    def own_displays(self, probe: Probe) -> Mapping[str, Display] | None:
        """Messages, status and values on the scan tool; the bus on a scope."""
        if probe.is_wave and probe.terminals & BUS:
            return self._levels(probe)
        if probe.live_value not in OF_UNIT:
            return None
        setting = probe.setting
        heard, volts = self._heard(setting)
        if probe.live_value == "can_messages":
            return {"value": Categorical({"present": heard, "absent": 1.0 - heard})}
        if probe.live_value == "nox_status":
            return {"value": self._status(setting, heard, volts)}
        ready = (
            (heard > 0.5) & (volts > REPORTS) & (self._heats(setting) > 0.4) & ~self.has("probe-heater", "probe-cell")
        )
        kind = SCAN_KIND[probe.live_value]
        return {
            "value": live(kind, np.where(ready, self._value(probe.live_value, setting, self._position(probe)), np.nan))
        }

    def _levels(self, probe: Probe) -> Mapping[str, Display] | None:
        """Both levels of a bus wire, as a scope shows them: at points, the dominant level and the recessive one apart."""
        query = query_of(probe)
        seen = []
        for level in (DOMINANT, RECESSIVE) if query else ():
            setting = replace(probe.setting, conditions=frozenset((level,)))
            found = self.seen(Query(setting, query.places)) if query else None
            if found is None:
                return None
            seen.append(average(found, loaded(found, METER_OHMS)))
        if not seen:
            return None
        high, low = np.maximum(*seen), np.minimum(*seen)
        return {"high": Numeric("voltage", high), "low": Numeric("voltage", low)}

    def _heard(self, setting: Setting) -> tuple[Array, Array]:
        """Chance that messages are on the bus, and the unit's supply as a share of system voltage."""
        seen = self.seen(Query(setting, (_UNIT,)))
        assert seen is not None
        heats = self._heats(setting) > 0.4
        volts = np.where(heats, seen.volts[HEATING][0], seen.volts[WAITING][0]) / self.system_v
        awake = (setting.key == "running") | (self.each_draw("sleeps")[None] > SLEEPS)
        reaches = (volts > SILENT) & (setting.powered) & awake
        blocked = self.with_trait(lambda traits: traits.bus is not None) | (
            self.has("terminator-lost") & (self.each_draw("reflections")[None] < 0.5)
        )
        return np.where(reaches & ~blocked, 0.98, 0.02), volts

    def _status(self, setting: Setting, heard: Array, volts: Array) -> Categorical:
        weak = volts < REPORTS
        cold = (self._heats(setting) < 0.4) | self.has("probe-heater")
        shaky = self.has("probe-cell", "probe-crystals")
        live = heard > 0.5
        chance = {
            "supply-out-of-range": np.where(weak, 0.85, 0.02),
            "not-at-temperature": np.where(~weak & cold, 0.9, np.where(weak, 0.1, 0.02)),
            "not-stable": np.where(~weak & ~cold, np.where(shaky, 0.7, 0.06), 0.03),
            "valid": np.where(~weak & ~cold, np.where(shaky, 0.25, 0.9), 0.02),
        }
        total = sum(chance.values(), np.zeros(1))
        return Categorical({name: np.where(live, share / total, np.nan) for name, share in chance.items()})

    def _position(self, probe: Probe) -> int:
        """Of the sensor that is read: another one may sit on the other side of the SCR."""
        return int(probe.of[-1]) if probe.of and probe.of.startswith("B") else self.position

    def _value(self, pid: str, setting: Setting, position: int) -> Array:
        unit, drift = self.each_draw("gas")[None], self.has("probe-drift")
        off = self.each_draw("probe off")[None]
        if pid == "o2":
            true = (
                20.4 + 0.9 * self.each_draw("air oxygen")[None]
                if self._in_air(setting) or setting.key != "running"
                else 5 + 11 * self.each_draw("gas oxygen")[None]
            )
            wrong = self.each_draw("drift kind")[None] < OXYGEN_OFF
            factor = np.where(off < 0.5, 0.5 + 0.86 * off, 1.07 + 0.86 * (off - 0.5))
            return np.where(drift & wrong, true * factor, true)
        offset, factor = self._drift()
        if self._in_air(setting):
            return np.where(drift, offset, np.maximum(8 * self.each_draw("nought")[None] - 2, 0.0))
        engine = 120 * 7.5**unit
        if position == 1:
            return np.where(drift, factor * engine + offset, np.where(self.has("probe-crystals"), 0.2 * engine, engine))
        bad = self._behind_catalyst(setting, engine, unit)
        return np.where(drift, factor * bad + offset, np.where(self.has("probe-crystals"), 0.3 * bad, bad))

    def _drift(self) -> tuple[Array, Array]:
        """Offset in ppm and factor of a drifted probe's NOx; one that reads oxygen right has an offset."""
        kind, size = self.each_draw("drift kind")[None], self.each_draw("probe offset")[None]
        there = (kind > OXYGEN_OFF) | (kind < OXYGEN_OFF * OFFSET_SHARE)
        offset = np.where(there, 12.0 + (OFFSET_PPM - 12.0) * size**2, 0.0)
        return offset, DRIFT_FACTOR ** (2.0 * self.each_draw("drift factor")[None] - 1.0)

    def _in_air(self, setting: Setting) -> bool:
        """Whether the probe is in air: out of the pipe, or the engine pumps nothing else."""
        return not AIR.isdisjoint(setting.conditions)

    def _behind_catalyst(self, setting: Setting, engine: Array, unit: Array) -> Array:
        """What a healthy probe behind the SCR reads in ppm, ammonia included. More reductant mends too little of it, and
        slips past a worn catalyst; without any, all that the engine makes arrives.
        """
        if "dosing-off" in setting.conditions:
            # what is stored goes on working for a while, longest where too much was dosed
            passes = self.each_draw("stored")[None]
            healthy = (0.25 + 0.65 * passes) * engine
            full = (0.05 + 0.7 * passes) * engine
            return np.where(self.has("ammonia-slip"), full, np.where(self.has("scr-worn"), 0.9 * engine, healthy))
        amount = self.each_draw("slip")[None]
        if "dosing-on" in setting.conditions:
            slipping = 0.35 * engine + 80 * 5.0**amount
            worn = np.where(self.has("scr-worn"), slipping, 10 + 60 * amount)
            high = np.where(self.has("ammonia-slip"), 80 * 7.0**amount, worn)
            return np.where(self.has("dosing-low"), (0.15 + 0.45 * amount) * engine, high)
        healthy = 5 + 50 * amount
        slip = np.where(self.has("ammonia-slip"), 70 * 6.0**amount, healthy)
        return np.where(self.has("scr-worn", "dosing-low"), 0.5 * engine, slip)
