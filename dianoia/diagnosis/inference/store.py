"""Which engine a ledger is weighed with: kept ones, and draws taken anew where they have worn out.

A ledger's engine depends on its first readings only, never on the newest, so what the next reading needs can be made
ready before it is taken.
"""

from collections import OrderedDict
from collections.abc import Callable, Iterator, Sequence
from contextlib import AbstractContextManager, contextmanager
from dataclasses import dataclass, replace
from functools import cached_property
from random import Random
from threading import RLock
from time import monotonic
from typing import Any, TypeVar
from weakref import WeakValueDictionary

from dianoia.case.job import Job
from dianoia.case.measures import Probe
from dianoia.case.observed import Observed
from dianoia.diagnosis.faults.subject import Subject, subject_of
from dianoia.diagnosis.inference.belief import Belief
from dianoia.diagnosis.inference.engine import Engine
from dianoia.diagnosis.inference.evidence import take_in
from dianoia.diagnosis.inference.learn import Learnt, learn, standing_draws
from dianoia.diagnosis.inference.predictions import get_ready
from dianoia.diagnosis.inference.size import array_bytes
from dianoia.diagnosis.inference.uses import Uses
from dianoia.scheduling import new_lock

#: Bytes of engines kept, besides the newest; and ledgers of which it is kept where their draws were taken anew, and how. An
#: engine has 10 to 200 MB while it works, and 5 to 40 MB once it has let go of what can be worked out again.
KEPT_BYTES, _LEDGERS = 1_000_000_000, 480
#: Share of that from which on an engine is made ready without keeping all that was solved for it.
NEARLY = 0.5
#: Share by which an engine may grow before it is measured again.
LITTLE = 0.1
#: Probes worked out ahead at once: a reading that comes meanwhile waits for no more.
_PORTION = 6
#: Readings after which the draws may be taken anew; how few may still stand before they are; and the length of a
#: ledger from which they are left alone.
LEARN_AFTER, WORN, LEARN_UNTIL = 3, 8.0, 60
Ledger = tuple[Observed, ...]
#: The probes that an engine of a job should have worked out.
Wanted = Callable[[Job, Engine], Sequence[Probe]]


K = TypeVar("K")
V = TypeVar("V")
#: A ledger's first readings, and what their circuit is for.
Key = tuple[Subject, tuple[object, ...]]


@dataclass(frozen=True)
class _First:
    """A job with the first ``count`` of its readings that count."""

    whole: Job
    count: int

    @cached_property
    def readings(self) -> Ledger:
        return self.whole.counted[: self.count]

    @cached_property
    def job(self) -> Job:
        return self.whole.with_readings(self.readings)

    @cached_property
    def key(self) -> Key:
        return _lasting(self.whole), self.readings

    def of(self, count: int) -> "_First":
        """With fewer readings."""
        return _First(self.whole, count)


def _lasting(job: Job) -> Subject:
    """What a job's circuit is for whatever is read."""
    return subject_of(job.with_readings(()))


class EngineStore:
    """The engines of a process, bounded in bytes; safe to use from several threads.

    kept_bytes: of arrays, all engines together; ready: what a first engine has worked out before its belief is compared with
    anything; may_follow: what the next reading may be, whatever it makes suspected; clock: seconds, rising.
    """

    def __init__(
        self, ready: Wanted, may_follow: Wanted, kept_bytes: int = KEPT_BYTES, clock: Callable[[], float] = monotonic
    ) -> None:
        self._ready, self._may_follow = ready, may_follow
        self.most_bytes = kept_bytes
        self._engines: OrderedDict[Key, Engine] = OrderedDict()
        self._bytes: dict[Key, int] = {}
        self._measured: dict[Key, int] = {}
        self._small: set[Key] = set()
        self._resting: set[Key] = set()
        self._uses = Uses[Key](clock)
        self._random = Random(7)
        #: By how many of a ledger's first readings its draws are taken; and whether too few stand after all of it.
        self._taken: OrderedDict[Key, int] = OrderedDict()
        self._worn: OrderedDict[Key, bool] = OrderedDict()
        self._densities: OrderedDict[Key, Learnt] = OrderedDict()
        #: Two requests must not work out the same engine at once; those of other subjects do not wait.
        self._locks: WeakValueDictionary[Subject, AbstractContextManager[Any]] = WeakValueDictionary()
        #: Held for moments, while the tables above are read or written.
        self._tables = RLock()

    def keep_at_most(self, kept_bytes: int) -> None:
        """Bound the engines anew, from the next one on. kept_bytes: of arrays, all engines together."""
        self.most_bytes = kept_bytes

    def engine(self, job: Job) -> Engine:
        """The engine of a job, with its readings worked out, and before its draws are taken anew all that is ``ready``."""
        with self.held(job):
            engine = self.bare_engine(job)
            self._prepare(job, engine)
            return engine

    def bare_engine(self, job: Job) -> Engine:
        """``engine``, with nothing worked out for it yet: enough to judge one reading, without waiting for the rest."""
        with self.held(job):
            return self._engine(job, _whole(job).of(self._taken_by(_whole(job))))

    def first_engine(self, job: Job) -> Engine:
        """The engine of a job before any of its readings: its draws as wide as the unknown is."""
        with self.held(job):
            return self._engine(job, _whole(job).of(0))

    def firm_engine(self, job: Job, taken_anew: int) -> Engine:
        """An engine that a decision may rest on: its draws taken by all of the readings, however they were ordered. taken_anew: the
        how-manieth time; each has more draws than the one before, and others. Only the readings are worked out: mostly none is to follow.
        """
        whole = _whole(job.in_order)
        with self.held(job):
            engine = self._engine(whole.job, whole.of(0))
            engine.work_out(item.probe for item in whole.readings)
            return self._firm(subject_of(whole.job), whole, taken_anew, engine)

    def _firm(self, subject: Subject, whole: _First, times: int, before: Engine) -> Engine:
        key = (subject, (*whole.readings, f"taken {times} times by all"))
        with self._tables:
            kept = self._engines.get(key)
        engine = kept or Engine(subject, learnt_from(before, whole.readings, times))
        self._keep_engine(key, engine)
        if kept is None:
            engine.work_out(item.probe for item in whole.readings)
            take_in(engine.belief(engine.models_for(whole.readings)), whole.readings)
            engine.let_go()  # what was said of the readings is all that is asked of it
        return engine

    def make_ready(self, job: Job, likely: Sequence[Probe] = ()) -> None:
        """Work out what the job's next reading will need, whichever it is and whatever it makes suspected. likely: what may come next;
        of draws taken anew no more than that is foreseen.
        """
        whole = _whole(job)
        with self.held(job):
            worn = self._wears_out(whole)
            count = whole.count if worn else self._taken_by(whole)
            engine = self._engine(job, whole.of(count))
        models = engine.models_for(job.readings)
        probes = self._may_follow(job, engine) if engine.first else likely
        for start in range(0, len(probes), _PORTION):
            portion = probes[start : start + _PORTION]
            with self.held(job):
                engine.work_out(portion)
            for probe in portion:
                get_ready(engine.space, models, probe, rough=engine.first)
            if self._nearly_full:
                engine.drop_answers()
        if worn:
            with self.held(job):
                engine.work_out(item.probe for item in whole.readings)
            take_in(engine.belief(models), whole.readings)
        self._settle()

    def rest(self, job: Job) -> None:
        """Nothing is to be read next in a job: until it is worked on again its engines are the first to go."""
        subjects, readings = {_lasting(job), subject_of(job)}, job.counted
        with self._tables:
            self._resting |= {key for key in self._engines if key[0] in subjects and key[1] == readings[: len(key[1])]}

    def forget(self) -> None:
        """Start without any kept engine, as a new process does."""
        with self._tables:
            self._engines.clear()
            self._bytes.clear()
            self._measured.clear()
            self._small.clear()
            self._resting.clear()
            self._uses.clear()
            self._taken.clear()
            self._worn.clear()
            self._densities.clear()

    @contextmanager
    def held(self, job: Job) -> Iterator[None]:
        """Held while anything of the job's subject is worked out."""
        with self._tables:
            lock = self._locks.setdefault(_lasting(job), new_lock())
        with lock:
            yield

    def _prepare(self, job: Job, engine: Engine) -> None:
        """Work out a job's readings, and with an engine whose draws are the first all that is ``ready``: others foresee a few only."""
        ready = self._ready(job, engine) if engine.first else ()
        engine.work_out([*ready, *(item.probe for item in job.readings)])

    def _engine(self, job: Job, drawn_by: _First) -> Engine:
        """The engine of a job, its draws taken by some of its first readings."""
        subject = subject_of(job)
        key = (subject, drawn_by.readings)
        with self._tables:
            kept = self._engines.get(key)
        engine = kept or Engine(subject, self._learnt(drawn_by))
        self._keep_engine(key, engine)
        return engine

    def _learnt(self, drawn_by: _First) -> Learnt | None:
        if not drawn_by.count:
            return None
        with self._tables:
            known = self._densities.get(drawn_by.key)
        if known is None:
            _, belief = self._believed(drawn_by)
            known = learn(belief, belief.posterior())
            self._keep(self._densities, drawn_by.key, known, _LEDGERS)
        return known

    def _taken_by(self, ledger: _First) -> int:
        """By how many of a ledger's first readings its draws are taken, less than all; 0 for by none."""
        if ledger.count <= LEARN_AFTER:
            return 0
        if ledger.count > LEARN_UNTIL + 1:
            return self._taken_by(ledger.of(LEARN_UNTIL + 1))
        with self._tables:
            known = self._taken.get(ledger.key)
        if known is None:
            before = ledger.of(ledger.count - 1)
            known = before.count if self._wears_out(before) else self._taken_by(before)
            self._keep(self._taken, ledger.key, known, _LEDGERS)
        return known

    def _wears_out(self, ledger: _First) -> bool:
        """Whether too few draws still stand after these readings, so that those to come need new ones."""
        key = ledger.key
        with self._tables:
            known = self._worn.get(key)
        if known is None:
            known = self._few_stand(ledger)
            self._keep(self._worn, key, known, _LEDGERS)
        return known

    def _few_stand(self, ledger: _First) -> bool:
        if ledger.count > LEARN_UNTIL or ledger.count - self._taken_by(ledger) < LEARN_AFTER:
            return False
        engine, belief = self._believed(ledger)
        posterior = belief.posterior()
        return any(standing_draws(belief, posterior, loop) < WORN for loop in engine.loops)

    def _believed(self, ledger: _First) -> tuple[Engine, Belief]:
        """Belief after a ledger."""
        engine = self._engine(ledger.job, ledger.of(self._taken_by(ledger)))
        self._prepare(ledger.job, engine)
        belief = engine.belief(engine.models_for(ledger.readings))
        take_in(belief, ledger.readings)
        return engine, belief

    def _keep_engine(self, key: Key, engine: Engine) -> None:
        """Keep it as the newest. An engine grows while it works, so the one that worked until now is measured."""
        with self._tables:
            worked = next(reversed(self._engines), None)
            self._resting.discard(key)
            self._uses.note(key)
            self._keep(self._engines, key, engine, len(self._engines) + 1)
            if worked is None or worked == key:
                return
            self._small.discard(key)
            self._measure(worked)
            self._bound([*self._engines][:-1])

    def _measure(self, key: Key) -> None:
        """Note how big an engine is, unless it has hardly grown: to measure takes as long as a reading's fit."""
        kept, before = sum(self._engines[key].kept), self._measured.get(key)
        if before is None or abs(kept - before) > LITTLE * before:
            self._measured[key], self._bytes[key] = kept, array_bytes(self._engines[key])

    def _settle(self) -> None:
        """Bound all engines, the newest too: nobody waits for it."""
        with self._tables:
            if self._engines:
                newest = next(reversed(self._engines))
                self._measure(newest)
                self._bound([*self._engines])

    def _bound(self, keys: Sequence[Key]) -> None:
        """While all together are too big: those that are soon built again are forgotten, then those that others have taken the place of,
        that rest, or that nobody has come back to, then all let go of what they can, and then any are forgotten. keys: which may, the
        oldest first.

        Any, not the oldest: people who come round to each of their jobs in turn would find every one of them forgotten.
        """
        if not self._too_big:
            return
        for may_go in (self._is_firm, self._is_superseded, self._resting.__contains__, self._uses.is_stale):
            for key in keys:
                if self._too_big and may_go(key):
                    self._forget(key)
        for key in keys:
            if self._too_big and key in self._engines and key not in self._small:
                self._engines[key].let_go()
                self._measured.pop(key, None)
                self._measure(key)
                self._small.add(key)
        left = [key for key in keys if key in self._engines]
        while self._too_big and len(self._engines) > 1 and left:
            self._forget(left.pop(self._random.randrange(len(left))))

    def _forget(self, key: Key) -> None:
        if key in self._engines and len(self._engines) > 1:
            del self._engines[key], self._bytes[key]
            self._measured.pop(key, None)
            self._small.discard(key)
            self._resting.discard(key)
            self._uses.forget(key)

    def _is_firm(self, key: Key) -> bool:
        return any(isinstance(item, str) for item in key[1])

    def _is_superseded(self, key: Key) -> bool:
        """Whether there is an engine whose draws were taken by these readings and more. The first one stays: what a finding hides is
        told by it.
        """
        subject, readings = key
        return bool(readings) and any(
            its[0] == subject and len(its[1]) > len(readings) and its[1][: len(readings)] == readings
            for its in self._engines
        )

    @property
    def _nearly_full(self) -> bool:
        """Whether what is only quicker to have is better not kept."""
        return sum(self._bytes.values()) > NEARLY * self.most_bytes

    @property
    def _too_big(self) -> bool:
        return sum(self._bytes.values()) > self.most_bytes

    @property
    def kept_bytes(self) -> int:
        """What is kept now, in bytes of arrays."""
        with self._tables:
            return sum(array_bytes(kept) for kept in self._engines.values())

    def _keep(self, table: OrderedDict[K, V], key: K, value: V, most: int) -> None:
        with self._tables:
            table[key] = value
            table.move_to_end(key)
            while len(table) > most:
                table.popitem(last=False)


def _whole(job: Job) -> _First:
    return _First(job, len(job.counted))


def learnt_from(engine: Engine, readings: Ledger, times: int) -> Learnt:
    """How to take the draws by what an engine believes after these readings. times: see ``Learnt``."""
    belief = engine.belief(engine.models_for(readings))
    take_in(belief, readings)
    return replace(learn(belief, belief.posterior()), times=times)
