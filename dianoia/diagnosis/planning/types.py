"""What lies ahead of a job, as it is told."""

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class ForecastStep:
    """A reading of the remaining plan."""

    id: str
    says: str
    state: str
    minutes: float
    """Set-up included, from where the one before leaves off."""


@dataclass(frozen=True, kw_only=True)
class Stop:
    """Certainty against fitting the sensor now, in the workshop's currency."""

    certainty_cost: float
    part_price: float
    risk_cost: float
    """The chance of a wrong call times its cost."""
    pays: bool
    """Whether certainty costs no more than part and risk."""
    says: str


@dataclass(frozen=True, kw_only=True)
class Forecast:
    """What lies ahead."""

    says: str
    steps: tuple[ForecastStep, ...] = ()
    """The readings if each shows what is likeliest."""
    expected_minutes: float | None = None
    """Over all outcomes, None where nothing is left to measure."""
    stop: Stop | None = None
