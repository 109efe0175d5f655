"""A subject's circuit made ready: models, hypotheses and their prior. No reading changes it (see ``store``)."""

from collections.abc import Iterable, Sequence

from dianoia.case.measures import Probe
from dianoia.case.observed import Observed
from dianoia.circuit.assumptions import battery
from dianoia.diagnosis.faults.partition import Partition, partition_of
from dianoia.diagnosis.faults.subject import Subject
from dianoia.diagnosis.inference.belief import Belief
from dianoia.diagnosis.inference.loops import DrawSettings, Subset, modelled, parts_of
from dianoia.readings.model import LoopModel

#: Of each engine: the battery voltages it is kept conditioned to.
_KEPT_CONDITIONED = 6
#: Share by which two readings of the battery may differ and still be the same.
SAME_BATTERY = 0.012
#: Draws as wide as the unknown is.
WIDE = DrawSettings()
#: (key position, battery volts), sorted.
KnownBattery = tuple[tuple[str, float], ...]


class Engine:
    """Everything about a subject that readings do not change. focus: the loop that the code names; parts: of all loops, the
    focus's first.

    drawing: how its draws are taken; subset: the hypotheses that it knows, None for all; own: loop -> which of the loop's hypotheses.
    """

    def __init__(self, subject: Subject, drawing: DrawSettings = WIDE, subset: Subset | None = None) -> None:
        self.subject = subject
        self.space, self.models, self.own = modelled(subject, drawing, subset)
        self.loops = tuple(model.name for model in self.models)
        coded = "heater" if subject.heater_coded else "signal"
        self.focus = coded if coded in self.loops else self.loops[0]
        self.partition: Partition = partition_of(self.space.faults)
        ordered = sorted(self.loops, key=lambda loop: loop != self.focus)
        parts = (name for loop in ordered for name in parts_of(loop, subject.known.family))
        self.parts = tuple(name for name in parts if name in self.partition.has_part)
        self._worked_out: set[tuple[object, ...]] = set()
        self._conditioned: dict[KnownBattery, tuple[LoopModel, ...]] = {}

    def work_out(self, probes: Iterable[Probe]) -> None:
        """Work out the predictions of probes not seen before, each state solved once."""
        fresh = [probe for probe in probes if probe.shows not in self._worked_out]
        self._worked_out |= {probe.shows for probe in fresh}
        for model in self.models:
            model.prepare(fresh)

    @property
    def kept(self) -> tuple[int, ...]:
        """How many things are kept of each kind: while it stays the same, so does the memory that they take."""
        models = {id(model): model for known in (self.models, *self._conditioned.values()) for model in known}
        return tuple(count for model in models.values() for count in model.kept)

    def drop_answers(self) -> None:
        """Keep what is made of what was solved, and let go of that."""
        for models in (self.models, *self._conditioned.values()):
            for model in models:
                model.drop_answers()

    def let_go(self) -> None:
        """Shrink to what the next readings need, at the battery voltage last known: the rest is worked out when it is asked for."""
        self._conditioned = dict([*self._conditioned.items()][-1:])
        self.drop_answers()

    def models_for(self, readings: Sequence[Observed]) -> tuple[LoopModel, ...]:
        """The models, with the battery voltage known where the readings tell it."""
        battery_v = known_battery(readings, self.subject.known.system_v)
        kept = self._conditioned
        models = kept.pop(battery_v, None) or tuple(model.conditioned(dict(battery_v)) for model in self.models)
        if len(kept) >= _KEPT_CONDITIONED:
            kept.clear()
        kept[battery_v] = models
        return models

    def belief(self, models: Sequence[LoopModel]) -> Belief:
        """Belief before any reading."""
        return Belief(self.space, models)


def known_battery(readings: Sequence[Observed], system_v: float) -> KnownBattery:
    """Key position -> battery voltage, from the newest plausible reading across the battery in each position.

    One that says the same as before within ``SAME_BATTERY`` changes nothing: all voltages would be worked out anew for it.
    """
    found: dict[str, float] = {}
    for item in readings:
        volts = _battery_volts(item, system_v)
        key = item.probe.key
        if volts is None or key is None:
            continue
        if key not in found or abs(volts / found[key] - 1.0) > SAME_BATTERY:
            found[key] = volts
    return tuple(sorted(found.items()))


def _battery_volts(item: Observed, system_v: float) -> float | None:
    """What a reading says of the battery's own voltage; anything it cannot show is a gross error."""
    probe = item.probe
    if not item.counts or probe.of is not None or not probe.across_battery or probe.key is None or item.number is None:
        return None
    volts, (low, high) = abs(item.number), battery()[probe.key].plausible_v
    return volts if low < volts / (system_v / 12.0) < high else None
