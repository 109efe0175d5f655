"""JSON -> Case and back. Every refusal names the field and what was expected there."""

import json
import types
from collections.abc import Mapping
from math import isfinite
from typing import Annotated, Any, TypeVar, get_args, get_origin

from pydantic import TypeAdapter, ValidationError

from dianoia.case.measures import MEASURES
from dianoia.case.types import MOST_READINGS, Case, Plain
from dianoia.errors import Finding, RefusedInput, refuse

T = TypeVar("T")
_LONGEST_DOCUMENT = 4_000_000


_adapters: dict[Any, TypeAdapter[Any]] = {}


def adapter(shape: Any) -> TypeAdapter[Any]:
    """The one validator of a type, built on first use."""
    if shape not in _adapters:
        _adapters[shape] = TypeAdapter(shape)
    return _adapters[shape]


def case_from_json(text: str) -> Case:
    """The case in a JSON document. Raises RefusedInput: malformed JSON, unknown names, wrong types, too many readings.

    What the fields mean together is not checked here; see ``dianoia.case.check``.
    """
    if len(text) > _LONGEST_DOCUMENT:
        raise refuse("", f"a case file of at most {_LONGEST_DOCUMENT} characters", f"{len(text)} characters")
    return case_from_plain(json_document(text))


#: No quantity of the trade is longer, and Python refuses to convert thousands.
MOST_DIGITS = 300


def json_document(text: str) -> Any:
    """Parsed JSON of finite numbers and of text that can be written out again. Raises RefusedInput."""
    try:
        document = json.loads(text, parse_constant=_no_constant, parse_int=_whole_number)
    except (json.JSONDecodeError, RecursionError) as problem:
        raise refuse("", f"a JSON document ({problem})", text.strip()[:40]) from problem
    if "\\ud" in text.lower():
        _refuse_half_characters(document, "")
    return document


def _whole_number(digits: str) -> int:
    if len(digits) > MOST_DIGITS:
        raise refuse("", f"whole numbers of at most {MOST_DIGITS} digits", digits)
    return int(digits)


def _no_constant(name: str) -> Any:
    raise refuse("", "numbers that are finite", name)


def _refuse_half_characters(item: object, at: str) -> None:
    """Half of a surrogate pair is no character: no file can hold it."""
    if isinstance(item, str) and not _writable(item):
        raise refuse(at.lstrip("."), "text of whole characters", item.encode("ascii", "backslashreplace").decode())
    if isinstance(item, dict):
        for name, value in item.items():
            _refuse_half_characters(name, at)
            _refuse_half_characters(value, f"{at}.{name}")
    if isinstance(item, list):
        for index, value in enumerate(item):
            _refuse_half_characters(value, f"{at}[{index}]")


def _writable(text: str) -> bool:
    try:
        text.encode("utf-8")
    except UnicodeEncodeError:
        return False
    return True


def case_from_plain(document: object) -> Case:
    """The case in already parsed JSON; raises as ``case_from_json``."""
    if not isinstance(document, dict):
        raise refuse("", "a case: an object with format, vehicle, codes and readings", document)
    readings = document.get("readings")
    if isinstance(readings, list) and len(readings) > MOST_READINGS:
        raise refuse("readings", f"at most {MOST_READINGS} readings", f"{len(readings)} readings")
    case: Case = from_plain(Case, document)
    return case


def from_plain(shape: Any, document: object, at: str = "") -> Any:
    """Validate parsed JSON against a core type; ``at`` is put before the field names of a refusal."""
    try:
        return adapter(shape).validate_python(_numbers_as_text(document))
    except ValidationError as problem:
        raise RefusedInput([finding_of(error, at, shape) for error in problem.errors(include_url=False)]) from problem


def to_plain(thing: Any, shape: Any | None = None) -> Any:
    """A core object as JSON-ready data, fields that say nothing left out."""
    plain = adapter(shape or type(thing)).dump_python(thing, mode="json", by_alias=True)
    return _without_defaults(plain)


_SILENT: dict[str, object] = {"module_connector": "mated", "battery": "connected", "codes_cleared": False}


def _without_defaults(plain: Any) -> Any:
    if isinstance(plain, list):
        return [_without_defaults(item) for item in plain]
    if not isinstance(plain, dict):
        return plain
    kept: Plain = {}
    for key, value in plain.items():
        if value is None or value in ([], "") or _SILENT.get(key, ...) == value:
            continue
        kept[key] = _without_defaults(value)
    if "range" in plain:
        kept["range"] = plain["range"]
    return kept


def _numbers_as_text(document: object) -> object:
    """A typed quantity may arrive as a JSON number: ``"value": 13.8`` says what ``"13.8"`` says."""
    if not isinstance(document, Mapping):
        return document
    readings = document.get("readings")
    if isinstance(readings, list):
        return {**document, "readings": [_value_as_text(item) for item in readings]}
    return _value_as_text(document)


def _value_as_text(item: object) -> object:
    if not isinstance(item, Mapping):
        return item
    value = item.get("value")
    if isinstance(value, int | float) and not isinstance(value, bool) and isfinite(value):
        return {**item, "value": repr(value)}
    return item


#: What was expected, by pydantic's name for what went wrong.
_EXPECTED = {
    "missing": "a value (the field is required)", "missing_argument": "a value (the field is required)",
    "float_parsing": "a number", "float_type": "a number", "int_parsing": "a whole number", "int_type": "a whole number",
    "int_from_float": "a whole number", "string_type": "text", "bool_parsing": "true or false", "bool_type": "true or false",
    "list_type": "a list", "tuple_type": "a list", "dict_type": "an object with named fields",
    "dataclass_type": "an object with named fields", "finite_number": "a number that is finite",
}  # fmt: skip


def finding_of(error: Any, at: str = "", shape: Any | None = None) -> Finding:
    """One of pydantic's errors as a finding. at: path before the error's own; shape: the type that was expected as a whole,
    where the names it allows are to be told.
    """
    path = [part for part in error["loc"] if not _is_tag(part, error)]
    field = _dotted(path, at)
    context = error.get("ctx", {})
    kind = error["type"]
    found = "nothing" if kind.startswith("missing") else _shown(error["input"]) if "input" in error else ""
    if kind in _EXPECTED:
        return Finding(field, _EXPECTED[kind], found)
    if kind == "unexpected_keyword_argument":
        allowed = f"; fields here: {', '.join(_fields_at(shape, error['loc'][:-1]))}" if shape else ""
        return Finding(field, f"no such field{allowed}", found)
    if kind == "union_tag_not_found":
        return Finding(f"{field}.measure".lstrip("."), "what was measured (voltage, resistance, ...)", "nothing")
    if kind == "union_tag_invalid":
        return Finding(f"{field}.measure".lstrip("."), f"one of {context['expected_tags']}", str(context["tag"]))
    if kind == "literal_error":
        return Finding(field, f"one of {context['expected']}", found)
    return Finding(field, error["msg"].removeprefix("Input should be ").removeprefix("Value error, "), found)


def _shown(value: object) -> str:
    text = json.dumps(value, default=str, ensure_ascii=False)
    return text if len(text) <= 60 else f"{text[:57]}..."


_TAGS = frozenset[str](MEASURES)


def _is_tag(part: object, error: Any) -> bool:
    """Whether a step of pydantic's path names a branch of a union rather than a field."""
    text = str(part)
    return text in _TAGS or text.endswith("]") or (text in ("int", "float", "str") and part is not error["loc"][0])


def _dotted(path: list[Any], at: str) -> str:
    text = at
    for part in path:
        text += f"[{part}]" if isinstance(part, int) else f".{part}"
    return text.lstrip(".")


def _fields_at(shape: Any, loc: tuple[Any, ...]) -> list[str]:
    """Names a core type allows at a path of pydantic's."""
    for part in loc:
        shape = _step(shape, part)
    shape = _plain_class(shape)
    hidden = {"with_": "with"}
    return [hidden.get(name, name) for name in getattr(shape, "__dataclass_fields__", {})]


def _step(shape: Any, part: Any) -> Any:
    shape = _bare(shape)
    if isinstance(part, int):
        return get_args(shape)[0]
    if part in _TAGS and not hasattr(shape, "__dataclass_fields__"):
        return next(item for item in _members(shape) if item.__dataclass_fields__["measure"].type.__args__ == (part,))
    shape = _plain_class(shape)
    if get_origin(shape) is dict:
        return get_args(shape)[1]
    name = "with_" if part == "with" else part
    return shape.__dataclass_fields__[name].type


def _bare(shape: Any) -> Any:
    return get_args(shape)[0] if get_origin(shape) is Annotated else shape


def _members(shape: Any) -> list[Any]:
    return [_bare(item) for item in get_args(_bare(shape)) if item is not types.NoneType]


def _plain_class(shape: Any) -> Any:
    """``X | None`` -> X."""
    shape = _bare(shape)
    if isinstance(shape, types.UnionType):
        return _bare(next(item for item in get_args(shape) if item is not types.NoneType))
    return shape
