"""Whether readings show a NOx unit to be silent, cold or wrong."""

from dataclasses import replace
from functools import partial

from dianoia.case.observed import Observed
from dianoia.diagnosis.decision.ledger import Ledger
from dianoia.diagnosis.decision.shown.heat import RUN_S
from dianoia.diagnosis.decision.shown.sensor_faults import UNIT
from dianoia.diagnosis.inference.evidence import DRAWS_A

#: A NOx unit's feed is loaded by a lamp of so many watts, or by its own heater.
UNIT_WATTS = 21.0


def nox_fed(ledger: Ledger) -> tuple[int, ...]:
    """The feed proven under load: what the unit itself sends does not."""
    return ledger.since_mended(partial(_under_load, terminal="harness.supply")) if "supply" in ledger.proven else ()


def nox_grounded(ledger: Ledger) -> tuple[int, ...]:
    """The ground likewise."""
    return ledger.since_mended(partial(_under_load, terminal="harness.ground")) if "ground" in ledger.proven else ()


def _under_load(item: Observed, terminal: str) -> bool:
    probe = item.probe
    if probe.of is not None or probe.key not in ("on", "running"):
        return False
    if probe.reads_amps:
        return item.number is not None and item.number > DRAWS_A
    if not probe.reads_volts or terminal not in probe.points:
        return False
    return probe.load_watts >= UNIT_WATTS if probe.loaded else probe.setting.connector == "mated"


def nox_late(ledger: Ledger) -> tuple[int, ...]:
    """Read ten minutes after the start, past the dew point."""
    return ledger.places(lambda item: item.probe.key == "running" and (item.probe.ran_s or 0.0) >= RUN_S)


def nox_alive(ledger: Ledger) -> tuple[int, ...]:
    """The unit calls its reading valid, or its heater draws current."""
    return ledger.of_sensor(_calls_itself_valid)


def _calls_itself_valid(item: Observed) -> bool:
    probe = item.probe
    if probe.of is not None:
        return False
    valid = probe.live_value == "nox_status" and item.value == "valid"
    return valid or (probe.reads_amps and item.number is not None and item.number > DRAWS_A)


def nox_wrong(ledger: Ledger) -> tuple[int, ...]:
    """A value that is wrong in known air."""
    known = ledger.of_sensor(
        lambda item: item.probe.of is None and item.probe.scanned in ("nox", "o2")
        and bool(item.probe.conditions & {"fresh-air", "fuel-cut"})
    )  # fmt: skip
    return ledger.bad(known, UNIT)


def nox_spare(ledger: Ledger) -> tuple[int, ...]:
    """A known-good unit in the same place, heard or valid where this one, read alike, is not."""
    for first, own in ledger.readings:
        if own.probe.of is not None or own.probe.scanned not in ("can_messages", "nox_status", "nox", "o2"):
            continue
        for second, good in ledger.readings:
            same = good.probe.of == "known-good" and replace(good.probe, of=None).asks == own.probe.asks
            late = own.probe.scanned == "can_messages" or min(own.probe.ran_s or 0.0, good.probe.ran_s or 0.0) >= RUN_S
            alike = good.probe.conditions == own.probe.conditions
            if same and late and alike and ledger.bad((first,), UNIT) and not ledger.bad((second,), UNIT):
                return (first, second)
    return ()
