"""Carries out orders at a simulated vehicle, and keeps its clock in step with the real one while someone looks."""

from collections.abc import Mapping
from typing import Any

from dianoia.errors import RefusedInput
from dianoia.instruments.orders import ScanCode, ShownValue, VehicleLook, VehicleSetting
from dianoia.instruments.vehicle import SimulatedVehicle

#: Real seconds that pass at most between two looks: a page that was left standing still finds its vehicle as it left it.
MOST_BETWEEN_S = 3.0
#: An order's setting -> the vehicle's own name for it.
NAMES = {"module_connector": "module"}


class Operator:
    """One vehicle and whoever works at it."""

    def __init__(self, vehicle: SimulatedVehicle) -> None:
        self.vehicle = vehicle
        self._seen_at: float | None = None
        self._mended: tuple[str, ...] = ()

    def carry_out(self, order: Mapping[str, Any], now_s: float) -> VehicleLook:
        """Do what an order says and look. now_s: the real time in seconds. Raises RefusedInput, naming the setting.

        order: any of ``turn`` (see ``VehicleSetting``), ``wait_s``, ``clear_codes``, ``mended`` (components, in their order), ``probe``
        (a reading without its value) and ``watch`` (what moves is given from lowest to highest).
        """
        passed_s = 0.0 if self._seen_at is None else min(max(now_s - self._seen_at, 0.0), MOST_BETWEEN_S)
        self._seen_at = now_s
        self.vehicle.wait(passed_s)
        self._mend(tuple(order.get("mended", self._mended)))
        if turned := order.get("turn"):
            self._turn(turned)
        if order.get("clear_codes"):
            self.vehicle.clear_codes()
        self.vehicle.wait(float(order.get("wait_s", 0.0)))
        return self._look(order.get("probe"), bool(order.get("watch")))

    def _mend(self, components: tuple[str, ...]) -> None:
        """Do the repairs that the ledger has and the vehicle has not."""
        for component in components[len(self._mended) :]:
            self.vehicle.mend(component)
        self._mended = components

    def _turn(self, turned: Mapping[str, Any]) -> None:
        said = {NAMES.get(name, name): value for name, value in turned.items() if value is not None}
        if said.get("rpm") == "idle":
            said["rpm"] = None
        if said.get("fed_v") == "none":
            said["fed_v"] = None
        if "jumper" in said:
            said["jumper"] = tuple(said["jumper"]) or None
        self.vehicle.turn(**said)

    def _look(self, probe: Mapping[str, Any] | None, watch: bool) -> VehicleLook:
        live = self.vehicle.live
        setup = live.setup
        shown, state = self._shown(probe, watch) if probe else (None, {})
        awake = setup.key != "off"
        rpm = self.vehicle.bench.number("engine_speed", live.sensor)
        return VehicleLook(
            setting=VehicleSetting(
                key=setup.key,  # type: ignore[arg-type]
                connector=setup.connector,  # type: ignore[arg-type]
                module_connector=setup.module,  # type: ignore[arg-type]
                battery=setup.battery,  # type: ignore[arg-type]
                rpm=setup.rpm or "idle",
                conditions=tuple(sorted(setup.conditions)),
                fed_v=setup.fed_v,
                jumper=setup.jumper or (),
                of=live.worked_on,
            ),
            since_s=round(live.since, 1),
            rpm=round(float(rpm or 0.0)),
            coolant_c=round(live.coolant_c),
            codes=tuple(ScanCode(**item) for item in self.vehicle.codes()) if awake else None,
            monitors=dict(self.vehicle.monitors()) if awake else {},
            shown=shown,
            state=state,
        )

    def _shown(self, probe: Mapping[str, Any], watch: bool) -> tuple[ShownValue, dict[str, object]]:
        try:
            display = self.vehicle.read(probe, watch)
        except RefusedInput as refusal:
            found = refusal.findings[0]
            return ShownValue(refused=f"Needs {found.field}: {found.expected}."), {}
        if isinstance(display.value, dict):
            figures = {name: str(value) for name, value in display.value.items()}
            return ShownValue(figures=figures), dict(display.state)
        moves = self.vehicle.moves(probe) if watch and ".." in str(display.value) else ""
        return ShownValue(value=str(display.value), moves=moves), dict(display.state)
