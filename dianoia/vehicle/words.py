"""Places as a person standing at the vehicle says them. Left and right are as seated facing forward."""

from dianoia.case.types import Vehicle, VehicleEngine

_POSITION = {1: "before the catalyst", 2: "after the catalyst", 3: "after the second catalyst"}
#: What an address means, for who reads it the first time.
ADDRESS_HELP = "Bank 1 is the one with cylinder 1. Sensor 1 sits before the catalyst, sensor 2 after it."
_NOX = {1: "before the SCR catalyst", 2: "after the SCR catalyst"}


def bank_side(engine: VehicleEngine | None, bank: int) -> str | None:
    """``left``, ``right``, ``front`` or ``rear``: where a bank sits; None where that is not known."""
    if engine is None or engine.bank_1 is None:
        return None
    other = {"left": "right", "right": "left", "front": "rear", "rear": "front"}
    return engine.bank_1 if bank == 1 else other[engine.bank_1]


def sides(vehicle: Vehicle) -> tuple[str, str]:
    """The vehicle's left and right in full words."""
    if vehicle.steering is None:
        return "vehicle left", "vehicle right"
    driver, passenger = "driver's side", "passenger's side"
    return (
        f"vehicle left, {driver if vehicle.steering == 'left' else passenger}",
        f"vehicle right, {passenger if vehicle.steering == 'left' else driver}",
    )


def address_words(bank: int | None, position: int | None, nox: bool) -> str:
    """A sensor's address: ``Bank 2 · sensor 1, before the catalyst``; what is not known is a question mark."""
    along = (_NOX if nox else _POSITION).get(position or 0)
    address = f"Bank {bank or '?'} · sensor {position or '?'}"
    return f"{address}, {along}" if along else address


def place_words(vehicle: Vehicle, bank: int, position: int, nox: bool) -> str:
    """Where a sensor sits: the bank's side first, then its place along the exhaust."""
    along = (_NOX if nox else _POSITION).get(position, f"position {position}")
    engine = vehicle.engine or VehicleEngine()
    if nox or not has_two_banks(engine, bank):
        return along
    side = bank_side(engine, bank)
    if side is None:
        with_1 = "the bank with cylinder 1" if bank == 1 else "the bank without cylinder 1"
        return f"{with_1}, {along}"
    if engine.layout == "inline":
        half = "front cylinders" if side in ("front", "left") else "rear cylinders"
        return f"{half}, {along}"
    if side in ("front", "rear"):
        return f"{'radiator side' if side == 'front' else 'firewall side'}, {along}"
    left, right = sides(vehicle)
    return f"{left if side == 'left' else right}, {along}"


def has_two_banks(engine: VehicleEngine, coded_bank: int = 1) -> bool:
    """Whether the exhaust has two banks of sensors; two for V and flat engines where it is not said, and wherever a code
    names a sensor of bank 2.
    """
    if coded_bank == 2:
        return True
    if engine.sensor_banks is not None:
        return engine.sensor_banks == 2
    return engine.layout in ("v", "flat")
