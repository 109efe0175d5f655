"""The same people with a signal code, or a NOx sensor's."""

from functools import cached_property
from math import inf
from typing import Any

from dianoia.simulated.people import Person


def _ends(value: Any) -> tuple[float, float]:
    """Lowest and highest of what was seen."""
    if isinstance(value, tuple):
        return value
    return (float(value), float(value)) if isinstance(value, int | float) else (0.0, 0.0)


def _when(conditions: Any) -> dict[str, Any]:
    """A reading's conditions."""
    return {"with": conditions}


class SignalPerson(Person):
    """With an oxygen or air-fuel sensor that answers wrongly."""

    @property
    def top(self) -> str:
        """The cell's positive terminal."""
        return self.sensor.cell_ends[0]

    @property
    def low(self) -> str | None:
        """Its negative one; None for the shell."""
        return self.sensor.cell_ends[1]

    @cached_property
    def pid(self) -> str:
        """The live value that tells of the cell: the one that this tool lists first, for the whole job."""
        return (
            "sensor_voltage"
            if self.sensor.kind in ("switching", "titania")
            else "lambda"
            if self.random.random() < 0.5
            else "cell_current"
        )

    @property
    def twin(self) -> str | None:
        """The same position on the other bank, else any other."""
        own = self.sensor.address
        other = f"B{3 - self.sensor.bank}S{own[3]}"
        return other if other in self.bench.car.twins else next(iter(self.bench.car.twins), None)

    def signal(self) -> str:
        """The order at the end of a signal job."""
        if self.style == "basic-kit" and self.maybe():
            self.look(
                "connector",
                "ok"
                if not any("pin" in item.faults for item in self.sensor.wires.values())
                else self.random.choice(("loose", "corroded")),
            )
        watched = self._watched()
        low, high = watched
        if self.maybe():
            self.scan("loop")
        if self.style in ("scan-first", "live-first") or self.maybe():
            idle = self.scan("long_trim")
            short = self.scan("short_trim", span=True)
            fast = self.scan("long_trim", rpm=2500) if self.maybe() else None
            trims = float(idle or 0) + sum(_ends(short)) / 2
        else:
            trims, fast = 0.0, None
        if self.twin and self.maybe():
            self.scan(self.pid, span=True, of=self.twin)
        rich, lean = self._asked("rich"), self._asked("lean")
        if self.sensor.kind in ("switching", "titania"):
            return self._switching(low, high, rich, lean, trims, fast)
        return self._current(rich, lean, trims)

    def _watched(self) -> tuple[float, float]:
        if self.style == "basic-kit" and self.sensor.kind == "switching":
            black = f"harness.{self.low}" if self.low else "chassis"
            return _ends(
                self.take(
                    True, measure="voltage", red=f"harness.{self.top}", black=black, key="running", connector="mated"
                )
            )
        if self.style == "scan-first" and self.sensor.kind == "switching" and self.maybe():
            self.take(measure="trace", signal="sensor_voltage", key="running")
        return _ends(self.scan(self.pid, span=self.random.random() < 0.85))

    def _asked(self, condition: str) -> tuple[float, float]:
        if self.style == "basic-kit" and self.sensor.kind == "switching":
            black = f"harness.{self.low}" if self.low else "chassis"
            return _ends(
                self.take(
                    True,
                    measure="voltage",
                    red=f"harness.{self.top}",
                    black=black,
                    key="running",
                    connector="mated",
                    **_when(condition),
                )
            )
        return _ends(self.scan(self.pid, span=True, **_when(condition)))

    def _switching(
        self, low: float, high: float, rich: tuple[float, float], lean: tuple[float, float], trims: float, fast: Any
    ) -> str:
        reach = max(rich[1], high) - min(lean[0], low)
        if reach < 0.25:
            return self._flat((low + high) / 2)
        if rich[1] > 0.6 and lean[0] < 0.3:
            return self._honest(low, high, trims, fast)
        if reach < 0.5:
            return "sensor" if not self.maybe() else self._wires() or "sensor"
        return self._honest(low, high, trims, fast)

    def _honest(self, low: float, high: float, trims: float, fast: Any) -> str:
        """It answers; now what it is telling."""
        leak = self.bench.car.engine.leak_front if self.sensor.position == 1 else self.bench.car.engine.leak_rear
        found = leak.get(self.sensor.bank, 0.0) > 0.03 and self.random.random() < 0.9
        if self.maybe() or abs(trims) > 12:
            self.look(
                "exhaust", "leak" if found else "ok", **({"at": "before-front"} if self.random.random() < 0.5 else {})
            )
            if found:
                return "exhaust"
        if self.sensor.position == 2 and high - low > 0.4 and low < 0.3:
            return "catalyst"
        if abs(trims) > 12:
            if trims > 0:
                base = self.bench.car.engine.base_lean.get(self.sensor.bank, (0.0, 0.0))
                air = base[0] > 0.15 and base[1] < 0.6 * base[0]
                self.look("intake", "leak" if air and self.random.random() < 0.8 else "ok")
            return "mixture"
        if self.code_slow():
            return "sensor"
        self.readings.append(
            {"measure": "act", "action": "clear-codes", "value": self.random.choice(("not-returned", "returned-later"))}
        )
        return "none" if self.readings[-1]["value"] == "not-returned" else "sensor"

    def code_slow(self) -> bool:
        """Whether its edges are slow, as a recording shows."""
        self.take(measure="trace", signal="sensor_voltage", key="running")
        return max(self.sensor.cell.rise_s, self.sensor.cell.fall_s) > 0.3 and self.random.random() < 0.8

    def _flat(self, volts: float) -> str:
        """No answer to rich or lean."""
        wired = self._wires()
        if wired:
            return wired
        if self.sensor.kind == "switching" and self.low and self.maybe():
            self.take(True, measure="voltage", red=f"sensor.{self.top}", black=f"sensor.{self.low}", key="running", connector="unplugged",
                      sensor_c="hot", **_when("rich"))  # fmt: skip
        if self.sensor.element is not None:
            ohms = self.element()
            if self.element_bad(ohms):
                return "sensor"
            amps = self.scan("heater_current") if self.style != "basic-kit" else None
            if amps is not None and float(amps) < 0.1:
                return self.heater()
        return "sensor"

    def _wires(self) -> str | None:
        """Bias at the plug, the signal grounded or fed, the wires through; None where all is well."""
        if self.sensor.kind == "switching" and self.style != "basic-kit":
            state: dict[str, Any] = {"key": "on", "connector": "unplugged"}
            self.scan("sensor_voltage", **state)
            grounded = self.scan("sensor_voltage", **state, **_when("signal-grounded"))
            if grounded is not None and float(grounded) > 0.2:
                return self._which()
            if self.sensor.bias_v < 0.05 and self.maybe():
                fed = self.scan("sensor_voltage", **state, **_when("signal-fed"), fed_v=0.6)
                if fed is not None and abs(float(fed) - 0.6) > 0.15:
                    return self._which()
            return self._returns()
        black = f"harness.{self.low}" if self.low else "battery.negative"
        bias = self.volts(f"harness.{self.top}", black, key="on", connector="unplugged")
        wanted = self.sensor.bias_v if self.sensor.kind != "current" else self.sensor.apart_v
        if abs(bias - wanted) > 0.15 + 0.1 * wanted:
            return self._which()
        return self._returns()

    def _returns(self) -> str | None:
        if not self.low:
            return None
        back = self.ohms(
            f"harness.{self.low}", f"module.{self.low}", module_connector="unplugged", battery="disconnected"
        )
        if back > 20.0:
            return "wiring"
        if "pump" in self.sensor.terminals:
            pump = self.ohms("harness.pump", "module.pump", module_connector="unplugged", battery="disconnected")
            return "wiring" if pump > 20.0 else None
        return None

    def _which(self) -> str:
        """Wire or module."""
        through = self.ohms(
            f"harness.{self.top}", f"module.{self.top}", module_connector="unplugged", battery="disconnected"
        )
        if through > 20.0:
            return "wiring"
        down = self.ohms(
            f"harness.{self.top}", "battery.negative", module_connector="unplugged", battery="disconnected"
        )
        if down < 1e3:
            return "wiring"
        live = self.volts(f"harness.{self.top}", key="on", connector="unplugged", module_connector="unplugged")
        if live > 0.3:
            return "wiring"
        low = f"module.{self.low}" if self.low else "battery.negative"
        self.volts(f"module.{self.top}", low, key="on", connector="unplugged")
        self.volts("module.power_ground", key="on")
        return "module"

    def _current(self, rich: tuple[float, float], lean: tuple[float, float], trims: float) -> str:
        """An air-fuel or wideband sensor."""
        moves = abs(sum(rich) - sum(lean)) / 2
        if moves < 0.04:
            wired = self._wires()
            if wired:
                return wired
            ohms = self.element()
            if self.element_bad(ohms):
                return "sensor"
            amps = self.scan("heater_current", codes_cleared=True)
            if amps is not None and float(amps) < 0.15:
                return self.heater()
            return "sensor"
        if abs(trims) > 12:
            return self._honest(0.0, 0.0, trims, None)
        cut = self.scan("lambda", span=True, **_when("fuel-cut"))
        return (
            "sensor"
            if max(self.sensor.cell.rise_s, self.sensor.cell.fall_s) > 0.4 or (cut and _ends(cut)[1] < 1.5)
            else "none"
        )


class NoxPerson(SignalPerson):
    """With a NOx sensor."""

    def signal(self) -> str:
        """The order at the end of a NOx job."""
        heard = self.scan("can_messages", at_s=self.random.choice((300, 600, 900)))
        if heard == "present":
            return self._heard()
        return self._silent()

    def _feeds(self) -> str | None:
        battery = self.volts("battery.positive")
        state = {"at_s": 600} if self.random.random() < 0.7 else {}
        supply = self.volts("harness.supply", "battery.negative", connector="mated", **state)
        if supply < 0.88 * battery:
            loaded = self.volts("fuse.out")
            if loaded < 0.88 * battery:
                self.volts("relay.in")
                self.look("fuse", "blown" if self.bench.car.feed.blown else "ok")
                return "supply"
            self.ohms("fuse.out", "harness.supply", battery="disconnected")
            return "wiring"
        drop = self.volts("harness.ground", "battery.negative", connector="mated", **state)
        if drop > 0.05 * battery:
            return "wiring"
        if self.maybe():
            self.lamp("harness.supply", "harness.ground")
        return None

    def _silent(self) -> str:
        fed = self._feeds()
        if fed:
            return fed
        bus = self.ohms("harness.can_high", "harness.can_low", battery="disconnected")
        if not 45.0 < bus < 80.0:
            return "wiring"
        for wire in ("can_high", "can_low"):
            volts = self.volts(f"harness.{wire}", "battery.negative", key="on", connector="unplugged")
            if not 1.2 < volts < 3.8:
                return "wiring"
        if self.maybe():
            for wire in ("can_high", "can_low"):
                if (
                    self.ohms(f"harness.{wire}", f"module.{wire}", module_connector="unplugged", battery="disconnected")
                    > 5.0
                ):
                    return "wiring"
        if self.maybe():
            self.scan("can_messages", of="known-good")
        return "sensor"

    def _heard(self) -> str:
        status = self.scan("nox_status", at_s=600)
        if status == "supply-out-of-range":
            return self._feeds() or "wiring"
        if status == "not-at-temperature":
            fed = self._feeds()
            return fed or "sensor"
        air = self.scan("o2", at_s=900, **_when(["fresh-air", "heater-commanded"]))
        clean = self.scan("nox", at_s=900, **_when(["fresh-air", "heater-commanded"]))
        if (isinstance(air, float) and abs(air - 20.9) > 1.3) or (isinstance(clean, float) and clean > 25):
            if self.maybe():
                self._feeds()
            return "sensor"
        if self.sensor.position == 1:
            return "none"
        before = self.scan("nox", at_s=900)
        off = self.scan("nox", at_s=900, **_when("dosing-off"))
        self.look("exhaust", "ok")
        if isinstance(before, float) and isinstance(off, float) and (before > 60 or off < before):
            return "dosing"
        return "dosing" if isinstance(before, float) and before != inf and before >= 60 else "none"
