"""Where things sit on the vehicle, as words and as a drawing seen from above, front of the vehicle up."""

from dataclasses import dataclass
from typing import Literal

PlacedKind = Literal["body", "engine", "cylinder", "manifold", "pipe", "catalyst", "scr", "doser"]
Role = Literal["coded", "twin", "other"]


@dataclass(frozen=True)
class Box:
    """An upright rectangle; x, y its upper left corner."""

    x: float
    y: float
    width: float
    height: float

    def overlaps(self, other: "Box") -> bool:
        """Whether two boxes share more than an edge."""
        apart = self.x + self.width <= other.x or other.x + other.width <= self.x
        return not (apart or self.y + self.height <= other.y or other.y + other.height <= self.y)


@dataclass(frozen=True)
class Placed:
    """A part of the plan: a box, or a line along path."""

    kind: PlacedKind
    text: str
    box: Box | None = None
    path: tuple[tuple[float, float], ...] = ()
    bank: int | None = None
    """Whose it is, None where it is shared."""


@dataclass(frozen=True)
class PlacedSensor:
    """A sensor on the plan."""

    address: str
    x: float
    y: float
    label: Box
    """Its box of text."""
    words: str
    """Where it is, as said at the vehicle."""
    role: Role


@dataclass(frozen=True)
class Question:
    """Something not known about the vehicle that the place depends on, and how to find it out."""

    field: str
    ask: str
    how: str


@dataclass(frozen=True)
class Plan:
    """The whole drawing."""

    width: float
    height: float
    parts: tuple[Placed, ...]
    sensors: tuple[PlacedSensor, ...]
    questions: tuple[Question, ...]
    left: str
    """What the vehicle's sides are called for this steering."""
    right: str
    """What the vehicle's sides are called for this steering."""
