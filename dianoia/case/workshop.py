"""What a workshop has and what its time is worth: settings that order the readings, never the proof."""

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

_STRICT = {"extra": "forbid", "allow_inf_nan": False}

Tool = Literal["meter", "lamp", "scan", "scope", "clamp", "spare"]
#: Places to get to and changes of state that cost minutes.
SetUp = Literal[
    "scan", "battery", "fusebox", "plug", "plug-below", "inline", "module", "look",
    "key", "connector", "module_connector", "codes_cleared", "battery_off", "cooling",
]  # fmt: skip
Minutes = Annotated[float, Field(ge=0, le=480)]
Money = Annotated[float, Field(ge=0, le=1e6)]


@dataclass(frozen=True, kw_only=True)
class Workshop:
    """What the workshop has, and what its time is worth."""

    __pydantic_config__ = _STRICT
    tools: tuple[Tool, ...] | None = None
    """At hand, None for all."""
    minutes: dict[SetUp, Minutes] | None = None
    """The workshop's own figures for getting to a place or changing a state. labour_per_hour, part_price and
    wrong_call_cost (second visit, part taken back, trust) in ``currency``.
    """
    labour_per_hour: Money | None = None
    part_price: Money | None = None
    wrong_call_cost: Money | None = None
    currency: Annotated[str, Field(max_length=8)] | None = None
    name: Annotated[str, Field(max_length=200)] | None = None
    """As it stands on the papers, with the address."""
    paper: Literal["a4", "letter"] | None = None
    """Their size."""
    incomplete: Annotated[int, Field(ge=0, le=12)] | None = None
    """How many monitors may be incomplete at the local inspection."""
