"""Working time and what it was worth. The clock runs while a job is worked on, and stands still over longer breaks."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from itertools import pairwise

from dianoia.case.workshop import Workshop
from dianoia.repair.acts import MENDS
from dianoia.repair.types import Repair

#: A break of more than this is none of the job's time, in minutes; so much of it is taken to be.
BREAK_MIN, OF_A_BREAK_MIN = 20.0, 3.0


@dataclass(frozen=True)
class JobTime:
    """Minutes worked to find the fault, and to mend it and prove that. by: who corrected them, empty where they are by the clock; says: what
    that was worth.
    """

    finding: float
    mending: float
    by: str = ""
    says: str = ""


def worked_minutes(moments: Sequence[str]) -> float:
    """Minutes worked between moments, ISO 8601; a moment before the one ahead of it counts for nothing, and so does a text that is none.

    >>> worked_minutes(["2026-01-05T08:00:00Z", "yesterday", "2026-01-05", "2026-01-05T08:05:00Z"])
    5.0
    >>> worked_minutes(["2026-01-05T08:00:00Z", "2026-01-05T08:12:00Z", "2026-01-05T13:00:00Z"])
    15.0
    """
    times = [time for time in map(_moment, moments) if time is not None]
    gaps = [(after - before).total_seconds() / 60.0 for before, after in pairwise(times)]
    return sum(max(gap, 0.0) if gap <= BREAK_MIN else OF_A_BREAK_MIN for gap in gaps)


def _moment(text: str) -> datetime | None:
    """A moment; None for a date, a time whose offset is not known, and what is none."""
    try:
        time = datetime.fromisoformat(text)
    except ValueError:
        return None
    return time if time.utcoffset() is not None else None


def by_the_clock(moments: Sequence[str], repair: Repair) -> JobTime:
    """The time of a job. moments: when each reading was taken, in the ledger's order."""
    until = repair.done[0].reading if repair.done else len(moments)
    finding = worked_minutes(moments[:until])
    return JobTime(round(finding), round(worked_minutes(moments) - finding))


def worth(time: JobTime, repair: Repair, workshop: Workshop) -> str:
    """What the time was worth, as far as the workshop's own figures say; empty where there are none."""
    currency, told = workshop.currency or "", []
    if workshop.labour_per_hour:
        finding, all_of_it = (
            minutes / 60.0 * workshop.labour_per_hour for minutes in (time.finding, time.finding + time.mending)
        )
        told.append(f"Labour {all_of_it:.2f} {currency}, {finding:.2f} of it to find the fault.")
    mended = {MENDS[item.action][0] for item in repair.done}
    if workshop.part_price and mended and "sensor" not in mended:
        told.append(f"A sensor for {workshop.part_price:.2f} {currency} was not bought.")
    return " ".join(told)
