"""What a job's hypotheses and its circuit depend on: the job without its readings, words and prices."""

from collections.abc import Iterator
from dataclasses import dataclass

from dianoia.case.job import Job
from dianoia.case.measures.scan import OF_CELL
from dianoia.circuit.known import KnownValues, known_of
from dianoia.codes.types import Decoded
from dianoia.diagnosis.faults.tables import trim_codes


@dataclass(frozen=True)
class Subject:
    """What an engine is built for."""

    known: KnownValues
    """Of vehicle and sensor."""
    codes: tuple[Decoded, ...]
    primary: Decoded | None
    told: frozenset[str]
    """History, symptoms, and what fuel trim codes say."""
    with_signal: bool
    """Whether the signal loop is in play."""

    @property
    def heater_coded(self) -> bool:
        """Whether the first code names the heater."""
        return self.primary is not None and self.primary.circuit == "heater"


def subject_of(job: Job) -> Subject:
    """What a job's circuit is for."""
    told = frozenset((*job.case.history, *job.case.symptoms, *_trim_codes(job)))
    return Subject(known_of(job), job.codes, job.primary, told, _needs_signal(job))


def _trim_codes(job: Job) -> Iterator[str]:
    """What the fuel trim codes say of this sensor's bank, and of the other; of a code that is only history nothing."""
    for side, codes in trim_codes().items():
        for item in job.codes:
            if item.code in codes and item.status != "history":
                yield f"trims-{side}" if item.bank in (None, job.bank) else f"other-bank-{side}"


def _needs_signal(job: Job) -> bool:
    """Whether the signal loop is in play: its code, or a reading at its terminals."""
    if job.primary is None or job.primary.circuit != "heater":
        return True
    own = set(job.family.terminals) - {"heater_supply", "heater_control"}
    return any(item.probe.scanned in OF_CELL or item.probe.terminals & own for item in job.counted)
