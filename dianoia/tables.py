"""Loading of the core's data files: each is checked against its row type when first used."""

import csv
import json
from dataclasses import fields
from pathlib import Path
from typing import Any, TypeVar

from dianoia.errors import BrokenTable

Row = TypeVar("Row")


def read_rows(path: Path, row_type: type[Row]) -> tuple[Row, ...]:
    """Rows of a CSV file as ``row_type``; every column must be one of its fields. Raises BrokenTable."""
    wanted = [field.name for field in fields(row_type)]  # type: ignore[arg-type]
    with path.open(newline="", encoding="utf-8") as file:
        reader = csv.DictReader(file)
        if reader.fieldnames != wanted:
            raise BrokenTable(f"{path.name}: expected the columns {wanted}, found {reader.fieldnames}")
        rows = []
        for line, cells in enumerate(reader, start=2):
            try:
                rows.append(row_type(**cells))
            except (TypeError, ValueError) as problem:
                raise BrokenTable(f"{path.name}, line {line}: {problem}") from problem
    return tuple(rows)


#: For the rows of a JSON table: no field that the row does not have, no number without end.
ROW = {"extra": "forbid", "allow_inf_nan": False}
Document = TypeVar("Document")


def read_document(path: Path, schema: str, shape: type[Document]) -> Document:
    """A JSON data file as ``shape``, a dataclass of rows. Raises BrokenTable with every finding: file, row, field, what was
    expected.
    """
    from pydantic import TypeAdapter, ValidationError  # a CSV table is read without it

    plain = read_json(path, schema)
    try:
        return TypeAdapter(shape).validate_python({name: value for name, value in plain.items() if name != "schema"})
    except ValidationError as problem:
        findings = [_told(plain, error) for error in problem.errors(include_url=False)]
        raise BrokenTable(f"{path.name}: " + "; ".join(findings)) from problem


def _told(plain: object, error: Any) -> str:
    """One finding of pydantic's: the row by its id where it has one, then the field."""
    place, at = [], plain
    for part in error["loc"]:
        at = (
            at.get(part)
            if isinstance(at, dict)
            else at[part]
            if isinstance(at, list) and isinstance(part, int)
            else None
        )
        name = at.get("id") if isinstance(at, dict) and isinstance(part, int) else None
        place.append(f"[{name or part}]" if isinstance(part, int) else f".{part}")
    expected = "no such field" if error["type"] == "unexpected_keyword_argument" else error["msg"]
    return f"{''.join(place).lstrip('.')}: {expected}; found {json.dumps(error['input'], default=str, ensure_ascii=False)[:80]}"


def require(holds: bool, file: str, row: str, expected: str, found: object) -> None:
    """Raises BrokenTable where a row does not fit the others."""
    if not holds:
        raise BrokenTable(f"{file}: {row}: expected {expected}; found {found}")


def read_json(path: Path, schema: str) -> dict[str, Any]:
    """A JSON data file whose ``schema`` names the expected version. Raises BrokenTable."""
    try:
        document = json.loads(path.read_text(encoding="utf-8"))
    except json.JSONDecodeError as problem:
        raise BrokenTable(f"{path.name}: {problem}") from problem
    if not isinstance(document, dict) or document.get("schema") != schema:
        raise BrokenTable(f"{path.name}: expected a document with schema {schema!r}")
    return document
