"""The published JSON Schema of the case file, generated from the core's own types."""

from typing import Any

from dianoia.case.load import adapter
from dianoia.case.types import Case
from dianoia.diagnosis.faults.tables import faults
from dianoia.field_docs import dataclasses_of, describe


def case_schema() -> dict[str, Any]:
    """The schema of ``dianoia-case/1``. ``x-faults`` lists the fault ids a verdict may name."""
    schema = adapter(Case).json_schema(by_alias=True)
    describe({**schema["$defs"], "Case": schema}, dataclasses_of(["dianoia.case"]))
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Dianoia case file",
        **schema,
        "x-faults": {row.id: f"{row.component}: {row.says}" for row in faults().values()},
    }
