"""What a ledger's readings show besides proven parts: the tests behind the rows ``seen`` of gates.json."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial

from dianoia.case.ledger import (
    ActProbe,
    CurrentProbe,
    InspectProbe,
    LampProbe,
    ResistanceProbe,
    ScanProbe,
    ScopeProbe,
    TraceProbe,
    VoltageProbe,
)
from dianoia.case.live import OF_CELL, SIGNAL_TERMINALS
from dianoia.case.observed import Observed
from dianoia.diagnosis.faults.observations import ahead

#: A heater that draws more than this on average gets hot, in amperes.
DRAWS_A = 0.06
#: A cell without a heater is hot, and a NOx sensor past the dew point, so long after the start, in s.
RUN_S = 600.0
#: Something in a loom that stands above this many ohms to ground is free of it, whatever other consumers let through.
FREE_OHMS = 10.0
#: The exhaust is looked over when this share of the leaks ahead of a sensor would have been seen.
LOOKED_OVER = 0.69
_STIMULI = frozenset(("rich", "lean", "snap", "fuel-cut", "fresh-air"))


@dataclass(frozen=True)
class Ledger:
    """Readings that count with their places, in their order.

    heated: whether the sensor has heater terminals; proven: the parts that are; position: of the sensor on the pipe; fitted, mended: places of the last act that
    replaced the sensor, and of the last that replaced or repaired anything, -1 for none: what was read before is history.
    """

    readings: Sequence[tuple[int, Observed]]
    heated: bool
    proven: frozenset[str]
    position: int = 1
    fitted: int = -1
    mended: int = -1

    def places(self, test: Callable[[Observed], bool]) -> tuple[int, ...]:
        """The places of readings that pass."""
        return tuple(place for place, item in self.readings if test(item))

    def of_sensor(self, test: Callable[[Observed], bool]) -> tuple[int, ...]:
        """The same, of the sensor that is fitted now."""
        return tuple(place for place in self.places(test) if place > self.fitted)


Test = Callable[[Ledger], tuple[int, ...]]


def _element_apart(ledger: Ledger) -> tuple[int, ...]:
    """The old one by itself; a part that a swap moved the code with; or the old one back in after a good one worked."""
    own = ledger.of_sensor(lambda item: item.probe.of is None and item.probe.across_element)
    moved = ledger.of_sensor(lambda item: isinstance(item.probe, ActProbe) and item.value == "code-moved")
    return own or moved or _back_in(ledger)


def _back_in(ledger: Ledger) -> tuple[int, ...]:
    for first, good in ledger.readings:
        if good.probe.of != "known-good" or good.probe.by_hand or good.probe.on_the_part:
            continue
        for second, own in ledger.readings:
            if second > first and own.probe.of is None and _same_but_for_the_part(own, good):
                return (first, second)
    return ()


def _same_but_for_the_part(one: Observed, other: Observed) -> bool:
    """Whether the same was measured in the same state, codes cleared alike."""
    return replace(one.probe, of=None).shows == replace(other.probe, of=None).shows


def _plug_seen(ledger: Ledger) -> tuple[int, ...]:
    return ledger.places(
        lambda item: isinstance(item.probe, InspectProbe) and item.probe.target in ("connector", "pins")
    )


def _cell_apart(ledger: Ledger) -> tuple[int, ...]:
    return ledger.of_sensor(_is_cell_apart)


def _is_cell_apart(item: Observed) -> bool:
    probe = item.probe
    points = {point.partition(".")[0] for point in probe.points}
    own = isinstance(probe, VoltageProbe | ResistanceProbe) and probe.of is None and points == {"sensor"}
    return own and bool(probe.terminals & SIGNAL_TERMINALS)


def _cell_hot(ledger: Ledger) -> tuple[int, ...]:
    if not ledger.heated:
        return ledger.places(lambda item: item.probe.key == "running" and (item.probe.at_s or 0.0) >= RUN_S)
    drawing = ledger.of_sensor(_draws_current)
    parts = ("supply", "control", "driver", "heater")
    whole = ledger.proven.issuperset(parts)
    return drawing or (ledger.places(lambda item: item.probe.across_element) if whole else ())


def _draws_current(item: Observed) -> bool:
    probe = item.probe
    current = isinstance(probe, CurrentProbe) or (isinstance(probe, ScanProbe) and probe.pid == "heater_current")
    return current and probe.of is None and item.number is not None and item.number > DRAWS_A


def _dew_point(ledger: Ledger) -> tuple[int, ...]:
    late = ledger.places(lambda item: item.probe.key == "running" and (item.probe.at_s or 0.0) >= RUN_S)
    valid = ledger.places(lambda item: isinstance(item.probe, ScanProbe) and _speaks_hot(item, item.probe))
    return late or valid


def _speaks_hot(item: Observed, probe: ScanProbe) -> bool:
    """The unit itself says that it is past the wait, or shows a figure."""
    if probe.pid == "nox_status":
        return item.value in ("valid", "not-stable")
    return probe.pid in ("nox", "o2") and item.number is not None


def _at_module(ledger: Ledger) -> tuple[int, ...]:
    return ledger.places(
        lambda item: (
            _points_at(item, ("module.", "module_pin.")) and not isinstance(item.probe, ResistanceProbe)
            and item.probe.setting.connector == "unplugged"
        )
    )  # fmt: skip


def _module_pin(ledger: Ledger) -> tuple[int, ...]:
    return ledger.places(
        lambda item: (
            _points_at(item, ("module.heater", "module_pin.heater")) and not isinstance(item.probe, ResistanceProbe)
        )
    )


def _points_at(item: Observed, beginnings: tuple[str, ...]) -> bool:
    power = ("module.power_ground", "module.power_feed")
    return any(point.startswith(beginnings) and point not in power for point in item.probe.points)


def _commanded(ledger: Ledger) -> tuple[int, ...]:
    return ledger.places(_is_commanded)


def _is_commanded(item: Observed) -> bool:
    probe = item.probe
    at_work = isinstance(probe, VoltageProbe | LampProbe | ScopeProbe | CurrentProbe | ScanProbe)
    return (
        at_work and probe.key in ("on", "running") and (probe.codes_cleared or "heater-commanded" in probe.conditions)
    )


def _module_power(ledger: Ledger) -> tuple[int, ...]:
    power = {"module.power_ground", "module.power_feed"}
    measured = ledger.places(
        lambda item: (
            isinstance(item.probe, VoltageProbe)
            and item.probe.key in ("on", "running")
            and bool(power & set(item.probe.points))
        )
    )
    return measured or ledger.places(_other_output_works)


def _other_output_works(item: Observed) -> bool:
    """Another sensor's heater is driven, or its bias stands."""
    probe = item.probe
    if probe.of is None or not probe.of.startswith("B"):
        return False
    if isinstance(probe, LampProbe):
        return item.value in ("bright", "flashing")
    if _of_heater(item):
        return item.number is not None and item.number > DRAWS_A
    return isinstance(probe, VoltageProbe | ScanProbe) and item.number is not None and abs(item.number) > 0.1


def _of_heater(item: Observed) -> bool:
    probe = item.probe
    return isinstance(probe, CurrentProbe) or (isinstance(probe, ScanProbe) and probe.pid == "heater_current")


def _feed_free(ledger: Ledger) -> tuple[int, ...]:
    return ledger.places(_is_feed_free)


def _is_feed_free(item: Observed) -> bool:
    probe = item.probe
    grounds = {"chassis", "battery.negative", "sensor.shell", "module.power_ground", "harness.ground"}
    feed = {"harness.heater_supply", "harness.supply", "fuse.out", "relay.out"}
    across = bool(grounds & set(probe.points)) and bool(feed & set(probe.points))
    apart = isinstance(probe, ResistanceProbe) and probe.setting.connector == "unplugged"
    return apart and across and item.number is not None and item.number > FREE_OHMS


def _honest(ledger: Ledger) -> tuple[int, ...]:
    """It was read rich and lean, or on fuel cut or in fresh air; or its twin was read alike."""
    stirred = {name: ledger.places(partial(_answers, stimulus=name)) for name in sorted(_STIMULI)}
    for alone in ("fuel-cut", "fresh-air", "snap"):
        if stirred[alone]:
            return stirred[alone]
    if stirred["rich"] or stirred["lean"]:
        return tuple(sorted({*stirred["rich"], *stirred["lean"]}))
    return ledger.places(_of_twin)


def _answers(item: Observed, stimulus: str) -> bool:
    probe = item.probe
    own = probe.of is None and (probe.scanned is not None or bool(probe.terminals & SIGNAL_TERMINALS))
    return own and stimulus in probe.conditions and isinstance(probe, ScanProbe | TraceProbe | VoltageProbe)


def _of_twin(item: Observed) -> bool:
    probe = item.probe
    other = probe.of is not None and probe.of.startswith("B")
    return other and probe.scanned in OF_CELL | {"short_trim", "long_trim", "nox", "o2"}


def _leak_seen(ledger: Ledger) -> tuple[int, ...]:
    return tuple(place for place, share in _exhaust(ledger, ("leak",)) if share > 0)


def _exhaust_sound(ledger: Ledger) -> tuple[int, ...]:
    looked = _exhaust(ledger, ("ok", "soot"))
    return tuple(place for place, _ in looked) if sum(share for _, share in looked) >= LOOKED_OVER else ()


def _exhaust(ledger: Ledger, values: tuple[str, ...]) -> list[tuple[int, float]]:
    """Looks at the exhaust that came out so, and how much of what lies ahead of this sensor each saw."""
    return [
        (place, ahead(item.probe, ledger.position))
        for place, item in ledger.readings
        if isinstance(item.probe, InspectProbe) and item.probe.target == "exhaust" and item.value in values
    ]


def _mixture_read(ledger: Ledger) -> tuple[int, ...]:
    trims = ("short_trim", "long_trim")
    return ledger.places(lambda item: isinstance(item.probe, ScanProbe) and item.probe.pid in trims)


def _code_away(ledger: Ledger) -> tuple[int, ...]:
    cleared = ledger.places(lambda item: isinstance(item.probe, ActProbe) and item.probe.action == "clear-codes")
    last = dict(ledger.readings)[cleared[-1]] if cleared else None
    since = cleared[-1] > ledger.mended if cleared else False
    return cleared[-1:] if since and last and last.value == "not-returned" else ()


SEEN: Mapping[str, Test] = {
    "element-apart": _element_apart, "plug-seen": _plug_seen, "cell-apart": _cell_apart, "cell-hot": _cell_hot,
    "dew-point": _dew_point, "module-pin": _module_pin, "at-module": _at_module, "commanded": _commanded, "module-power": _module_power, "feed-free": _feed_free, "honest": _honest,
    "leak-seen": _leak_seen, "exhaust-sound": _exhaust_sound, "mixture-read": _mixture_read, "code-away": _code_away,
}  # fmt: skip
#: Looks at the sensor that need no electrical gate.
PLAINLY_BAD = ("broken", "melted", "wrong-part")


def plainly_bad(ledger: Ledger) -> tuple[int, ...]:
    """Where the sensor's body was seen broken or melted, or to be a wrong part."""
    return ledger.of_sensor(
        lambda item: (
            isinstance(item.probe, InspectProbe) and item.probe.target == "sensor" and item.value in PLAINLY_BAD
        )
    )
