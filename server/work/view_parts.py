"""Small parts of what is answered about a job."""

from dataclasses import dataclass

from dianoia.diagnosis.decision.decide import DecisionName


@dataclass(frozen=True)
class Ticked:
    """A step as it stands. by, at: who said so last, and when by the server's clock; photos: their numbers."""

    step: str
    done: bool
    note: str
    by: str
    at: str
    photos: tuple[int, ...] = ()


@dataclass(frozen=True)
class WhatIf:
    """decision: what it would be, title: in words; same: whether it is the same with the reading."""

    decision: DecisionName
    title: str
    same: bool
