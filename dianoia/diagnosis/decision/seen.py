"""What a ledger's readings show besides proven parts: the tests behind the rows ``seen`` of gates.json."""

from collections.abc import Mapping
from functools import partial

from dianoia.case.observed import Observed
from dianoia.diagnosis.decision.ledger import Ledger, Test
from dianoia.diagnosis.decision.shown.cell import cell_apart
from dianoia.diagnosis.decision.shown.element import element_bad, element_confirmed
from dianoia.diagnosis.decision.shown.heat import cell_hot
from dianoia.diagnosis.decision.shown.honest import honest
from dianoia.diagnosis.decision.shown.trial import trial
from dianoia.diagnosis.decision.shown.unit import nox_alive, nox_fed, nox_grounded, nox_late, nox_spare, nox_wrong
from dianoia.diagnosis.decision.shown.wiring import supply_bad, wire_shown
from dianoia.diagnosis.faults.observations import ahead
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.inference.evidence import DRAWS_A

#: Something in a loom that stands above this many ohms to ground is free of it, whatever other consumers let through.
FREE_OHMS = 10.0
#: A module that reports this many volts of its own supply, as a share of the nominal, is fed.
FED_SHARE = 0.85
_DRIVER = ("driver-open", "driver-stuck-on")
_BIAS = ("bias-missing",)
_SHORTS = tuple(name for name in faults() if name.startswith(("wire-short-ground:", "wire-short-battery:")))


def _at_module(ledger: Ledger) -> tuple[int, ...]:
    """What the module should give, missing at its own terminal with the sensor unplugged."""
    places = ledger.since_mended(
        lambda item: _points_at(item, ("module.", "module_pin.")) and not item.probe.reads_ohms
        and item.probe.setting.connector == "unplugged"
    )  # fmt: skip
    return ledger.bad(places, _BIAS)


def _module_pin(ledger: Ledger) -> tuple[int, ...]:
    """A driver that does not do what it should, read at the module's own terminal."""
    places = ledger.since_mended(
        lambda item: _points_at(item, ("module.heater", "module_pin.heater")) and not item.probe.reads_ohms
    )
    return ledger.bad(places, _DRIVER)


def _load_apart(ledger: Ledger) -> tuple[int, ...]:
    """The sensor unplugged while the module's terminal was read, or read free of a short."""
    apart = tuple(place for place in _module_pin(ledger) if ledger.at(place).probe.setting.connector == "unplugged")
    own = ledger.of_sensor(lambda item: item.probe.of is None and item.probe.across_element)
    return apart or ledger.good(own, ("heater-short",))


def _wire_free(ledger: Ledger) -> tuple[int, ...]:
    """The wire measured free of ground and battery, or taken off the module."""
    off = ledger.since_mended(lambda item: _points_at(item, ("module_pin.",)) and not item.probe.reads_ohms)
    ohms = ledger.since_mended(_is_wire_to_ground)
    return off or ohms


def _is_wire_to_ground(item: Observed) -> bool:
    """Ohms of a wire to ground, both its ends apart, high; or volts of it with no battery on it."""
    probe = item.probe
    ends = {point.partition(".")[0] for point in probe.points}
    grounds = bool({"chassis", "battery.negative", "module.power_ground"} & set(probe.points))
    apart = probe.setting.connector == "unplugged" and probe.setting.module_connector == "unplugged"
    free = item.number is not None and item.number > FREE_OHMS
    return probe.reads_ohms and grounds and apart and free and bool(ends & {"harness", "module", "inline"})


def _points_at(item: Observed, beginnings: tuple[str, ...]) -> bool:
    power = ("module.power_ground", "module.power_feed")
    return any(point.startswith(beginnings) and point not in power for point in item.probe.points)


def _commanded(ledger: Ledger) -> tuple[int, ...]:
    return ledger.since_mended(_is_commanded)


def _is_commanded(item: Observed) -> bool:
    probe = item.probe
    at_work = probe.at_work or probe.live_value is not None
    return (
        at_work and probe.key in ("on", "running") and (probe.codes_cleared or "heater-commanded" in probe.conditions)
    )


def _module_power(ledger: Ledger) -> tuple[int, ...]:
    """The module's own power good: measured, reported by itself, or another of its outputs seen working."""
    power = {"module.power_ground", "module.power_feed"}
    measured = ledger.places(
        lambda item: item.probe.reads_volts and item.probe.key in ("on", "running")
        and bool(power & set(item.probe.points))
    )  # fmt: skip
    return (
        measured
        or ledger.places(partial(_reports_its_volts, system_v=ledger.system_v))
        or ledger.places(_other_output_works)
    )


def _reports_its_volts(item: Observed, system_v: float) -> bool:
    fed = item.number is not None and item.number > FED_SHARE * system_v
    return item.probe.live_value == "battery_voltage" and fed


def _other_output_works(item: Observed) -> bool:
    """Another sensor's heater is driven, or its bias stands."""
    probe = item.probe
    if probe.of is None or not probe.of.startswith("B"):
        return False
    if probe.is_lamp:
        return item.value in ("bright", "flashing")
    if probe.reads_amps or probe.scanned == "heater_current":
        return item.number is not None and item.number > DRAWS_A
    return (probe.reads_volts or probe.live_value is not None) and item.number is not None and abs(item.number) > 0.1


def _feed_free(ledger: Ledger) -> tuple[int, ...]:
    return ledger.places(_is_feed_free)


def _is_feed_free(item: Observed) -> bool:
    probe = item.probe
    grounds = {"chassis", "battery.negative", "sensor.shell", "module.power_ground", "harness.ground"}
    feed = {"harness.heater_supply", "harness.supply", "fuse.out", "relay.out"}
    across = bool(grounds & set(probe.points)) and bool(feed & set(probe.points))
    apart = probe.reads_ohms and probe.setting.connector == "unplugged"
    return apart and across and item.number is not None and item.number > FREE_OHMS


def _leak_seen(ledger: Ledger) -> tuple[int, ...]:
    """A leak seen ahead of this sensor."""
    looked = [
        (place, ahead(item.probe, ledger.position))
        for place, item in ledger.readings
        if item.probe.looked == "exhaust" and item.value == "leak"
    ]
    return tuple(place for place, share in looked if share > 0)


def _code_away(ledger: Ledger) -> tuple[int, ...]:
    cleared = ledger.places(lambda item: item.probe.acted == "clear-codes")
    last = dict(ledger.readings)[cleared[-1]] if cleared else None
    since = cleared[-1] > ledger.mended if cleared else False
    return cleared[-1:] if since and last and last.value == "not-returned" else ()


def _nothing_failed(ledger: Ledger) -> tuple[int, ...]:
    """The sound readings, where nothing is bad that was not read sound again."""
    read = ledger.since_mended(lambda item: not item.probe.by_hand and item.probe.of is None)
    sound = ledger.sound(read)
    asked = {place: ledger.at(place).probe.asks for place in read}
    failed = ledger.bad(read, tuple(faults()))
    again = all(any(other > place and asked[other] == asked[place] for other in sound) for place in failed)
    return sound if again else ()


SEEN: Mapping[str, Test] = {
    "element-bad": element_bad, "element-confirmed": element_confirmed, "trial": trial,
    "cell-apart": cell_apart, "cell-hot": cell_hot, "nox-fed": nox_fed, "nox-grounded": nox_grounded, "nox-late": nox_late, "nox-alive": nox_alive,
    "nox-wrong": nox_wrong, "nox-spare": nox_spare, "honest": honest,
    "module-pin": _module_pin, "at-module": _at_module, "load-apart": _load_apart, "wire-free": _wire_free, "commanded": _commanded,
    "module-power": _module_power, "feed-free": _feed_free, "leak-seen": _leak_seen, "code-away": _code_away,
    "nothing-failed": _nothing_failed,
    "wire-shown": wire_shown, "supply-bad": supply_bad,
}  # fmt: skip
