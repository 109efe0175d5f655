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


def read_json(path: Path, schema: str) -> dict[str, Any]:
    """A JSON data file whose ``schema`` names the expected version. Raises BrokenTable."""
    try:
        document = json.loads(path.read_text(encoding="utf-8"))
    except json.JSONDecodeError as problem:
        raise BrokenTable(f"{path.name}: {problem}") from problem
    if not isinstance(document, dict) or document.get("schema") != schema:
        raise BrokenTable(f"{path.name}: expected a document with schema {schema!r}")
    return document
