"""What lies ahead: the readings likely still to be taken, the minutes to certainty, and whether certainty pays."""

from collections.abc import Mapping

from dianoia.case.workshop import Workshop
from dianoia.diagnosis.decision.decide import Standing
from dianoia.diagnosis.faults.types import Component
from dianoia.diagnosis.planning.plan import Scored
from dianoia.diagnosis.planning.reduced import ReducedProblem
from dianoia.diagnosis.planning.types import Forecast, ForecastStep, Stop
from dianoia.quantities.show import percent
from dianoia.readings.describe import describe

#: How many readings deep the expected minutes are reckoned; beyond, by what is still open.
_DEPTH = 4


def forecast(
    standing: Standing, chances: Mapping[Component, float], reduced: ReducedProblem | None, workshop: Workshop | None
) -> Forecast:
    """The forecast of a job. reduced: None where no reading is left that tells anything; chances: by component."""
    if standing.decided:
        return Forecast(says="No further reading is needed.")
    if reduced is None:
        return Forecast(says="No reading left would change this. Mend what is certain, then measure again.")  # fmt: skip
    minutes = reduced.expected_minutes(0, _DEPTH)
    return Forecast(
        steps=tuple(_step(item, spent) for item, spent in reduced.way(0)),
        expected_minutes=round(minutes, 1),
        stop=stop(minutes, chances.get("sensor", 0.0), workshop) if workshop else None,
        says=f"About {max(round(minutes), 1)} min until it is certain, if the likeliest is true.",
    )


def _step(item: Scored, minutes: float) -> ForecastStep:
    words = describe(item.candidate.probe)
    return ForecastStep(id=item.candidate.id, says=words.short_step, state=words.state, minutes=round(minutes, 1))


def stop(minutes: float, sensor: float, workshop: Workshop) -> Stop | None:
    """Certainty against fitting the sensor now, in money; None where the workshop's figures do not tell.

    minutes: to certainty; sensor: chance that the sensor is at fault, 0 to 1.

    >>> stop(60.0, 0.9, Workshop(labour_per_hour=90, part_price=40, wrong_call_cost=200)).pays
    False
    """
    if workshop.labour_per_hour is None or workshop.part_price is None or workshop.wrong_call_cost is None:
        return None
    certainty = minutes / 60.0 * workshop.labour_per_hour
    risk = (1.0 - sensor) * workshop.wrong_call_cost
    now = workshop.part_price + risk
    unit = f" {workshop.currency}" if workshop.currency else ""
    figures = (
        f"Certainty takes about {minutes:.0f} min of work, {certainty:.0f}{unit}. Fitting the sensor now costs the part, "
        f"{workshop.part_price:.0f}{unit}, and a {percent(1.0 - sensor)} chance of a wrong call, {risk:.0f}{unit} on average"
    )
    pays = certainty <= now
    advice = (
        ": measuring on is the cheaper way."
        if pays
        else ". That is less than certainty costs: your decision; unproven, it is recorded as such."
    )
    return Stop(certainty_cost=round(certainty, 2), part_price=workshop.part_price, risk_cost=round(risk, 2), pays=pays,
                says=figures + advice)  # fmt: skip
