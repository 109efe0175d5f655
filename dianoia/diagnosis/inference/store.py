"""Which circuit a ledger is weighed with: kept ones, and draws taken anew where they have worn out.

A ledger's circuit depends on its first readings only, never on the newest, so what the next reading needs can be made
ready before it is taken.
"""

from collections import OrderedDict
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from threading import RLock
from typing import TypeVar, get_args
from weakref import WeakValueDictionary

from dianoia.case.job import Job
from dianoia.case.ledger import Reading
from dianoia.case.terms import HeaterSwitch
from dianoia.diagnosis.inference.belief import Belief
from dianoia.diagnosis.inference.engine import Circuit, needs_signal
from dianoia.diagnosis.inference.evidence import take_in
from dianoia.diagnosis.inference.learn import Learnt, learn, standing_draws
from dianoia.diagnosis.inference.outlook import get_ready

#: Some 50 to 100 MB each.
_KEPT_CIRCUITS = 12
#: Candidates worked out ahead at once: a reading that comes meanwhile waits for no more.
_PORTION = 6
#: Readings after which the draws may be taken anew; how few may still stand before they are; and the length of a
#: ledger from which they are left alone.
LEARN_AFTER, WORN, LEARN_UNTIL = 3, 8.0, 60

K = TypeVar("K")
V = TypeVar("V")
#: A ledger's first readings as text, with all else that its circuit depends on.
_Key = tuple[str, bool, str, str]
_circuits: OrderedDict[_Key, Circuit] = OrderedDict()
_points: dict[tuple[str, str], int] = {}
_worn: dict[tuple[str, str, int], bool] = {}
#: Two requests must not work out the same circuit at once; those of other cases do not wait.
_locks: WeakValueDictionary[str, "_Lock"] = WeakValueDictionary()
#: Held for moments, while the tables above are read or written.
_tables = RLock()


class _Lock:
    """A lock that goes with its last holder."""

    def __init__(self) -> None:
        self._held = RLock()

    def __enter__(self) -> None:
        self._held.acquire()

    def __exit__(self, *error: object) -> None:
        self._held.release()


@contextmanager
def _lock_of(job: Job) -> Iterator[None]:
    """Held while anything of the job's case is worked out."""
    with _tables:
        lock = _locks.setdefault(_case(job), _Lock())
    with lock:
        yield


def circuit_of(job: Job) -> Circuit:
    """The circuit of a job, from the kept ones where an equal job was seen before."""
    with _lock_of(job):
        circuit = reading_circuit(job)
        circuit.prepare(job)
        return circuit


def reading_circuit(job: Job) -> Circuit:
    """``circuit_of``, with nothing worked out for it yet: enough to judge one reading, without waiting for the rest."""
    counted = _counted(job)
    with _lock_of(job):
        return _circuit(job, counted[: _learnt_at(job, counted)])


def standing_circuit(job: Job) -> Circuit:
    """The circuit that a decision has to rest on: ``circuit_of``, or where too few draws stand after the newest reading,
    one whose draws are taken anew by all of the readings. Only the readings are worked out: mostly none is to follow.
    """
    counted = _counted(job)
    with _lock_of(job):
        if not _learns(job, counted, after=1):
            return circuit_of(job)
        circuit = _circuit(job, counted)
        circuit.work_out(counted)
        return circuit


def make_ready(job: Job) -> None:
    """Work out what the job's next reading will need, whichever it is and whatever it makes suspected."""
    counted = _counted(job)
    with _lock_of(job):
        learns = _learns(job, counted)
        circuit = _circuit(job, counted if learns else counted[: _learnt_at(job, counted)])
    models = circuit.models_for(job)
    for switch in get_args(HeaterSwitch):
        offered = circuit.offered(job, frozenset(circuit.loops), switch)
        for start in range(0, len(offered), _PORTION):
            with _lock_of(job):
                circuit.work_out_offered(offered[start : start + _PORTION])
        for candidate in offered:
            get_ready(circuit.space, models, candidate.probe)
    if learns:
        with _lock_of(job):
            circuit.work_out(counted)
        take_in(circuit.belief(models), counted)


def forget_circuits() -> None:
    """Start without any kept circuit, as a new process does."""
    _circuits.clear()
    _points.clear()
    _worn.clear()


def _counted(job: Job) -> tuple[Reading, ...]:
    return tuple(item for item in job.case.readings if item.struck is None)


def _case(job: Job) -> str:
    """All of a case that its circuit depends on, its readings left out."""
    return repr(replace(job.case, readings=(), title="", specs=(), style="live-first", cannot=(), workshop=None))


def _circuit(job: Job, first: Sequence[Reading]) -> Circuit:
    with_signal = needs_signal(job)
    key = (_case(job), with_signal, job.family.id, repr(first))
    with _tables:
        kept = _circuits.pop(key, None)
    circuit = kept or Circuit(job, with_signal, _learnt(job, first))
    with _tables:
        _circuits[key] = circuit
        while len(_circuits) > _KEPT_CIRCUITS:
            _circuits.popitem(last=False)
    return circuit


def _learnt_at(job: Job, counted: Sequence[Reading]) -> int:
    """By how many of a ledger's first readings its draws are taken, less than all; 0 for by none."""
    counted = counted[: LEARN_UNTIL + 1]
    if len(counted) <= LEARN_AFTER:
        return 0
    key = (_case(job), repr(counted))
    place = _points.get(key)
    if place is None:
        before = counted[:-1]
        place = len(before) if _learns(job, before) else _learnt_at(job, before)
        _keep(_points, key, place)
    return place


def _learns(job: Job, counted: Sequence[Reading], after: int = LEARN_AFTER) -> bool:
    """Whether too few draws still stand after these readings, so that those to come need new ones.

    after: readings since the draws were taken from which they may be taken anew.
    """
    key = (_case(job), repr(counted), after)
    worn = _worn.get(key)
    if worn is None:
        worn = _wears_out(job, counted, after)
        _keep(_worn, key, worn)
    return worn


def _keep(table: dict[K, V], key: K, value: V) -> None:
    with _tables:
        if len(table) > 40 * _KEPT_CIRCUITS:
            table.clear()
        table[key] = value


def _wears_out(job: Job, counted: Sequence[Reading], after: int) -> bool:
    if len(counted) > LEARN_UNTIL or len(counted) - _learnt_at(job, counted) < after:
        return False
    circuit, belief = _believed(job, counted)
    posterior = belief.posterior()
    return any(standing_draws(belief, posterior, loop) < WORN for loop in circuit.loops)


def _learnt(job: Job, first: Sequence[Reading]) -> Learnt | None:
    if not first:
        return None
    _, belief = _believed(job, first)
    return learn(belief, belief.posterior())


def _believed(job: Job, readings: Sequence[Reading]) -> tuple[Circuit, Belief]:
    job = replace(job, case=replace(job.case, readings=tuple(readings)))
    circuit = circuit_of(job)  # with all that may be proposed: what is learnt of the draws depends on which were taken
    belief = circuit.belief(circuit.models_for(job))
    take_in(belief, readings)
    return circuit, belief
