"""The engine of a job, and what is believed after its readings: both kept, so that the next reading finds them.

An engine depends on what is known of the vehicle and on nothing that is read.
"""

from collections import OrderedDict
from collections.abc import Callable, Iterator, Sequence
from contextlib import AbstractContextManager, contextmanager
from threading import RLock
from time import monotonic
from typing import Any
from weakref import WeakValueDictionary

from dianoia.case.job import Job
from dianoia.case.measures import Probe
from dianoia.case.observed import Observed
from dianoia.diagnosis.faults.subject import Subject, subject_of
from dianoia.diagnosis.inference.cache import EngineCache
from dianoia.diagnosis.inference.convergence import Converged, converge
from dianoia.diagnosis.inference.engine import Engine
from dianoia.diagnosis.inference.predictions import get_ready
from dianoia.diagnosis.inference.size import array_bytes
from dianoia.scheduling import new_lock

#: Bytes of engines kept, besides the newest. An engine has 10 to 200 MB while it works, and 5 to 40 MB once it has let go of what can
#: be worked out again.
KEPT_BYTES = 1_000_000_000
#: Ledgers whose belief is kept: 2 to 14 MB each, most of which those of one job share. Of one subject the newest and the one before it:
#: what the newest reading changed is told against that.
KEPT_LEDGERS, KEPT_OF_ONE = 32, 2
#: Share of the bytes of engines that beliefs may have besides.
BELIEVED_SHARE = 0.5
#: Probes worked out ahead at once: a reading that comes meanwhile waits for no more.
_PORTION = 6
#: The probes that an engine of a job should have worked out.
Wanted = Callable[[Job, Engine], Sequence[Probe]]
_Ledger = tuple[Subject, tuple[Observed, ...]]


class EngineStore:
    """The engines of a process, bounded in bytes; safe to use from several threads.

    kept_bytes: of arrays, all engines together; ready: what an engine has worked out before its belief is compared with
    anything; may_follow: what the next reading may be, whatever it makes suspected; clock: seconds, rising.
    """

    def __init__(
        self, ready: Wanted, may_follow: Wanted, kept_bytes: int = KEPT_BYTES, clock: Callable[[], float] = monotonic
    ) -> None:
        self._ready, self._may_follow = ready, may_follow
        self._cache = EngineCache(kept_bytes, clock)
        self._believed: OrderedDict[_Ledger, Converged] = OrderedDict()
        #: Two requests must not work out the same engine at once; those of other subjects do not wait.
        self._locks: WeakValueDictionary[Subject, AbstractContextManager[Any]] = WeakValueDictionary()
        self._guard = RLock()

    def keep_at_most(self, kept_bytes: int) -> None:
        """Bound the engines anew, from the next one on. kept_bytes: of arrays, all engines together."""
        self._cache.most_bytes = kept_bytes

    def engine(self, job: Job) -> Engine:
        """The engine of a job, with its readings and all that is ``ready`` worked out."""
        with self.held(job):
            engine = self.bare_engine(job)
            engine.work_out([*self._ready(job, engine), *(item.probe for item in job.readings)])
            return engine

    def bare_engine(self, job: Job) -> Engine:
        """``engine``, with nothing worked out for it yet: enough to judge one reading, without waiting for the rest."""
        with self.held(job):
            subject = subject_of(job)
            engine = self._cache.get(subject) or Engine(subject)
            self._cache.keep(subject, engine)
            return engine

    def converged(self, job: Job) -> Converged:
        """What is believed after a job's readings. Nobody waits for it who only wants an engine."""
        subject, readings = subject_of(job), tuple(job.readings)
        key = (subject, readings)
        with self._guard:
            known, earlier = self._believed.get(key), self._believed.get((subject, readings[:-1]))
        if known is None:
            engine = self.bare_engine(job)
            with self.held(job):
                engine.work_out(item.probe for item in job.counted)
            known = converge(engine, job.readings, earlier)
        with self._guard:
            self._believed[key] = known
            self._believed.move_to_end(key)
            for older in [kept for kept in self._believed if kept[0] == subject][:-KEPT_OF_ONE]:
                del self._believed[older]
            while len(self._believed) > KEPT_LEDGERS:
                self._believed.popitem(last=False)
        return known

    def _bound_beliefs(self) -> None:
        """Let the oldest beliefs go that are too big together; one is always kept. To measure them takes some hundredths of a second."""
        with self._guard:
            while len(self._believed) > 1 and self.believed_bytes > BELIEVED_SHARE * self._cache.most_bytes:
                self._believed.popitem(last=False)

    @property
    def believed_bytes(self) -> int:
        """What is kept of beliefs now, in bytes of arrays."""
        with self._guard:
            return array_bytes([*self._believed.values()])

    def make_ready(self, job: Job) -> None:
        """Work out what the job's next reading will need, whichever it is and whatever it makes suspected."""
        engine = self.bare_engine(job)
        models = engine.models_for(job.readings)
        probes = self._may_follow(job, engine)
        for start in range(0, len(probes), _PORTION):
            portion = probes[start : start + _PORTION]
            with self.held(job):
                engine.work_out(portion)
            for probe in portion:
                get_ready(engine.space, models, probe)
            if self._cache.nearly_full:
                engine.drop_answers()
        self.converged(job)  # what the next reading changes is told against it
        self._cache.settle()
        self._bound_beliefs()

    def rest(self, job: Job) -> None:
        """Nothing is to be read next in a job: until it is worked on again its engines are the first to go."""
        self._cache.rest({_lasting(job), subject_of(job)})

    def forget(self) -> None:
        """Start without anything kept, as a new process does."""
        self._cache.clear()
        with self._guard:
            self._believed.clear()

    @property
    def kept(self) -> Sequence[Engine]:
        """All engines that are kept, the newest last."""
        return self._cache.engines

    @property
    def kept_bytes(self) -> int:
        """What is kept now, in bytes of arrays."""
        return self._cache.kept_bytes

    def settle(self) -> None:
        """Bound all engines, the newest too, and the beliefs: nobody waits for it."""
        self._cache.settle()
        self._bound_beliefs()

    @contextmanager
    def held(self, job: Job) -> Iterator[None]:
        """Held while anything of the job's subject is worked out."""
        with self._guard:
            lock = self._locks.setdefault(_lasting(job), new_lock())
        with lock:
            yield


def _lasting(job: Job) -> Subject:
    """What a job's circuit is for whatever is read."""
    return subject_of(job.with_readings(()))
