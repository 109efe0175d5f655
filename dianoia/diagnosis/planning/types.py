"""What lies ahead of a job, as it is told."""

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class ForecastStep:
    """A reading of the remaining plan. minutes: set-up included, from where the one before leaves off."""

    id: str
    says: str
    state: str
    minutes: float


@dataclass(frozen=True, kw_only=True)
class Stop:
    """Certainty against fitting the sensor now, in the workshop's currency. risk_cost: the chance of a wrong call times
    its cost; pays: whether certainty costs no more than part and risk.
    """

    certainty_cost: float
    part_price: float
    risk_cost: float
    pays: bool
    says: str


@dataclass(frozen=True, kw_only=True)
class Forecast:
    """What lies ahead. steps: the readings if each shows what is likeliest; expected_minutes: over all outcomes, None
    where nothing is left to measure.
    """

    says: str
    steps: tuple[ForecastStep, ...] = ()
    expected_minutes: float | None = None
    stop: Stop | None = None
