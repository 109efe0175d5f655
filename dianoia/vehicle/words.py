"""Places as a person standing at the vehicle says them. Left and right are as seated facing forward."""

from dianoia.case.types import Engine, Vehicle

_POSITION = {1: "before the catalyst", 2: "after the catalyst", 3: "after the second catalyst"}
_NOX = {1: "before the SCR catalyst", 2: "after the SCR catalyst"}


def bank_side(engine: Engine | None, bank: int) -> str | None:
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


def place_words(vehicle: Vehicle, bank: int, position: int, nox: bool) -> str:
    """Where a sensor sits: the bank's side first, then its place along the exhaust."""
    along = (_NOX if nox else _POSITION).get(position, f"position {position}")
    engine = vehicle.engine
    if nox or engine is None or not has_two_banks(engine):
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


def has_two_banks(engine: Engine) -> bool:
    """Whether the exhaust has two banks of sensors; two for V and flat engines where it is not said."""
    if engine.sensor_banks is not None:
        return engine.sensor_banks == 2
    return engine.layout in ("v", "flat")
