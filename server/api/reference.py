"""What the core knows without a job: codes, families, layouts, quick sums."""

from typing import Any

from django.http import HttpRequest
from ninja import Query, Router

from dianoia.circuit.sums import (
    At20,
    HeaterSum,
    PwmSum,
    at_20c,
    between,
    duty_from,
    heater,
    pwm_average,
    resistance_from,
)
from dianoia.codes.book import Search, search
from dianoia.codes.decode import decode
from dianoia.codes.parse import parse_codes
from dianoia.codes.triage import triage
from dianoia.codes.types import Decoded
from dianoia.diagnosis.verdict.vocabulary import Vocabulary, vocabulary
from dianoia.families.tables import families
from dianoia.quantities.parse import parse
from dianoia.vehicle.tables import Preset, presets
from server.jobs.bodies import KnownFamily
from server.statuses import READS

router = Router()


@router.get("/vocabulary", response={**READS, 200: Vocabulary}, by_alias=True)
def words(request: HttpRequest) -> Any:
    """Everything that a screen says and no job changes."""
    return vocabulary()


@router.get("/presets", response={**READS, 200: list[Preset]}, by_alias=True)
def list_presets(request: HttpRequest) -> Any:
    """The usual vehicle layouts."""
    return list(presets())


@router.get("/families", response={**READS, 200: list[KnownFamily]})
def list_families(request: HttpRequest) -> Any:
    """The sensor families, with the general range of their cold heaters."""
    return [KnownFamily(row.id, row.label, row.told_by, row.heater_ohms_20c) for row in families().values()]


@router.get("/codebook", response={**READS, 200: list[Decoded]}, by_alias=True)
def code_book(
    request: HttpRequest,
    words: str = "",
    bank: int | None = None,
    position: int | None = None,
    circuit: str | None = None,
    kind: str | None = None,
) -> Any:
    """Every listed code that fits the search."""
    return search(Search(words=words, bank=bank, position=position, circuit=circuit, kind=kind))


@router.get("/sums/heater", response={**READS, 200: HeaterSum})
def sum_heater(request: HttpRequest, ohms_20c: str, volts: str = "13.8 V") -> Any:
    """Current and power of a heater, cold and settled."""
    return heater(parse(ohms_20c, "resistance", "ohms_20c").value, parse(volts, "voltage", "volts").value)


@router.get("/sums/at-20", response={**READS, 200: At20})
def sum_at_20(request: HttpRequest, ohms: str, celsius: str) -> Any:
    """A resistance carried back to 20 °C."""
    return at_20c(parse(ohms, "resistance", "ohms").value, parse(celsius, "temperature", "celsius").value)


@router.get("/sums/pwm", response={**READS, 200: PwmSum})
def sum_pwm(request: HttpRequest, volts: str = "13.8 V", duty: str = "", meter_v: str = "") -> Any:
    """A multimeter's average from the duty, or the duty from the average."""
    battery = parse(volts, "voltage", "volts").value
    if meter_v.strip():
        return duty_from(battery, parse(meter_v, "voltage", "meter_v").value)
    return pwm_average(battery, parse(duty, "ratio", "duty").value)


@router.get("/sums/resistance", response={**READS, 200: At20})
def sum_resistance(request: HttpRequest, amps: str, volts: str = "13.8 V") -> Any:
    """The resistance behind a current; both ends alike."""
    ohms = resistance_from(parse(amps, "current", "amps").value, parse(volts, "voltage", "volts").value)
    return between(ohms, ohms)


@router.get("/codes", response={**READS, 200: list[Decoded]}, by_alias=True)
def decode_codes(request: HttpRequest, text: Query[str]) -> Any:
    """What codes say, several in the order to work in."""
    texts = parse_codes(text)
    return triage(texts) if len(texts) > 1 else [decode(texts[0])]
