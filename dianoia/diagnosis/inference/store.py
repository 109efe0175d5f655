"""Which engine a ledger is weighed with: one that is kept, or a new one, its draws taken by some of the ledger's first readings.

A ledger's engine depends on its first readings only, never on the newest, so what the next reading needs can be made
ready before it is taken.
"""

from collections.abc import Callable, Iterator, Sequence
from contextlib import AbstractContextManager, contextmanager
from threading import RLock
from time import monotonic
from typing import Any
from weakref import WeakValueDictionary

from dianoia.case.job import Job
from dianoia.case.measures import Probe
from dianoia.diagnosis.faults.subject import Subject, subject_of
from dianoia.diagnosis.inference.belief import Belief
from dianoia.diagnosis.inference.cache import EngineCache
from dianoia.diagnosis.inference.engine import Engine
from dianoia.diagnosis.inference.evidence import take_in
from dianoia.diagnosis.inference.first_readings import FirstReadings, lasting, whole
from dianoia.diagnosis.inference.predictions import get_ready
from dianoia.diagnosis.inference.resampling import ResamplingPolicy, learnt_from
from dianoia.scheduling import new_lock

#: Bytes of engines kept, besides the newest. An engine has 10 to 200 MB while it works, and 5 to 40 MB once it has let go of what can
#: be worked out again.
KEPT_BYTES = 1_000_000_000
#: Probes worked out ahead at once: a reading that comes meanwhile waits for no more.
_PORTION = 6
#: The probes that an engine of a job should have worked out.
Wanted = Callable[[Job, Engine], Sequence[Probe]]


class EngineStore:
    """The engines of a process, bounded in bytes; safe to use from several threads.

    kept_bytes: of arrays, all engines together; ready: what a first engine has worked out before its belief is compared with
    anything; may_follow: what the next reading may be, whatever it makes suspected; clock: seconds, rising.
    """

    def __init__(
        self, ready: Wanted, may_follow: Wanted, kept_bytes: int = KEPT_BYTES, clock: Callable[[], float] = monotonic
    ) -> None:
        self._ready, self._may_follow = ready, may_follow
        self._cache = EngineCache(kept_bytes, clock)
        self._resampling = ResamplingPolicy(self._believed)
        #: Two requests must not work out the same engine at once; those of other subjects do not wait.
        self._locks: WeakValueDictionary[Subject, AbstractContextManager[Any]] = WeakValueDictionary()
        self._guard = RLock()

    def keep_at_most(self, kept_bytes: int) -> None:
        """Bound the engines anew, from the next one on. kept_bytes: of arrays, all engines together."""
        self._cache.most_bytes = kept_bytes

    def engine(self, job: Job) -> Engine:
        """The engine of a job, with its readings worked out, and before its draws are taken anew all that is ``ready``."""
        with self.held(job):
            engine = self.bare_engine(job)
            self._prepare(job, engine)
            return engine

    def bare_engine(self, job: Job) -> Engine:
        """``engine``, with nothing worked out for it yet: enough to judge one reading, without waiting for the rest."""
        with self.held(job):
            return self._engine(job, whole(job).of(self._resampling.taken_by(whole(job))))

    def first_engine(self, job: Job) -> Engine:
        """The engine of a job before any of its readings: its draws as wide as the unknown is."""
        with self.held(job):
            return self._engine(job, whole(job).of(0))

    def firm_engine(self, job: Job, taken_anew: int) -> Engine:
        """An engine that a decision may rest on: its draws taken by all of the readings, however they were ordered. taken_anew: the
        how-manieth time; each has more draws than the one before, and others. Only the readings are worked out: mostly none is to follow.
        """
        ledger = whole(job.in_order)
        with self.held(job):
            engine = self._engine(ledger.job, ledger.of(0))
            engine.work_out(item.probe for item in ledger.readings)
            return self._firm(subject_of(ledger.job), ledger, taken_anew, engine)

    def _firm(self, subject: Subject, ledger: FirstReadings, times: int, before: Engine) -> Engine:
        key = (subject, (*ledger.readings, f"taken {times} times by all"))
        kept = self._cache.get(key)
        engine = kept or Engine(subject, learnt_from(before, ledger.readings, times))
        self._cache.keep(key, engine)
        if kept is None:
            engine.work_out(item.probe for item in ledger.readings)
            take_in(engine.belief(engine.models_for(ledger.readings)), ledger.readings)
            engine.let_go()  # what was said of the readings is all that is asked of it
        return engine

    def make_ready(self, job: Job, likely: Sequence[Probe] = ()) -> None:
        """Work out what the job's next reading will need, whichever it is and whatever it makes suspected. likely: what may come next;
        of draws taken anew no more than that is foreseen.
        """
        ledger = whole(job)
        with self.held(job):
            worn = self._resampling.wears_out(ledger)
            count = ledger.count if worn else self._resampling.taken_by(ledger)
            engine = self._engine(job, ledger.of(count))
        models = engine.models_for(job.readings)
        probes = self._may_follow(job, engine) if engine.first else likely
        for start in range(0, len(probes), _PORTION):
            portion = probes[start : start + _PORTION]
            with self.held(job):
                engine.work_out(portion)
            for probe in portion:
                get_ready(engine.space, models, probe, rough=engine.first)
            if self._cache.nearly_full:
                engine.drop_answers()
        if worn:
            with self.held(job):
                engine.work_out(item.probe for item in ledger.readings)
            take_in(engine.belief(models), ledger.readings)
        self._cache.settle()

    def rest(self, job: Job) -> None:
        """Nothing is to be read next in a job: until it is worked on again its engines are the first to go."""
        self._cache.rest({lasting(job), subject_of(job)}, job.counted)

    def forget(self) -> None:
        """Start without any kept engine, as a new process does."""
        self._cache.clear()
        self._resampling.clear()

    @property
    def kept(self) -> Sequence[Engine]:
        """All engines that are kept, the newest last."""
        return self._cache.engines

    @property
    def kept_bytes(self) -> int:
        """What is kept now, in bytes of arrays."""
        return self._cache.kept_bytes

    def settle(self) -> None:
        """Bound all engines, the newest too: nobody waits for it."""
        self._cache.settle()

    @contextmanager
    def held(self, job: Job) -> Iterator[None]:
        """Held while anything of the job's subject is worked out."""
        with self._guard:
            lock = self._locks.setdefault(lasting(job), new_lock())
        with lock:
            yield

    def _prepare(self, job: Job, engine: Engine) -> None:
        """Work out a job's readings, and with an engine whose draws are the first all that is ``ready``: others foresee a few only."""
        ready = self._ready(job, engine) if engine.first else ()
        engine.work_out([*ready, *(item.probe for item in job.readings)])

    def _engine(self, job: Job, drawn_by: FirstReadings) -> Engine:
        """The engine of a job, its draws taken by some of its first readings."""
        subject = subject_of(job)
        key = (subject, drawn_by.readings)
        kept = self._cache.get(key)
        engine = kept or Engine(subject, self._resampling.learnt(drawn_by))
        self._cache.keep(key, engine)
        return engine

    def _believed(self, ledger: FirstReadings) -> tuple[Engine, Belief]:
        """Belief after a ledger."""
        engine = self._engine(ledger.job, ledger.of(self._resampling.taken_by(ledger)))
        self._prepare(ledger.job, engine)
        belief = engine.belief(engine.models_for(ledger.readings))
        take_in(belief, ledger.readings)
        return engine, belief
