"""Whether readings show a wire, a joint, a ground or the feed to be bad.

A wire is shown bad by a reading of it alone that points to its fault: ohms along it or to ground, volts lost in it. One end that is
good and one that is bad show it as well, and so does what a hand changed or an eye saw. What is left over when all else is excluded names no wire.
"""

from dianoia.case.measures import Probe
from dianoia.case.observed import Observed
from dianoia.diagnosis.decision.ledger import Ledger
from dianoia.diagnosis.faults.tables import faults

_WIRING = tuple(name for name, row in faults().items() if row.component == "wiring")
_SUPPLY = tuple(name for name, row in faults().items() if row.component == "supply")
_OPEN_LOOM = ("wire-open:heater_supply", "wire-open:heater_control")
_SEEN_BAD = {
    "connector": ("broken", "unplugged", "melted"), "inline-connector": ("broken", "unplugged", "melted"),
    "harness": ("broken", "melted", "chafed"), "ground": ("loose", "corroded", "broken"), "pins": ("loose", "corroded", "broken"),
}  # fmt: skip


def wire_shown(ledger: Ledger) -> tuple[int, ...]:
    """The wire, joint or ground itself read bad, or changed where a hand moved it, or seen broken."""
    alone = ledger.bad(ledger.since_mended(_is_of_one_wire), _WIRING) or ledger.since_mended(_reads_broken)
    if alone:
        return alone
    handled = ledger.since_mended(
        lambda item: item.probe.acted == "wiggle" and bool(item.probe.points) and item.value == "changed"
    )
    looked = ledger.since_mended(_seen_bad)
    return handled or looked or _one_end_bad(ledger)


#: No sound wire reads as much from one end to the other, in ohms.
BROKEN_OHMS = 100.0


def _reads_broken(item: Observed) -> bool:
    probe = item.probe
    along = probe.reads_ohms and len(probe.terminals) == 1 and not probe.on_the_part
    return along and item.number is not None and item.number > BROKEN_OHMS


def _is_of_one_wire(item: Observed) -> bool:
    """Whether what is read lies along one wire, or between a wire and ground with nothing else on it."""
    probe = item.probe
    if probe.reads_ohms:
        return not probe.on_the_part
    return probe.reads_volts and len(probe.points) == 2 and _along(probe)


def _along(probe: Probe) -> bool:
    """Volts lost between two places of one wire, or in a ground."""
    ends = {point.rpartition(".")[2] for point in probe.points}
    own = [
        point for point in probe.points if point.startswith(("harness.", "module.", "inline", "fuse.out", "relay.out"))
    ]
    ground = any(point in ("battery.negative", "chassis") for point in probe.points) and "ground" in ends
    return (len(own) == 2 and (len(ends) == 1 or ends <= {"out", "heater_supply", "supply"})) or ground


def _seen_bad(item: Observed) -> bool:
    probe = item.probe
    return probe.looked is not None and item.value in _SEEN_BAD.get(probe.looked, ())


def _one_end_bad(ledger: Ledger) -> tuple[int, ...]:
    """A live reading that points to the wiring, and a sound one of the same wire at another place; or a joint between two sound halves."""
    live = ledger.since_mended(lambda item: item.probe.key in ("on", "running") and not item.probe.by_hand)
    bad = ledger.bad(live, _WIRING)
    sound = ledger.sound(ledger.since_mended(lambda item: not item.probe.by_hand and item.probe.of is None))
    for one in bad:
        for other in sound:
            if _other_end(ledger.at(one).probe, ledger.at(other).probe):
                return (one, other)
    return _joint(ledger, bad)


def _other_end(bad: Probe, sound: Probe) -> bool:
    """Whether two probes share a wire and touch it at different places."""
    return bool(bad.terminals & sound.terminals) and not set(bad.points) & set(sound.points) - {
        "battery.negative",
        "battery.positive",
        "chassis",
    }


def _joint(ledger: Ledger, bad: tuple[int, ...]) -> tuple[int, ...]:
    """Bad plugged in, while with the plug apart no wire of the loom is open under load, nor the element: the joint between them."""
    mated = tuple(place for place in bad if ledger.at(place).probe.setting.connector == "mated")
    apart = ledger.since_mended(
        lambda item: bool(item.probe.load_watts) and item.probe.setting.connector == "unplugged"
    )
    loom = tuple(place for name in _OPEN_LOOM for place in ledger.good(apart, (name,))[:1])
    own = ledger.of_sensor(lambda item: item.probe.of is None and item.probe.across_element)
    element = ledger.good(own, ("heater-open",))
    whole = mated and len(loom) == len(_OPEN_LOOM) and element
    return tuple(dict.fromkeys((mated[0], *loom, element[0]))) if whole else ()


def supply_bad(ledger: Ledger) -> tuple[int, ...]:
    """A reading that points to the battery, the relay, the fuse or what joins them, or a fuse seen blown."""
    looked = ledger.since_mended(lambda item: item.probe.looked == "fuse" and item.value in ("blown", "corroded"))
    read = ledger.since_mended(lambda item: not item.probe.by_hand)
    return (*looked, *ledger.bad(read, _SUPPLY))
