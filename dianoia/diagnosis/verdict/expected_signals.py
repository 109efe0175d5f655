"""What the signals of a recording should show of a healthy circuit, by the same model that judges readings."""

from collections.abc import Sequence
from dataclasses import dataclass

from dianoia.case.job import Job
from dianoia.case.load import from_plain
from dianoia.case.measures import Probe
from dianoia.case.measures.trace import RECORDED
from dianoia.diagnosis.catalogue.offered import engines
from dianoia.diagnosis.verdict.judging import Judgements
from dianoia.readings.judge import Expectation
from dianoia.signals.known import signals

#: Live values besides those that are read off a recording, which a healthy circuit answers, too.
_LOOKED_AT = ("heater_current", "battery_voltage", "short_trim", "long_trim", "nox", "o2")


@dataclass(frozen=True)
class ExpectedFigure:
    """What a figure should be."""

    name: str
    text: str


@dataclass(frozen=True)
class ExpectedSignal:
    """What a signal should show once all is warm."""

    signal: str
    of: str | None
    """Sensor by bank and position; None for the whole engine."""
    low: float | None
    """Lower end of the band, in the unit of its samples; None for no lower end."""
    high: float | None
    """Upper end of the band; None for no upper end."""
    text: str
    """The band in words."""
    figures: tuple[ExpectedFigure, ...]


def expected_signals(job: Job, wanted: Sequence[tuple[str, str | None]]) -> tuple[ExpectedSignal, ...]:
    """What a healthy circuit shows of each wanted signal; signals that the model says nothing of are left out.

    wanted: signal and sensor.
    """
    judging = Judgements(job, engines.bare_engine(job))
    found = (_expected(judging, job, signal, of) for signal, of in wanted)
    return tuple(one for one in found if one is not None)


def _expected(judging: Judgements, job: Job, signal: str, of: str | None) -> ExpectedSignal | None:
    recorded = signal in RECORDED and signal not in _LOOKED_AT
    if not recorded and signal not in _LOOKED_AT:
        return None
    plain = {"measure": "trace", "signal": signal} if recorded else {"measure": "scan", "pid": signal}
    at_other = of is not None and of != job.address and signal != "battery_voltage"
    probe = from_plain(Probe, {**plain, "key": "running", **({"of": of} if at_other else {})})
    expected = judging.expect(probe)
    if expected is None or not expected.text:
        return None
    low, high = _ends(expected)
    scale = signals()[signal].base
    figures = tuple(ExpectedFigure(part.figure, part.text) for part in expected.parts if part.text)
    text = "" if recorded else expected.text
    return ExpectedSignal(signal, of, low and low / scale, high and high / scale, text, figures)


def _ends(expected: Expectation) -> tuple[float | None, float | None]:
    """Ends of the band: of several figures from the lowest that the signal may reach to the highest."""
    if not expected.parts:
        return expected.low, expected.high
    parts = {part.figure: part for part in expected.parts}
    return (parts["min"].low if "min" in parts else None), (parts["max"].high if "max" in parts else None)
