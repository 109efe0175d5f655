"""The people who work on the car: four ways of working, each with its own branches, who stop when they are satisfied.

A person takes readings, notes them as people do (rounded, a state left out or wrong in five of a hundred, misread in two), and
ends with an order: what is to be mended. Some are careful and load a feed before they believe it, others order the part.
"""

from dataclasses import dataclass, field
from random import Random
from typing import Any

from dianoia.simulated.instruments import Bench, three_digits
from dianoia.simulated.sensor import Sensor

#: Shares of readings noted with a piece of state missing or wrong, and misread.
STATE_WRONG, MISREAD = 0.05, 0.02
STYLES = ("live-first", "ohms-first", "scan-first", "basic-kit")
Probe = dict[str, Any]


@dataclass
class Person:
    """One who works on the second car."""

    style: str
    """Of working."""
    careful: float
    """0 to 1, how often a proof that could be left out is taken."""
    bench: Bench
    random: Random
    #: What service data gives: cold ohms, low and high; None for none.
    book_ohms: tuple[float, float] | None
    readings: list[Probe] = field(default_factory=list)
    #: Places in ``readings`` that are misread, or whose state is noted wrongly.
    wrongly: set[int] = field(default_factory=set)

    @property
    def sensor(self) -> Sensor:
        """The sensor in question."""
        return self.bench.car.sensor

    @property
    def system(self) -> float:
        """Nominal volts."""
        return self.bench.car.system_v

    # ---- noting

    def take(self, span: bool = False, **probe: Any) -> Any:
        """Read and note; returns what was seen: volts, ohms, amperes as a number, ``inf`` for OL, words as they are."""
        value = self.bench.read(probe, span)
        if value is None:
            return None
        noted = dict(probe)
        slip = self.random.random()
        before = (dict(noted), value)
        if slip < MISREAD and isinstance(value, str):
            value = self._misread(value)
        elif slip < MISREAD + STATE_WRONG:
            self._state_wrong(noted)
        if (noted, value) != before:
            self.wrongly.add(len(self.readings))
        if isinstance(value, str) and ".." in value:
            noted["moves"] = self._moves(value)
        self.readings.append({**noted, "value": value})
        return _seen(value)

    def _misread(self, value: str) -> str:
        """A digit or the point astray."""
        if value in ("OL", "present", "absent", "bright", "dim", "off", "ok") or not any(
            char.isdigit() for char in value
        ):
            return value
        number, _, unit = value.partition(" ")
        bare = number.rstrip("kM")
        try:
            return f"{three_digits(float(bare) * self.random.choice((0.1, 10.0)))}{number[len(bare) :]} {unit}".rstrip()
        except ValueError:
            return value

    def _state_wrong(self, noted: Probe) -> None:
        choices = [name for name in ("codes_cleared", "at_s", "sensor_c", "rpm", "with") if name in noted]
        if choices:
            noted.pop(self.random.choice(choices))
        elif noted.get("key") == "running" and noted["measure"] == "voltage" and "harness" not in noted["red"]:
            noted["key"] = "on"

    def _moves(self, value: str) -> str:
        low, high = (
            abs(float(part.split()[0]))
            for part in value.replace(" V", "").replace(" mA", "").replace(" %", "").split("..")[:2]
        )
        return "switching" if abs(high - low) > 0.3 else "slow" if abs(high - low) > 0.08 else "steady"

    def maybe(self) -> bool:
        """Whether a proof that could be left out is taken."""
        return self.random.random() < self.careful

    # ---- readings of the trade

    def volts(self, red: str, black: str = "battery.negative", **state: Any) -> float:
        """A voltmeter's reading."""
        found = self.take(measure="voltage", red=red, black=black, **{"key": "running", **_at(red, black, state)})
        return 0.0 if found is None else float(found)

    def ohms(self, red: str, black: str, **state: Any) -> float:
        """An ohmmeter's."""
        found = self.take(
            measure="resistance", red=red, black=black, **{"key": "off", "connector": "unplugged", **state}
        )
        return float("inf") if found is None else float(found)

    def lamp(self, red: str, black: str, **state: Any) -> str:
        """A lamp's light; 21 W where one is at hand."""
        watts = 21.0 if self.random.random() < 0.4 else 5.0
        return str(
            self.take(
                measure="lamp",
                red=red,
                black=black,
                watts=watts,
                **{"key": "running", "connector": "unplugged", **state},
            )
        )

    def scan(self, pid: str, span: bool = False, **state: Any) -> Any:
        """A live value."""
        return self.take(span, measure="scan", pid=pid, **{"key": "running", **state})

    def look(self, target: str, value: str, **more: Any) -> str:
        """Something seen."""
        self.readings.append({"measure": "inspect", "target": target, **more, "value": value})
        return value

    def element(self, of: str | None = None) -> float:
        """The heater's resistance, cold."""
        warm = self.random.random()
        state: Probe = {"sensor_c": self.random.choice((12, 18, 20, 22, 25))} if warm < 0.85 else {"sensor_c": "hot"}
        if of:
            state["of"] = of
        return self.ohms("sensor.heater_supply", "sensor.heater_control", **state)

    def element_bad(self, ohms: float) -> bool:
        """Whether a person calls a heater bad by its ohms."""
        low, high = self.book_ohms or (1.5, 20.0)
        if self.readings[-1].get("sensor_c") == "hot":
            high *= 4.0
        return not 0.7 * low <= ohms <= 1.35 * high

    # ---- a heater's code

    def heater(self) -> str:
        """The order at the end of a heater job: a component, or ``none``."""
        order = {
            "live-first": self._live,
            "ohms-first": self._ohms,
            "scan-first": self._scanned,
            "basic-kit": self._basic,
        }
        return order[self.style]()

    def _live(self) -> str:
        battery = self.volts("battery.positive")
        if self.maybe():
            self.look("connector", self._plug_looks())
        supply = self.volts("harness.heater_supply", connector="mated")
        if self.sensor.switch == "high-side":
            return self._driven_high(battery)
        if supply < 0.8 * battery:
            return self._feed(battery)
        control = self.volts("harness.heater_control", connector="mated", **self._cleared())
        ohms = self.element()
        if self.element_bad(ohms):
            if self.maybe():
                self._loaded()
            return "sensor"
        return self._control(control, battery)

    def _ohms(self) -> str:
        ohms = self.element()
        if self.element_bad(ohms):
            if self.random.random() < 0.4:
                self.element("known-good" if self.random.random() < 0.5 else "new")
            if self.maybe():
                self.volts("battery.positive")
                if self._loaded() == "off":
                    return self._feed(self.bench.car.battery_v("running"))
            return "sensor"
        battery = self.volts("battery.positive")
        if self.sensor.switch == "high-side":
            return self._driven_high(battery)
        supply = self.volts("harness.heater_supply", connector="unplugged")
        if supply < 0.8 * battery:
            return self._feed(battery)
        control = self.volts("harness.heater_control", connector="mated", **self._cleared())
        return self._control(control, battery)

    def _scanned(self) -> str:
        amps = self.scan("heater_current", **self._cleared())
        self.scan("heater_command", **self._cleared())
        if self.maybe():
            twin = next(iter(self.bench.car.twins), None)
            if twin:
                self.scan("heater_current", of=twin)
        if amps is not None and float(amps) > 0.25 and self.maybe():
            self.scan("heater_monitor")
        return self._live()

    def _basic(self) -> str:
        plug = self.look("connector", self._plug_looks())
        if plug in ("loose", "corroded") and not self.maybe():
            return "wiring"
        if self.maybe():
            self._wiggle()
        self.look("fuse", "blown" if self.bench.car.feed.blown else "ok")
        if self.bench.car.feed.blown:
            return self._feed(self.bench.car.battery_v("running"))
        lit = self.lamp("harness.heater_supply", "battery.negative")
        if lit != "bright":
            return self._feed(self.volts("battery.positive"))
        grounded = self.lamp("battery.positive", "harness.heater_control", **self._cleared())
        ohms = self.element()
        if self.element_bad(ohms):
            return "sensor"
        if grounded in ("bright", "flashing", "dim"):
            return "sensor" if not self.maybe() else self._through_the_plug()
        return self._wire_or_module()

    def _wiggle(self) -> None:
        """The loom moved: whether something comes and goes."""
        comes_and_goes = self.bench.other is not None and self.random.random() < 0.7
        value = "changed" if comes_and_goes else "no-change"
        self.readings.append({"measure": "act", "action": "wiggle", "value": value})

    def _cleared(self) -> Probe:
        return {"codes_cleared": True} if self.random.random() < 0.6 else {}

    def _plug_looks(self) -> str:
        wires = [item for name, item in self.sensor.wires.items() if name.startswith(("heater", "supply", "ground"))]
        poor = any("pin" in item.faults for item in wires) or self.sensor.diode is not None
        return self.random.choice(("loose", "corroded", "ok")) if poor else "ok"

    def _loaded(self) -> str:
        """A lamp across the loom's heater terminals: feed and control in one."""
        state = {"codes_cleared": True, "in_place_of": "heater"}
        return self.lamp("harness.heater_supply", "harness.heater_control", **state)

    def _feed(self, battery: float, loaded: bool = False) -> str:
        """From the plug back to the battery, to where the volts are lost."""
        car = self.bench.car
        points = (
            ("fuse.out", "fuse.in", "relay.out", "relay.in")
            if car.feed.order == "relay-fuse"
            else ("relay.out", "relay.in", "fuse.out", "fuse.in")
        )
        under: Probe = {"load": "lamp"} if loaded or self.maybe() else {}
        lost: str | None = None
        for number, point in enumerate(points):
            if self.volts(point, **under) > 0.85 * battery:
                lost = points[number - 1] if number else "wire"
                break
        if lost == "wire":
            self.ohms(points[0], "harness.heater_supply", battery="disconnected")
            return "wiring"
        if lost is None:
            return "supply"
        if lost.startswith("fuse"):
            self.look("fuse", "blown" if car.feed.blown else "ok")
            state = {"others": "unplugged"} if self.maybe() else {}
            to_ground = self.ohms("harness.heater_supply", "battery.negative", **state)
            if to_ground < 3.0:
                return "wiring"
            self.element()
        return "supply"

    def _control(self, control: float, battery: float) -> str:
        """The element is good and fed; now its other end."""
        if control > 0.85 * battery:
            lit = self._loaded()
            if lit in ("bright", "flashing"):
                return "none" if self.random.random() < 0.6 else self._through_the_plug()
            if self.maybe() and self.lamp("harness.heater_supply", "battery.negative") != "bright":
                return self._feed(battery, loaded=True)
            return self._wire_or_module()
        if self.sensor.drive == "pwm" or control < 1.2:
            return self._through_the_plug()
        if self.maybe():
            self.take(
                measure="scope",
                red="harness.heater_control",
                black="battery.negative",
                key="running",
                connector="mated",
            )
        return self._through_the_plug()

    def _wire_or_module(self) -> str:
        ohms = self.ohms(
            "harness.heater_control", "module.heater_control", module_connector="unplugged", battery="disconnected"
        )
        if ohms > 3.0:
            return "wiring"
        if self.maybe():
            self.ohms(
                "harness.heater_control", "battery.negative", module_connector="unplugged", battery="disconnected"
            )
        lit = self.lamp("battery.positive", "module.heater_control", codes_cleared=True, connector="mated")
        self.volts("module.power_ground")
        return "module" if lit == "off" else "wiring"

    def _through_the_plug(self) -> str:
        """All seems well; is there any current, and what is lost on the way."""
        amps = self.take(
            measure="current", at="harness.heater_supply", key="running", connector="mated", **self._cleared()
        )
        if amps is not None and float(amps) < 0.15:
            self.look("pins", "loose" if any("pin" in item.faults for item in self.sensor.wires.values()) else "ok")
            return "wiring"
        across = self.volts("harness.heater_supply", "harness.heater_control", connector="mated", codes_cleared=True)
        battery = self.bench.car.battery_v("running")
        if self.sensor.drive == "steady" and across < 0.85 * battery:
            drop = self.volts("fuse.out", "harness.heater_supply", connector="mated", codes_cleared=True)
            if drop > 0.6:
                return "wiring"
            upstream = self.volts("battery.positive", "fuse.out", codes_cleared=True)
            return "supply" if upstream > 0.6 else "wiring"
        self.readings.append({"measure": "act", "action": "clear-codes", "value": self._comes_back()})
        return "none"

    def _comes_back(self) -> str:
        bad = not self.bench.car.plausible(self.sensor)
        return "returned-at-once" if bad else "not-returned"

    def _driven_high(self, battery: float) -> str:
        ohms = self.element() if not any(item.get("measure") == "resistance" for item in self.readings) else 0.0
        if ohms and self.element_bad(ohms):
            return "sensor"
        supply = self.volts("harness.heater_supply", connector="mated", codes_cleared=True)
        if supply > 0.8 * battery:
            control = self.volts("harness.heater_control", connector="mated", codes_cleared=True)
            return "wiring" if control > 1.0 else self._through_the_plug()
        at_fuse = self.volts("fuse.out")
        if at_fuse < 0.8 * battery:
            return self._feed(battery)
        wire = self.ohms(
            "harness.heater_supply", "module.heater_supply", module_connector="unplugged", battery="disconnected"
        )
        if wire > 3.0:
            return "wiring"
        self.volts("module.power_ground")
        return "module"

    # ---- the paper

    def done(self, component: str) -> None:
        """Note what was mended."""
        act = {"sensor": "replace-sensor", "wiring": "repair-wiring", "module": "replace-module", "exhaust": "repair-exhaust",
               "mixture": "repair-mixture", "catalyst": "repair-exhaust", "supply": "replace-fuse" if self.bench.car.feed.blown else "replace-relay"}  # fmt: skip
        if component in act:
            self.readings.append({"measure": "act", "action": act[component], "value": "done"})


def _at(red: str, black: str, state: Probe) -> Probe:
    at_plug = any(point.startswith(("harness.", "sensor.")) and point != "sensor.shell" for point in (red, black))
    return state if not at_plug or "connector" in state else {**state, "connector": "mated"}


def _seen(value: Any) -> Any:
    if not isinstance(value, str):
        return value
    if value == "OL":
        return float("inf")
    if ".." in value:
        low, high = value.split("..")[:2]
        return float(low), float(high.split()[0])
    bare = value.split()[0]
    scale = {"k": 1e3, "M": 1e6}.get(bare[-1:], 1.0)
    try:
        return float(bare.rstrip("kM")) * scale
    except ValueError:
        return value
