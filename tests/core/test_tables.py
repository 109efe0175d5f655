"""Data files are checked when they are read: a misspelt word says where it is."""

from collections.abc import Callable
from copy import deepcopy
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, get_args
from unittest import TestCase
from unittest.mock import patch

from dianoia import tables
from dianoia.case.job import job_of
from dianoia.case.measures.offered import choices
from dianoia.case.measures.scan import SCAN_KIND, SCAN_WORDS
from dianoia.case.terms import Pid
from dianoia.circuit.draws import Sampling
from dianoia.circuit.known import KnownValues
from dianoia.codes import tables as code_tables
from dianoia.diagnosis.catalogue import candidates
from dianoia.diagnosis.catalogue.offered import engines
from dianoia.diagnosis.decision.gates import gates
from dianoia.diagnosis.faults import observations
from dianoia.diagnosis.faults import tables as fault_tables
from dianoia.errors import BrokenTable
from dianoia.families import tables as family_tables
from dianoia.families.tables import families
from dianoia.readings.circuit_model import ModelRequest
from dianoia.readings.heater_model import HeaterModel
from dianoia.readings.model import Traits
from dianoia.tables import read_json, read_rows
from tests.cases import SUPPLY, case
from tests.cases import probe as scanned


@dataclass(frozen=True)
class Row:
    """A row that allows no negative size."""

    name: str
    size: str

    def __post_init__(self) -> None:
        if int(self.size) < 0:
            raise ValueError(f"size: expected 0 or more, found {self.size}")


class Tables(TestCase):
    """Rows and documents."""

    def file(self, text: str) -> Path:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        path = Path(folder.name) / "table.csv"
        path.write_text(text, encoding="utf-8")
        return path

    def test_rows(self) -> None:
        self.assertEqual(read_rows(self.file("name,size\na,1\nb,2\n"), Row), (Row("a", "1"), Row("b", "2")))
        for text, says in (
            ("name,weight\na,1\n", "expected the columns"),
            ("name,size\na,1\nb,-2\n", "line 3: size: expected 0 or more, found -2"),
            ("name,size\na,large\n", "line 2"),
            ("name,size\na,1,1\n", "line 2"),
            ("", "expected the columns"),
        ):
            with self.subTest(text), self.assertRaisesRegex(BrokenTable, f"table.csv.*{says}"):
                read_rows(self.file(text), Row)

    def test_documents(self) -> None:
        self.assertEqual(read_json(self.file('{"schema": "x/1", "a": 2}'), "x/1")["a"], 2)
        for text in ('{"schema": "x/2"}', "[]", "{", '"x/1"'):
            with self.subTest(text), self.assertRaisesRegex(BrokenTable, "table.csv"):
                read_json(self.file(text), "x/1")


Step = str | int
#: One word or number of a table written wrongly: the file's own folder, where it stands, what is written, what is said of it.
MISTAKES: list[tuple[str, tuple[Step, ...], Any, str]] = [
    ("faults", ("faults", 0, "component"), "senser", "faults[heater-open].component"),
    ("faults", ("faults", 0, "part"), "heatre", "faults[heater-open].part"),
    ("faults", ("faults", 0, "wieght"), 30, "faults[heater-open].wieght: no such field"),
    ("faults", ("faults", 0, "weight"), 0, "faults[heater-open].weight"),
    ("faults", ("faults", 0, "latch"), 1.5, "faults[heater-open].latch"),
    ("faults", ("faults", 0, "loop"), "heather", "faults[heater-open].loop"),
    ("faults", ("faults", 0, "by_code"), {"lo": 2.0}, "heater-open.by_code"),
    ("faults", ("faults", 1, "id"), "heater-open", "stands once"),
    ("faults", ("history", 0, "when"), "engine-wrok", "history[0].when"),
    ("faults", ("history", 0, "faults"), ["pin-opne:"], "pin-opne:"),
    ("faults", ("other_loop",), {"inactiv": 0.3}, "inactiv"),
    ("observations", ("observations", 0, "target"), "conector", "observations[0].target"),
    ("observations", ("observations", 0, "value"), "leak", "inspect connector leak"),
    ("observations", ("observations", 0, "times"), [[["pin-opne:"], 0.4]], "pin-opne:"),
    ("observations", ("observations", 0, "times"), [[["pin-open:"], -1]], "observations[0].times"),
    ("observations", ("usual", "connector"), {"okay": 0.84}, "usual.connector"),
    ("observations", ("renews", "repair-wiring"), ["wires-"], "wires-"),
    ("gates", ("gates", 0, "shown"), ["element-appart"], "sensor heater"),
    ("gates", ("gates", 0, "faults"), ["heater-opne"], "sensor heater"),
    ("gates", ("seen", 0, "candidates"), ["elemnt"], "element-bad"),
    ("gates", ("thresholds", "sensor"), 1.2, "thresholds"),
    ("candidates", ("candidates", 0, "at"), "batery", "battery.at"),
    ("candidates", ("candidates", 0, "styles"), ["life-first"], "candidates[battery].styles"),
    ("candidates", ("candidates", 0, "loops"), ["heat"], "candidates[battery].loops"),
    ("candidates", ("candidates", 0, "cautions"), ["hott"], "battery.cautions"),
    ("candidates", ("candidates", 0, "tool"), "hammer", "candidates[battery].tool"),
    ("candidates", ("candidates", 0, "reading", "measure"), "volts", "battery"),
    ("candidates", ("candidates", 0, "reading", "kee"), "on", "battery"),
    ("candidates", ("hazards", "hott"), 1.0, "hazards"),
    ("candidates", ("places", "moon"), 1.0, "places"),
    ("families", ("cells", 0, "id"), "zircon", "cells[zircon].id"),
    ("families", ("cells", 0, "may_be_fed"), "often", "cells[zirconia].may_be_fed"),
    ("families", ("families", 0, "terminals"), ["signl"], "families[switching-1w].terminals"),
    ("families", ("families", 0, "cell"), "zirkonia", "families[switching-1w].cell"),
    ("families", ("families", 2, "heater"), None, "switching-3w"),
    ("families", ("weights", "feed_live"), {"always": 0.5, "key-on": 0.3, "running": 0.3}, "feed_live"),
    ("senses", ("senses", 0, "onset"), "hrad", "senses[0].onset"),
    ("senses", ("senses", 0, "failure"), "opne", "senses[0].failure"),
]
LOADED: dict[str, Callable[[], Any]] = {
    "faults": lambda: fault_tables.document.__wrapped__(), "observations": lambda: observations._document.__wrapped__(),
    "candidates": lambda: [candidates._candidate(row, dict(row.reading), table) for table in [candidates.document.__wrapped__()] for row in table.candidates if row.id == "battery"],
    "gates": lambda: gates.__wrapped__(), "families": lambda: family_tables._document.__wrapped__(), "senses": lambda: code_tables._senses.__wrapped__(),
}  # fmt: skip
CSV_MISTAKES = [
    ("codes.csv", "P0030,oxygen", "P0030,oxigen"), ("codes.csv", ",heater,", ",heather,"), ("spns.csv", "3216,1,signal", "3216,1,signl"),
    ("fmis.csv", "\n0,high", "\n0,hihg"), ("failure_types.csv", "\n00,", "\nG0,"), ("fmis.csv", "\n1,low", "\n0,low"),
]  # fmt: skip


class Mistakes(TestCase):
    """A misspelt word in a table is refused when it is loaded, naming file, row and field."""

    def test_every_word_comes_from_a_closed_list(self) -> None:
        gates()  # what it is held against is read before anything is misspelt
        for name, place, wrong, says in MISTAKES:
            real = tables.read_json

            def written(
                path: Path, schema: str, place: tuple[Step, ...] = place, wrong: Any = wrong, real: Any = real
            ) -> Any:
                document = deepcopy(real(path, schema))
                at = document
                for step in place[:-1]:
                    at = at[step]
                at[place[-1]] = wrong
                return document

            with self.subTest(name, place=place), patch("dianoia.tables.read_json", written):
                with self.assertRaises(BrokenTable) as caught:
                    LOADED[name]()
                self.assertIn(says, str(caught.exception))
                self.assertIn(f"{name}.json", str(caught.exception))

    def test_the_same_of_tables_in_columns(self) -> None:
        loads = {
            "codes.csv": code_tables.codes,
            "spns.csv": code_tables.spns,
            "fmis.csv": code_tables.fmis,
            "failure_types.csv": code_tables.failure_types,
        }
        for file, right, wrong in CSV_MISTAKES:
            with TemporaryDirectory() as folder, self.subTest(file, wrong=wrong):
                text = (code_tables._DATA / file).read_text(encoding="utf-8")
                self.assertIn(right, text)
                (Path(folder) / file).write_text(text.replace(right, wrong, 1), encoding="utf-8")
                with patch.object(code_tables, "_DATA", Path(folder)), self.assertRaisesRegex(BrokenTable, file):
                    code_tables._senses()
                    loads[file].__wrapped__()  # type: ignore[attr-defined]

    def test_a_fault_that_changes_nothing_is_refused(self) -> None:
        asked = ModelRequest([(), ("heater-opne",)], {"heater-opne": Traits()})
        with self.assertRaisesRegex(BrokenTable, "faults.json: heater-opne: expected an effect on the heater circuit"):
            HeaterModel(KnownValues("switching-4w"), asked, Sampling(40)).displays(scanned(**SUPPLY))

    def test_every_scan_value_has_words_a_sense_and_a_loop_that_answers_it(self) -> None:
        offered = {row.id: {item.pid for item in choices(row).scans} for row in families().values()}
        for pid in get_args(Pid):
            with self.subTest(pid):
                value = next(iter(SCAN_WORDS.get(pid, ())), "1")
                self.assertTrue(scanned(measure="scan", pid=pid, value=value).where)
                self.assertTrue(pid in SCAN_KIND or pid in SCAN_WORDS)
                answered = any(self._answers(name, pid, value) for name, pids in offered.items() if pid in pids)
                self.assertEqual(answered, pid != "heater_monitor", "a monitor is told of by the warnings alone")

    def _answers(self, family: str, pid: str, value: str) -> bool:
        code = "P229E" if family.startswith("nox") else "P0130"
        job = job_of(case(code=code, sensor={"family": family, "bank": 1, "position": 1}))
        probe = scanned(measure="scan", pid=pid, key="running", value=value)
        return any(model.displays(probe) for model in engines.bare_engine(job).models)
