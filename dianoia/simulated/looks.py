"""What eyes see of the second car: what is wrong shows at its place, or does not show at all."""

from collections.abc import Callable, Mapping

from dianoia.simulated.car import Car
from dianoia.simulated.wiring import OPEN

#: Air that leaks into the exhaust shows from so much on, as lambda added; air that the engine draws in, as a share of its own.
LEAK_SEEN, INTAKE_SEEN = 0.02, 0.12
#: Ohms of a joint that is seen to be corroded.
CORRODED_OHMS = 0.3
#: Times as slow as usual that a coated cell is.
COATED = 0.25


def seen(car: Car, target: str, at: str | None = None) -> str | None:
    """What is seen of a target, by the names of a case file; None where this car does not have it.

    at: where along the exhaust, None for all of it.
    """
    look = _LOOKS.get(target)
    return look(car, at) if look else None


def _fuse(car: Car, at: str | None) -> str:
    return "blown" if car.feed.blown else "ok"


def _pins(car: Car, at: str | None) -> str:
    pins = [wire.faults.get("pin", 0.0) for wire in car.sensor.wires.values()]
    if car.sensor.diode is not None or any(CORRODED_OHMS < ohms < OPEN for ohms in pins):
        return "corroded"
    return "loose" if any(ohms >= OPEN for ohms in pins) else "ok"


def _inline(car: Car, at: str | None) -> str:
    return "wet" if any(a.startswith("inline.") for a, _, _ in car.sensor.shorts) else "ok"


def _harness(car: Car, at: str | None) -> str:
    if any(a.startswith("harness.") and not b.startswith("harness.") for a, b, _ in car.sensor.shorts):
        return "chafed"
    if any(a.startswith("harness.") for a, _, _ in car.sensor.shorts):
        return "melted"
    broken = any(wire.faults.get(place, 0.0) >= OPEN for wire in car.sensor.wires.values() for place in ("near", "far"))
    return "broken" if broken else "ok"


def _exhaust(car: Car, at: str | None) -> str:
    bank, engine = car.sensor.bank, car.engine
    leaks = {
        "before-front": engine.leak_front.get(bank, 0.0),
        "between": engine.leak_rear.get(bank, 0.0),
        "after-rear": 0.0,
    }
    found = leaks[at] if at in leaks else max(leaks.values())
    return "leak" if found > LEAK_SEEN else "ok"


def _intake(car: Car, at: str | None) -> str:
    idle, fast = car.engine.base_lean.get(car.sensor.bank, (0.0, 0.0))
    return "leak" if idle - max(fast, 0.0) > INTAKE_SEEN else "ok"


def _sensor(car: Car, at: str | None) -> str:
    if min(idle for idle, _ in car.engine.base_lean.values()) < -INTAKE_SEEN:
        return "soot"
    return "contaminated" if max(car.sensor.cell.rise_s, car.sensor.cell.fall_s) > COATED else "ok"


def _ground(car: Car, at: str | None) -> str:
    return "corroded" if car.module_ground > CORRODED_OHMS else "ok"


def _urea(car: Car, at: str | None) -> str:
    return "poor" if car.nox.get("left", 0.0) > CORRODED_OHMS else "ok"


_LOOKS: Mapping[str, Callable[[Car, str | None], str]] = {
    "fuse": _fuse,
    "connector": _pins,
    "pins": _pins,
    "inline-connector": _inline,
    "harness": _harness,
    "exhaust": _exhaust,
    "intake": _intake,
    "sensor": _sensor,
    "ground": _ground,
    "urea": _urea,
}
