"""What a code says: the answer of ``decode``."""

from dataclasses import dataclass
from typing import Literal

Kind = Literal["oxygen", "nox", "related", "unknown"]
Cell = Literal["switching", "wideband"]
Circuit = Literal["heater", "signal", "reference", "pump", "return", "trim", "supply", "communication", "swap"]
Failure = Literal[
    "circuit", "open", "low", "high", "performance", "slow", "delayed", "inactive", "stuck-lean", "stuck-rich",
    "stuck-low", "stuck-high", "short-to-heater", "resistance", "intermittent", "lost", "swapped", "out-of-range",
    "exhaust-sample",
]  # fmt: skip
Relation = Literal["mixture", "catalyst", "misfire", "evap", "scr", "unrelated"]
Status = Literal["stored", "pending", "permanent", "history"]


@dataclass(frozen=True)
class FailureType:
    """What a failure type byte says."""

    byte: str
    """Two hex digits."""
    says: str
    """The table's sense."""


@dataclass(frozen=True, kw_only=True)
class CodeText:
    """A code as parsed, before it is looked up."""

    code: str
    """``P0057`` or ``SPN 3226 FMI 5``."""
    failure_byte: str | None = None
    """Two hex digits."""
    spn: int | None = None
    fmi: int | None = None
    source_address: int | None = None
    """Of a J1939 message."""
    status: Status | None = None


@dataclass(frozen=True, kw_only=True)
class Decoded:
    """One code, answered."""

    code: str
    title: str
    standard: bool
    known: bool
    kind: Kind
    cell: Cell | None = None
    bank: int | None = None
    position: int | None = None
    circuit: Circuit | None = None
    failure: Failure | None = None
    direction: Literal["rich-to-lean", "lean-to-rich"] | None = None
    sensors: tuple[str, ...] = ()
    twin: str | None = None
    failure_type: FailureType | None = None
    source_address: int | None = None
    relation: Relation | None = None
    says: str
    """In full."""
    explains: str = ""
    """What it says, without its title. ``order``, ``group`` and ``why_here`` are set where a list was triaged."""
    makes: str = ""
    does_not_say: str
    severity: str
    onset: Literal["hard", "drive"] | None = None
    clear_and_see: str = ""
    status: Status | None = None
    order: int | None = None
    group: str | None = None
    why_here: str | None = None
