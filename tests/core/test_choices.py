"""What the core offers as an entry, the core must take."""

from typing import Any
from unittest import TestCase

from dianoia.case.check import check
from dianoia.case.job import job_of
from dianoia.case.measures.inspect import LOOKS
from dianoia.case.measures.offered import choices, others_of
from dianoia.diagnosis.catalogue.offered import engines, offered
from dianoia.diagnosis.faults.observations import usual
from dianoia.diagnosis.verdict.vocabulary import vocabulary
from dianoia.families.tables import families
from tests.cases import BATTERY, case, probe

CODE = {"nox": "P229E"}


def taken(family: str, cell: str, **entry: Any) -> Any:
    return case(entry, sensor={"family": family, "bank": 1, "position": 1}, code=CODE.get(cell, "P0130"))


class Entries(TestCase):
    """Every choice of every family, entered."""

    def test_every_scan_value_offered_is_taken_and_one_of_the_loops_shows_it(self) -> None:
        silent = {"battery_voltage", "heater_monitor"}  # told by the tool alone, no evidence
        for row in families().values():
            for scan in choices(row).scans:
                for value in scan.words or ("1",):
                    with self.subTest(family=row.id, pid=scan.pid, value=value):
                        one = taken(row.id, row.cell, measure="scan", pid=scan.pid, key="running", value=value)
                        check(one)
                        models = engines.engine(job_of(one)).models
                        shown = any(model.displays(job_of(one).readings[0].probe) for model in models)
                        self.assertTrue(shown or scan.pid in silent)

    def test_every_choice_has_its_words(self) -> None:
        words = vocabulary()
        for row in families().values():
            known = choices(row, ("known-good", "B2S1"))
            listed = {*(scan.pid for scan in known.scans), *known.conditions, *known.looks, *known.acts, *words.styles, *words.checks, *words.symptoms, *known.others,
                      *(word for scan in known.scans for word in scan.words), *(name for item in known.recordings for name in item.figures),
                      *(word for values in (*known.looks.values(), *known.acts.values(), *known.places.values()) for word in values)}  # fmt: skip
            self.assertLessEqual(listed, words.words.keys(), row.id)
        self.assertFalse([word for word in words.words.values() if "_" in word or not word])

    def test_every_look_and_every_outcome_offered_is_taken(self) -> None:
        row = families()["switching-4w"]
        known = choices(row)
        entries = [
            {"measure": "inspect", "target": name, "value": value}
            for name, values in known.looks.items()
            for value in values
        ]
        entries += [
            {"measure": "act", "action": name, "value": value}
            for name, values in known.acts.items()
            for value in values
        ]
        for entry in entries:
            with self.subTest(**entry):
                check(taken(row.id, row.cell, **entry))

    def test_what_is_usually_seen_can_be_entered(self) -> None:
        for target, values in LOOKS.items():
            self.assertLessEqual(set(usual(probe(measure="inspect", target=target)) or {}), set(values), target)

    def test_each_kind_of_sensor_is_asked_only_for_what_it_has(self) -> None:
        for family, asked, not_asked in (
            ("switching-1w", {"sensor_voltage", "short_trim"}, {"heater_current", "cell_current", "nox"}),
            ("wideband-5w", {"cell_current", "lambda", "heater_command"}, {"sensor_voltage", "nox"}),
            ("nox-can-4w", {"nox", "nox_status", "can_messages"}, {"sensor_voltage", "long_trim", "heater_current"}),
        ):
            pids: set[str] = {scan.pid for scan in choices(families()[family]).scans}
            self.assertTrue(asked <= pids and not (not_asked & pids), family)

    def test_the_sensor_itself_is_no_other_one(self) -> None:
        for engine, sensor, others in (
            (None, {"bank": 1, "position": 1}, {"B1S2", "B2S1", "B2S2"}),
            ({"sensor_banks": 1}, {"bank": 1, "position": 2}, {"B1S1"}),
            (None, {"bank": 2, "position": 3}, {"B1S1", "B1S2", "B1S3", "B2S1", "B2S2"}),
            (None, {"family": "nox-can-4w", "bank": 1, "position": 1}, {"B1S2"}),
        ):
            vehicle = {"label": "Bus 4", **({"engine": engine} if engine else {})}
            nox = str(sensor.get("family")).startswith("nox")
            job = job_of(
                case({**BATTERY, "of": "B1S1"}, vehicle=vehicle, sensor=sensor, code="P229E" if nox else "P0130")
            )
            with self.subTest(sensor):
                self.assertEqual(set(others_of(job)) - {"known-good", "new", "old"}, others)
                own = sensor["bank"] == sensor["position"] == 1
                self.assertEqual(job.readings[0].probe.of, None if own else "B1S1")

    def test_a_clamp_on_a_pin_sits_round_its_wire(self) -> None:
        for at, wire in (("sensor.heater_supply", "harness.heater_supply"), ("module_pin.signal", "module.signal"),
                         ("harness.signal", "harness.signal"), ("fuse.in", "fuse.in")):  # fmt: skip
            clamped = taken(
                "switching-4w", "zirconia", measure="current", at=at, key="running", connector="mated", value="1"
            )
            check(clamped)
            self.assertEqual(job_of(clamped).readings[0].probe.points, (wire,))

    def test_every_condition_offered_is_taken_and_every_one_that_is_proposed_is_offered(self) -> None:
        for row in families().values():
            listed = choices(row).conditions
            for condition in listed:
                with self.subTest(family=row.id, condition=condition):
                    fed = {"fed_v": 0.5} if condition == "signal-fed" else {}
                    check(taken(row.id, row.cell, **BATTERY, **fed, **{"with": condition}))
            job = job_of(taken(row.id, row.cell, **BATTERY))
            engine = engines.engine(job)
            proposed = {
                name for item in offered(job, engine, frozenset(engine.loops)) for name in item.probe.conditions
            }
            self.assertLessEqual(proposed, set(listed), row.id)
