"""Data files are checked when they are read: a slip of the pen says where it is."""

from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

from dianoia.errors import BrokenTable
from dianoia.tables import read_json, read_rows


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
