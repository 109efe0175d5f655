"""Several codes -> the order to work in, what they share, and why each stands where it does."""

from collections.abc import Sequence
from dataclasses import replace

from dianoia.codes.decode import decode
from dianoia.codes.types import CodeText, Decoded

#: Order of work; the lower the earlier.
_RANK_CIRCUIT = {
    "supply": 0,
    "communication": 1,
    "reference": 2,
    "return": 2,
    "pump": 3,
    "trim": 3,
    "swap": 4,
    "heater": 5,
}
_HARD_SIGNAL = {"circuit", "open", "low", "high", "short-to-heater", "inactive"}
_RANK_RELATION = {"misfire": 8, "mixture": 9, "catalyst": 10, "scr": 10, "evap": 12, "unrelated": 12}
_RANK_STATUS = {"permanent": 0, "stored": 0, None: 0, "pending": 1, "history": 2}


def triage(texts: Sequence[CodeText]) -> list[Decoded]:
    """The codes, decoded, in the order to work in, with ``order`` counted from 1."""
    return in_order([decode(text) for text in texts])


def in_order(decoded: Sequence[Decoded]) -> list[Decoded]:
    """Decoded codes in the order to work in, with ``order`` counted from 1."""
    groups = _groups(decoded)
    keyed = sorted(range(len(decoded)), key=lambda i: (_rank(decoded[i], groups.get(i)), i))
    placed = {index: order for order, index in enumerate(keyed, start=1)}
    return [
        replace(decoded[i], order=placed[i], group=groups.get(i), why_here=_why(decoded[i], groups.get(i)))
        for i in keyed
    ]


def _rank(code: Decoded, group: str | None) -> tuple[int, int, int]:
    status = _RANK_STATUS[code.status]
    if code.kind == "unknown":
        return 11, status, 0
    if code.relation:
        return _RANK_RELATION[code.relation], status, 0
    base = _RANK_CIRCUIT.get(code.circuit or "", 6 if code.failure in _HARD_SIGNAL else 7)
    shared_first = 0 if group and base in (1, 2, 5) else base
    return shared_first, status, base


def _groups(decoded: Sequence[Decoded]) -> dict[int, str]:
    """Code index -> the shared-cause group it belongs to. The widest group wins."""
    found: dict[int, str] = {}
    _mark(found, decoded, lambda c: "nox-messages" if c.kind == "nox" and c.circuit == "communication" else None)
    _mark(found, decoded, lambda c: "all-heaters" if c.kind == "oxygen" and c.circuit == "heater" else None)
    _mark(found, decoded, lambda c: "nox-supply" if c.kind == "nox" and c.circuit in ("supply", "heater") else None)
    _mark(found, decoded, lambda c: f"bank-{c.bank}-both-positions" if _signal(c) else None)
    _mark(found, decoded, lambda c: f"position-{c.position}-both-banks" if _signal(c) else None)
    return found


def _signal(code: Decoded) -> bool:
    return code.kind == "oxygen" and code.circuit not in ("heater", "swap") and bool(code.bank and code.position)


def _mark(found: dict[int, str], decoded: Sequence[Decoded], name_of: object) -> None:
    assert callable(name_of)
    members: dict[str, list[int]] = {}
    for index, code in enumerate(decoded):
        name = name_of(code)
        if name and index not in found:
            members.setdefault(name, []).append(index)
    for name, indices in members.items():
        if len({decoded[i].sensors for i in indices}) > 1:
            found.update(dict.fromkeys(indices, name))


_SHARED = {
    "all-heaters": "Several heaters at once: look first at what they share, the heater fuse, relay and in-line "
    "connector, not at several bad sensors.",
    "nox-messages": "Both NOx sensors are silent: look first at the shared supply, ground and bus with its terminators.",
    "nox-supply": "Both NOx sensors complain of their supply or heater: look first at the shared fuse, relay and ground.",
}


def _why(code: Decoded, group: str | None) -> str:
    text = _shared_reason(group) or _own_reason(code)
    if code.status == "pending":
        text += " It is pending: seen once and not yet confirmed, so after the stored ones of its kind."
    if code.status == "history":
        text += " It is from the history: note it, measure it only when it comes back."
    return text


def _shared_reason(group: str | None) -> str:
    if group is None:
        return ""
    if group.startswith("bank-"):
        return f"Front and rear of bank {group[5]} together: look for what that bank shares, a leak, its mixture or a common ground."
    if group.startswith("position-"):
        return f"Position {group[9]} on both banks together: look for what the pair shares, its feed, reference, return or the fuel, before blaming two sensors."
    return _SHARED[group]


def _own_reason(code: Decoded) -> str:
    if code.kind == "unknown":
        return "Not in this code book: look it up before deciding where it belongs."
    if code.relation in ("evap", "unrelated"):
        return "Not part of this circuit: noted and parked."
    if code.relation == "misfire":
        return "A misfire sends unburned oxygen past the sensor: mend it before you believe a lean signal or a catalyst code."
    if code.relation:
        return "May be a consequence: take it after the sensor codes; it may go with them."
    if code.circuit in ("supply", "communication", "reference", "return"):
        return "Supply, reference and communication come first: everything else the sensor says depends on them."
    if code.circuit == "swap":
        return "Crossed connectors make every other signal code of these sensors point to the wrong place."
    if code.circuit == "heater":
        return "A heater is measured in minutes, and a cold cell sets signal codes of its own."
    return "A single sensor's own circuit, after supply and heater codes."
