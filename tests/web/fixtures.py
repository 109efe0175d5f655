"""What the front end's tests are given: words, rules and views as the server serves them, and readings that are to be laid out.

Run: ``python -m tests.web.fixtures FOLDER``.
"""

import json
import os
import sys
from collections.abc import Iterator
from pathlib import Path
from random import Random
from typing import Any, get_args

from dianoia.bench.jobs import GROUPS, prepared
from dianoia.case.job import Job, job_of
from dianoia.case.load import adapter, case_from_json, to_plain
from dianoia.case.measures import Probe
from dianoia.case.measures.act import OUTCOMES
from dianoia.case.measures.offered import Choices, choices
from dianoia.case.measures.scan import SCAN_WORDS
from dianoia.case.terms import HeaterSwitch
from dianoia.diagnosis.catalogue.offered import engines, offered
from dianoia.diagnosis.verdict.diagnose import Diagnosis, diagnose
from dianoia.diagnosis.verdict.vocabulary import Vocabulary, vocabulary
from dianoia.drawings.circuit import drawing
from dianoia.families.tables import families
from tests.cases import case

_DEMO = Path(__file__).parents[2] / "demo" / "cases"
#: Fixture -> the demo case that it shows.
VIEWS = {"new": "01", "testing": "02", "decided": "04", "proven": "10"}
FAMILIES = ("switching-1w", "switching-3w", "switching-4w", "airfuel-4w", "wideband-6w", "nox-can-5w")
#: Lists of touches, and how long each is at most.
LISTS, LONGEST = 400, 12
MEASURES = ("voltage", "resistance", "lamp", "current", "scope", "scan", "trace", "inspect", "act")
POINTS = ("battery.positive", "battery.negative", "harness.signal", "sensor.signal", "sensor.heater_supply",
          "module.signal", "module_pin.signal", "sensor.shell")  # fmt: skip
CHANGES: tuple[dict[str, Any], ...] = (
    {"key": "off"}, {"connector": "unplugged"}, {"module_connector": "unplugged"}, {"battery": "disconnected"},
    {"sensor_c": "hot"}, {"sensor_c": "21,5"}, {"sensor_c": "warm"}, {"with": ["rich"]}, {"with": ["signal-fed", "heater-commanded"]},
    {"at_s": "12,5"}, {"of": "B2S1"}, {"jumper": ["battery.positive", "harness.signal"]}, {"load": "lamp"}, {"codes_cleared": True},
    {"fed_v": "0.6"}, {"rpm": "2500"}, {"coolant_c": "40"}, {"others": "unplugged"}, {"in_place_of": "heater"}, {"place": "between"},
    {"pid": "long_trim"}, {"target": "exhaust"}, {"action": "wiggle"}, {"lead": "black"},
)  # fmt: skip
LAMP = {"measure": "lamp", "red": "harness.heater_supply", "black": "harness.heater_control", "key": "running",
        "connector": "unplugged", "watts": 21.0, "codes_cleared": True}  # fmt: skip
SCAN = {"measure": "scan", "pid": "sensor_voltage", "key": "running", "with": "rich", "at_s": 620.0}


def plain(known: Choices) -> Any:
    """What a reading may be, as the browser is given it."""
    return adapter(Choices).dump_python(known, mode="json", by_alias=True)


def job_of_family(family: str) -> Job:
    """A job of a sensor of a family."""
    return job_of(case(**fields_of(family)))


def fields_of(family: str) -> dict[str, Any]:
    """What a case of a family is made with."""
    sensor = {"family": family, "bank": 1, "position": 1}
    return {"sensor": sensor, "code": "P229E" if family.startswith("nox") else "P0130"}


def proposals() -> Iterator[dict[str, Any]]:
    """Every reading that can be proposed to any family, once."""
    seen: set[str] = set()
    for row in range(len(GROUPS)):
        job = prepared(row, False)
        engine = engines.bare_engine(job)
        for switch in get_args(HeaterSwitch):
            for candidate in offered(job, engine, frozenset(engine.loops), switch):
                if (key := f"{candidate.id} {candidate.probe.asks}") not in seen:
                    seen.add(key)
                    yield {"id": candidate.id, "family": job.family.id, "row": row, "switch": switch,
                           "probe": to_plain(candidate.probe, Probe)}  # fmt: skip


def touches(random: Random) -> Iterator[list[dict[str, Any]]]:
    """Lists of touches at the bench, as a person might make them, and as nobody would."""
    kinds = (
        lambda: {"type": "touch", "point": random.choice(POINTS)},
        lambda: {"type": "measure", "measure": random.choice(MEASURES)},
        lambda: {"type": "set", "change": random.choice(CHANGES)},
        lambda: {"type": "type", "value": random.choice(("12.4", "OL", "", "bright", "ok"))},
        lambda: {"type": "figure", "of": "scope", "name": "high", "value": "13,2"},
        lambda: {"type": "figure", "of": "trace", "name": "rise_s", "value": "fast"},
        lambda: {"type": "taken"},
        lambda: {"type": "own"},
        lambda: {"type": "propose", "probe": random.choice((SCAN, LAMP))},
        lambda: {"type": "follow", "probe": {"measure": "scan", "pid": "long_trim", "key": "running"}},
    )
    for _ in range(LISTS):
        yield [random.choice(kinds)() for _ in range(random.randint(1, LONGEST))]


def views() -> dict[str, Any]:
    """Views of demo jobs, as the API answers them."""
    import django

    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")
    django.setup()
    from server.work.view import view_of
    from server.work.view_types import JobView

    found = {}
    for name, number in VIEWS.items():
        demo = case_from_json(next(_DEMO.glob(f"{number}-*.json")).read_text(encoding="utf-8"))
        view = view_of(Diagnosis(job_of(demo)), demo).view
        found[name] = adapter(JobView).dump_python(view, mode="json", by_alias=True)
    return found


def everything() -> dict[str, Any]:
    """All of it."""
    jobs = {family: job_of_family(family) for family in FAMILIES}
    return {
        "vocabulary": adapter(Vocabulary).dump_python(vocabulary(), mode="json", by_alias=True),
        "choices": {family: plain(choices(families()[family])) for family in families()},
        "points": {
            family: [point.id for point in drawing(job, diagnose(job.case)).points] for family, job in jobs.items()
        },
        "proposals": list(proposals()),
        "touches": list(touches(Random(7))),
        "words": {"scan": SCAN_WORDS, "act": OUTCOMES},
        "views": views(),
    }


def write(folder: Path) -> None:
    """One JSON document: ``given.json``."""
    folder.mkdir(parents=True, exist_ok=True)
    (folder / "given.json").write_text(json.dumps(everything()), encoding="utf-8")


if __name__ == "__main__":
    write(Path(sys.argv[1]))
