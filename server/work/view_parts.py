"""Small parts of what is answered about a job."""

from dataclasses import dataclass

from dianoia.diagnosis.decision.decide import DecisionName


@dataclass(frozen=True)
class Ticked:
    """A step as it stands."""

    step: str
    done: bool
    note: str
    by: str
    """Who said so last, and when by the server's clock."""
    at: str
    """Who said so last, and when by the server's clock."""
    photos: tuple[int, ...] = ()
    """Their numbers."""


@dataclass(frozen=True)
class WhatIf:
    """The decision without one reading."""

    decision: DecisionName
    """What it would be, title: in words."""
    title: str
    same: bool
    """Whether it is the same with the reading."""
