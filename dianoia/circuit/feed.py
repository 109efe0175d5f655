"""The feed from the battery to its end: relay and fuse in the order this vehicle has them, and what else hangs on it."""

import numpy as np

from dianoia.case.setting import Setting
from dianoia.case.terms import FeedOrder
from dianoia.circuit.draws import Draws
from dianoia.circuit.known import KnownValues
from dianoia.circuit.network import DIRTY_OHMS, OPEN_OHMS, Array, Network
from dianoia.families.tables import weights

#: Where the sensor's own wire begins.
END = "feed.end"
#: Branches from the battery to the fuse box. A fault of this stretch is as likely in each.
MAIN = ("main feed", "main fuse", "main cable")
#: The same, then relay and fuse, and how often a resistance of the supply lies in each; own estimate: a third in each third.
BOX, IN_BOX = (*MAIN, "relay", "fuse"), (1.0, 1.0, 1.0, 3.0, 3.0)
#: Share of the vehicles whose relay comes before the fuse, where the order is not known; own estimate.
RELAY_FIRST = 0.6
#: What joins one part of a fuse box to the next, in ohms.
_JOINT_OHMS = 0.002
#: Share of the blown fuses that still pass a little over what has settled in them, and from how many ohms on; own estimate.
LEAKING, BLOWN_OHMS = 0.1, 3e5
#: Share of the open wires and contacts that still pass a little over dirt; own estimate.
DIRTY = 0.3
#: How often a feed's other consumers are none that conduct, a bulb, or something else; own estimate.
NEIGHBOURS = (0.35, 0.08, 0.57)
#: Where all other consumers are said to be unplugged, one was not found so often; own estimate.
FORGOTTEN = 0.3
#: Of a feed that nothing else hangs on, to ground: damp and dust; the drier, the nearer to nothing.
INSULATION_OHMS = (1e7, 2e8)
#: What the car's other circuits let through from the battery's positive lead to ground once the battery is taken off. An ohmmeter
#: sees modules asleep, not their standby current of some tens of mA; own estimate.
ASLEEP_OHMS = (100.0, 3e4)


def battery_branch(network: Network, draws: Draws, connected: bool, volts: Array | float) -> None:
    """The battery, or what remains on its positive lead with the battery off. volts: of the battery."""
    ohms = 0.02 if connected else draws.log_uniform("asleep", *ASLEEP_OHMS)
    network.branch("battery", "battery.negative", "battery.positive", ohms, volts if connected else 0.0)


def feed(
    network: Network, draws: Draws, setting: Setting, order: FeedOrder | None, relay_ohms: Array | float
) -> dict[str, str]:
    """Build it from ``battery.positive`` to ``END``; the branch at each of its points. relay_ohms: of the relay's contact."""
    relay_first = _relay_first(draws, order)
    main = draws.uniform("main feed", 0.01, 0.05)
    network.branch("main feed", "battery.positive", "main_fuse.in", 0.4 * main)
    network.branch("main fuse", "main_fuse.in", "main_fuse.out", 0.1 * main)
    network.branch("main cable", "main_fuse.out", "feed.start", 0.5 * main)
    network.branch("relay", "relay.in", "relay.out", relay_ohms)
    network.branch("fuse", "fuse.in", "fuse.out", 0.01)
    for first, last, chosen in (("relay", "fuse", relay_first), ("fuse", "relay", ~relay_first)):
        if not chosen.any():
            continue
        joint = np.where(chosen, _JOINT_OHMS, OPEN_OHMS)
        network.branch(f"{first} first", "feed.start", f"{first}.in", joint)
        network.branch(f"{first} to {last}", f"{first}.out", f"{last}.in", joint)
        network.branch(f"{last} last", f"{last}.out", END, joint)
    network.branch("neighbours", END, "battery.negative", neighbours_ohms(draws, setting))
    return {
        f"{part}.{side}": part.replace("_", " ") for part in ("main_fuse", "relay", "fuse") for side in ("in", "out")
    }


def _relay_first(draws: Draws, order: FeedOrder | None) -> Array:
    """(draws,) True where the relay comes before the fuse."""
    if order is not None:
        return np.full(draws.count, order == "relay-fuse")
    return draws.unit("feed order") < RELAY_FIRST


def blown_ohms(draws: Draws) -> Array:
    """(draws,) what a blown fuse lets through, in ohms."""
    leaking = draws.unit("blown fuse leaks") < LEAKING
    return np.where(leaking, draws.log_uniform("blown", BLOWN_OHMS, DIRTY_OHMS), OPEN_OHMS)


def broken_ohms(draws: Draws, least: Array | float) -> Array:
    """(draws,) an open wire or contact, in ohms: an air gap, or anything that dirt still lets through. least: what is open, not
    corroded.
    """
    place = draws.unit("open") / DIRTY
    ohms: Array = np.where(place < 1.0, least * (DIRTY_OHMS / least) ** np.minimum(place, 1.0), OPEN_OHMS)
    return ohms


def neighbours_ohms(draws: Draws, setting: Setting) -> Array:
    """(draws,) what the feed's other consumers let through to ground, in ohms: none, a bulb (a tenth of its hot ohms when cold),
    or anything from a coil to a module asleep.
    """
    kind = draws.choice("neighbours kind", NEIGHBOURS)
    bulb = draws.log_uniform("neighbour bulb", 0.5, 8.0) * (10.0 if setting.powered else 1.0)
    there = np.choose(
        kind, [draws.log_uniform("insulation", *INSULATION_OHMS), bulb, draws.log_uniform("neighbours", 8.0, 3e5)]
    )
    if not setting.others_apart:
        return there
    forgotten = (draws.unit("neighbour forgotten") < FORGOTTEN) & (kind == len(NEIGHBOURS) - 1)
    return np.where(forgotten, there, OPEN_OHMS)


def feed_live_from(known: KnownValues, draws: Draws) -> Array:
    """(draws,) when a heater's feed is live: 0 always, 1 with key on, 2 with the engine running."""
    names = ["always", "key-on", "running"]
    if known.feed_live:
        return np.full(draws.count, names.index(known.feed_live))
    table = weights("feed_live")
    return draws.choice("feed live", [table[name] for name in names])
