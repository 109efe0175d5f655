"""What is done to a vehicle while an instrument records: steps of settings and seconds.

>>> parse_plan("key=on 2s; key=running 60s; rpm=2500 with=rich 10.5s")[2]
Step(changes={'rpm': 2500.0, 'conditions': frozenset({'rich'})}, seconds=10.5, warm=False)
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from dianoia.errors import RefusedInput, refuse
from dianoia.instruments.vehicle import SimulatedVehicle

#: Longest plan, in seconds.
MOST_S = 7200.0


@dataclass(frozen=True)
class Step:
    """One step of a plan."""

    changes: Mapping[str, Any] = field(default_factory=dict)
    """What is set at its start, by the names of ``LiveCar.set``."""
    seconds: float = 0.0
    """How long it lasts."""
    warm: bool = False
    """Whether it begins with a warm idling engine, whatever was before."""


#: Name -> steps.
PLANS: Mapping[str, tuple[Step, ...]] = {
    "cold-start": (Step({"key": "on"}, 3.0), Step({"key": "running"}, 240.0)),
    "warm-idle": (Step(warm=True, seconds=60.0),),
    "rich-lean": (
        Step(warm=True, seconds=20.0),
        Step({"conditions": frozenset({"rich"})}, 15.0),
        Step({"conditions": frozenset({"lean"})}, 15.0),
        Step({"conditions": frozenset()}, 20.0),
    ),
    "snap": (Step(warm=True, seconds=10.0), Step({"conditions": frozenset({"snap"})}, 15.0)),
    "heater-off-and-on": (
        Step(warm=True, seconds=20.0),
        Step({"key": "off"}, 60.0),
        Step({"key": "running"}, 60.0),
    ),
    "drive": (
        Step({"key": "running"}, 60.0),
        Step({"rpm": 2500.0, "load": 0.4}, 300.0),
        Step({"conditions": frozenset({"fuel-cut"})}, 10.0),
        Step({"rpm": None, "load": 0.0}, 120.0),
    ),
    "unplug": (
        Step(warm=True, seconds=30.0),
        Step({"connector": "unplugged"}, 60.0),
        Step({"connector": "mated"}, 30.0),
    ),
    "dew-point": (Step({"key": "on"}, 5.0), Step({"key": "running"}, 420.0)),
}


def plan_named(text: str) -> tuple[Step, ...]:
    """A plan by its name, or as written out. Raises RefusedInput."""
    return PLANS[text] if text in PLANS else parse_plan(text)


def parse_plan(text: str) -> tuple[Step, ...]:
    """Steps written as settings and seconds, with semicolons between them. Raises RefusedInput, naming the step."""
    steps = [_parsed(part.split(), number) for number, part in enumerate(text.split(";"), start=1) if part.strip()]
    if not steps:
        raise refuse("plan", "one of " + ", ".join(PLANS) + ", or steps such as key=running 30s; rpm=2500 10s", text)
    if sum(step.seconds for step in steps) > MOST_S:
        raise refuse("plan", f"at most {MOST_S:.0f} s", f"{sum(step.seconds for step in steps):g} s")
    return tuple(steps)


def _parsed(words: Sequence[str], number: int) -> Step:
    *settings, last = words
    try:
        seconds = float(last.removesuffix("s"))
    except ValueError:
        known = "one of " + ", ".join(PLANS) + ", or steps that end with their seconds, such as key=running 30s"
        raise refuse(f"plan, step {number}", known, " ".join(words)) from None
    if not 0.0 <= seconds <= MOST_S:
        raise refuse(f"plan, step {number}", f"0 to {MOST_S:.0f} s", last)
    changes: dict[str, Any] = {}
    for setting in settings:
        name, _, value = setting.partition("=")
        changes |= _setting(name, value, number)
    return Step(changes, seconds)


def _setting(name: str, value: str, number: int) -> dict[str, Any]:
    readers: Mapping[str, Callable[[str], Any]] = {
        "key": str,
        "rpm": lambda text: None if text == "idle" else float(text),
        "load": float,
        "connector": str,
        "battery": str,
        "module": str,
        "of": str,
        "with": lambda text: frozenset(text.split("+")) - {"none", ""},
    }
    if name not in readers:
        raise refuse(f"plan, step {number}", "a setting: " + ", ".join(readers), name)
    try:
        return {"conditions" if name == "with" else name: readers[name](value)}
    except ValueError:
        raise refuse(f"plan, step {number}", f"a number for {name}", value) from None


def driven(vehicle: SimulatedVehicle, steps: Sequence[Step]) -> Iterator[Step]:
    """Set each step's changes and yield it; whoever asks lets its seconds go by. Raises RefusedInput, naming the step."""
    for number, step in enumerate(steps, start=1):
        try:
            if step.warm:
                vehicle.live.warm_up()
            vehicle.turn(**step.changes)
        except RefusedInput as refusal:
            found = refusal.findings[0]
            raise refuse(f"plan, step {number}: {found.field}", found.expected, found.found) from None
        yield step
