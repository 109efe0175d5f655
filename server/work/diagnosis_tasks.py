"""What is worked out of a case: by whichever process keeps the job. Everything here is given all it needs, and reads no database."""

import gc
from collections.abc import Sequence

from dianoia.case.job import job_of
from dianoia.case.load import case_from_plain
from dianoia.case.types import Case
from dianoia.diagnosis.catalogue.offered import engines
from dianoia.diagnosis.planning.types import Forecast
from dianoia.diagnosis.verdict.diagnose import Diagnosis
from dianoia.diagnosis.verdict.expected_signals import ExpectedSignal, expected_signals
from dianoia.diagnosis.verdict.judging import judge_newest
from dianoia.diagnosis.verdict.summary import TITLES
from dianoia.diagnosis.verdict.types import Judged
from dianoia.papers.paper import Paper, paper_of
from dianoia.readings.describe import Described, describe_reading
from server.work.precompute import look_ahead
from server.work.turns import Turn, taking
from server.work.view import view_of
from server.work.view_types import JobResult, WhatIf


def concluded(number: int, case: Case, told: Case) -> JobResult:
    """All that follows from a case. number: of its job; case: with the workshop's settings; told: as it is shown, without them."""
    with taking(Turn.CONCLUDING):
        diagnosis = Diagnosis(job_of(case))
        worked = view_of(diagnosis, told)
    look_ahead(number, diagnosis.job, rests=diagnosis.standing.decided)
    return worked


def judged(case: Case) -> tuple[Described, Judged]:
    """The words for a case's newest reading, and its judgement."""
    with taking(Turn.JUDGING):
        parsed = job_of(case)
        return describe_reading(parsed.readings[-1], parsed.pins), judge_newest(parsed)


def expected(case: Case, wanted: Sequence[tuple[str, str | None]]) -> tuple[ExpectedSignal, ...]:
    """What a healthy circuit shows of signals."""
    with taking(Turn.JUDGING):
        return expected_signals(job_of(case), wanted)


def without(case: Case, place: int) -> WhatIf:
    """What the decision would be without one reading."""
    with taking(Turn.CONCLUDING):
        diagnosis = Diagnosis(job_of(case), plan=False)
        decision = diagnosis.weighed.without(place)
    return WhatIf(decision, TITLES[decision], decision == diagnosis.standing.decision)


def papered(case: Case, told: Case) -> tuple[Paper, JobResult]:
    """What the papers say, and all that is shown of the case. told: as it is shown, without the workshop's settings."""
    with taking(Turn.CONCLUDING):
        diagnosis = Diagnosis(job_of(case))
        worked = view_of(diagnosis, told)
        return paper_of(diagnosis, worked.view.verdict), worked


def prepared(number: int, case: Case, rests: bool) -> None:
    """Have what the next reading will need made ready. number: of the job; case: with the workshop's settings; rests: a decision stands."""
    look_ahead(number, job_of(case), rests)


def forecast(case: Case) -> Forecast:
    """What lies ahead."""
    with taking(Turn.CONCLUDING):
        return Diagnosis(job_of(case)).forecast()


def begin(kept_bytes: int) -> None:
    """What a process of its own does first. kept_bytes: of the circuits that it keeps."""
    engines.keep_at_most(kept_bytes)
    concluded(0, *[_warm_up()] * 2)
    gc.collect()
    gc.freeze()


def _warm_up() -> Case:
    """Any case: what it loads does not have to be loaded for the first that comes."""
    return case_from_plain({"format": "dianoia-case/1", "vehicle": {"label": "-"}, "codes": [{"code": "P0135"}]})
