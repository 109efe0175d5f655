"""What the fields of a dataclass mean, from the line below each: carried into the published schemas."""

import ast
import sys
from collections.abc import Iterable, Mapping
from dataclasses import is_dataclass
from functools import cache
from inspect import getsource
from textwrap import dedent
from typing import Any


@cache
def field_docs(cls: type) -> Mapping[str, str]:
    """Field -> its documentation, inherited ones too; fields without any are left out."""
    found: dict[str, str] = {}
    for base in reversed(cls.__mro__[:-1]):
        if is_dataclass(base):
            found |= _own(base)
    return found


@cache
def _own(cls: type) -> dict[str, str]:
    try:
        body = ast.parse(dedent(getsource(cls))).body[0]
    except (OSError, TypeError):  # made at run time: it has no source
        return {}
    assert isinstance(body, ast.ClassDef)
    found = {}
    for field, below in zip(body.body, body.body[1:], strict=False):
        if not (isinstance(field, ast.AnnAssign) and isinstance(field.target, ast.Name)):
            continue
        said = below.value if isinstance(below, ast.Expr) else None
        if isinstance(said, ast.Constant) and isinstance(said.value, str):
            found[field.target.id] = " ".join(said.value.split())
    return found


def dataclasses_of(packages: Iterable[str]) -> dict[str, type]:
    """Name -> dataclass, of the loaded modules of some packages."""
    within = tuple(f"{name}." for name in packages)
    modules = [module for name, module in sorted(sys.modules.items()) if name.startswith(within)]
    found = [value for module in modules for value in vars(module).values() if isinstance(value, type)]
    return {cls.__name__: cls for cls in found if is_dataclass(cls) and cls.__module__.startswith(within)}


def describe(schemas: Mapping[str, Any], classes: Mapping[str, type]) -> None:
    """Write the documentation of fields into JSON schemas, in place. schemas: name of a dataclass -> its schema."""
    for name, schema in schemas.items():
        cls = classes.get(name)
        for field, says in field_docs(cls).items() if cls else ():
            place = schema.get("properties", {}).get(field.rstrip("_"))
            if place is not None and "description" not in place:
                place["description"] = says
