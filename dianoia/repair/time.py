"""Working time and what it was worth. The clock runs while a job is worked on, and stands still over longer breaks."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Literal, get_args

from dianoia.case.workshop import Workshop
from dianoia.repair.acts import MENDS
from dianoia.repair.types import Repair

Phase = Literal["finding", "mending", "proving"]
#: A break of more than this is none of the job's time, in minutes; so much of it is taken to be. A part is fitted without a touch of
#: the screen, so the time before an act of repair may be longer; own estimates.
BREAK_MIN, BREAK_BEFORE_ACT_MIN, OF_A_BREAK_MIN = 20.0, 120.0, 3.0


@dataclass(frozen=True)
class JobTime:
    """Minutes worked to find the fault, to mend it, and to prove that."""

    finding: float
    mending: float
    proving: float = 0.0
    by: str = ""
    """Who corrected them, empty where they are by the clock."""
    says: str = ""
    """What that cost and saved."""
    unseen: str = ""
    """What fitting a sensor on the code alone would have cost, which is the workshop's own matter."""

    @property
    def minutes(self) -> float:
        """All of it."""
        return self.finding + self.mending + self.proving


@dataclass(frozen=True)
class Moment:
    """Something that was done on a job."""

    at: str
    """ISO 8601."""
    reading: int | None = None
    """Its place where it is one."""
    step: bool = False
    """Whether it is a step of the repair."""


def by_the_clock(moments: Sequence[Moment], repair: Repair, returned: Collection[int] = ()) -> JobTime:
    """The time of a job; what passed before a moment belongs to what it ended. moments: in the ledger's order; returned: places of the
    readings that say that the code is back. A moment before the one ahead of it counts for nothing, and so does a text that is none.

    >>> day = "2026-01-05T"
    >>> moments = [Moment(day + "08:00Z"), Moment("yesterday"), Moment(day + "08:12Z", 0), Moment(day + "13:00Z", 1)]
    >>> by_the_clock(moments, Repair()).finding
    15
    """
    acts = {item.reading for item in repair.done}
    spent: dict[Phase, float] = dict.fromkeys(get_args(Phase), 0.0)
    now: Phase = "finding"
    last: datetime | None = None
    for moment in moments:
        at = _moment(moment.at)
        mended = moment.reading in acts
        ended: Phase = "mending" if mended or (moment.step and now == "finding") else now
        if at is not None:
            spent[ended] += _passed(last, at, BREAK_BEFORE_ACT_MIN if mended else BREAK_MIN)
            last = at
        now = "proving" if mended else "finding" if moment.reading in returned else now
    return JobTime(round(spent["finding"]), round(spent["mending"]), round(spent["proving"]))


def _passed(before: datetime | None, at: datetime, most: float) -> float:
    """Minutes worked between two moments."""
    gap = (at - before).total_seconds() / 60.0 if before else 0.0
    return max(gap, 0.0) if gap <= most else OF_A_BREAK_MIN


def _moment(text: str) -> datetime | None:
    """A moment; None for a date, a time whose offset is not known, and what is none."""
    try:
        time = datetime.fromisoformat(text)
    except ValueError:
        return None
    return time if time.utcoffset() is not None else None


def valued(time: JobTime, repair: Repair, workshop: Workshop) -> JobTime:
    """The same with what it was worth, as far as the workshop's own figures say."""
    return replace(time, says=_worth(time, repair, workshop), unseen=_unseen(repair, workshop))


def time_words(time: JobTime) -> str:
    """The working time in a sentence; empty for none.

    >>> time_words(JobTime(1, 0)), time_words(JobTime(24, 6, 42)), time_words(JobTime(0, 0))
    ('1 minute of work.', '72 minutes of work: 24 minutes to find the fault, 6 minutes to mend it, 42 minutes to prove the repair.', '')
    """
    phases = ((time.finding, "find the fault"), (time.mending, "mend it"), (time.proving, "prove the repair"))
    parts = [f"{_minutes(spent)} to {what}" for spent, what in phases if round(spent) > 0]
    if not round(time.minutes):
        return ""
    return f"{_minutes(time.minutes)} of work" + (f": {', '.join(parts)}." if len(parts) > 1 else ".")


def _minutes(spent: float) -> str:
    return "1 minute" if round(spent) == 1 else f"{round(spent)} minutes"


def _worth(time: JobTime, repair: Repair, workshop: Workshop) -> str:
    currency, told = workshop.currency or "", []
    if workshop.labour_per_hour:
        finding, whole = (minutes / 60.0 * workshop.labour_per_hour for minutes in (time.finding, time.minutes))
        told.append(f"Labour {whole:.2f} {currency}, {finding:.2f} of it to find the fault.")
    mended = {MENDS[item.action][0] for item in repair.done}
    if workshop.part_price and mended and "sensor" not in mended:
        told.append(f"A sensor for {workshop.part_price:.2f} {currency} was not bought.")
    return " ".join(told)


def _unseen(repair: Repair, workshop: Workshop) -> str:
    """What fitting a sensor on the code alone costs on average; empty before a repair."""
    chance = repair.sensor_unseen
    if chance is None:
        return ""
    said = f"A sensor fitted on such a code alone mends about {round(10 * chance)} of 10 vehicles"
    if not workshop.wrong_call_cost:
        return f"{said}."
    wrong = (1.0 - chance) * workshop.wrong_call_cost
    return f"{said}: wrong calls would cost {wrong:.2f} {workshop.currency or ''} a job on average.".replace("  ", " ")
