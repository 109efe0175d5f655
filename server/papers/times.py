"""Working time, by the clock of the ledger: it runs while a job is worked on, and stands still over longer breaks."""

import itertools
from collections.abc import Sequence
from datetime import datetime

#: A break of more than this is none of the job's time, in minutes; so much of it is taken to be.
BREAK_MIN, OF_A_BREAK_MIN = 20.0, 3.0


def worked_minutes(moments: Sequence[str]) -> float:
    """Minutes worked between moments, ISO 8601; a moment before the one ahead of it counts for nothing.

    >>> worked_minutes(["2026-01-05T08:00:00Z", "2026-01-05T08:12:00Z", "2026-01-05T13:00:00Z"])
    15.0
    """
    times = [datetime.fromisoformat(moment) for moment in moments]
    gaps = [(after - before).total_seconds() / 60.0 for before, after in itertools.pairwise(times)]
    return sum(max(gap, 0.0) if gap <= BREAK_MIN else OF_A_BREAK_MIN for gap in gaps)
