"""What may be changed of a case besides its ledger, as a type: the case's own fields, each of which may be left out or null.

A merge patch (RFC 7396): objects are merged field by field, null takes a field away, lists are replaced.
"""

import types
from dataclasses import fields, is_dataclass
from typing import Any, get_args, get_origin, get_type_hints

from pydantic import ConfigDict
from typing_extensions import TypedDict

from dianoia.case.types import Case
from dianoia.errors import refuse

#: Not a matter of change: the ledger and closing have rules of their own, and the format is what it is.
_KEPT = ("format", "readings", "recordings", "closed")


def _change_of(shape: type[Any], name: str) -> Any:
    hints = get_type_hints(shape, include_extras=True)
    changed = {field.name: _merged(hints[field.name]) for field in fields(shape) if field.name not in _KEPT}
    made: Any = TypedDict(name, changed, total=False)  # type: ignore[misc]
    setattr(made, "__pydantic_config__", ConfigDict(extra="forbid"))  # noqa: B010
    return made


def _merged(hint: Any) -> Any:
    """An object is merged field by field; anything else is replaced as a whole, or taken away."""
    own: Any = next((item for item in get_args(hint) if _has_fields(item)), hint) if _optional(hint) else hint
    if get_origin(own) is dict:
        name, value = get_args(own)
        return dict[name, _merged(value)] | None  # type: ignore[valid-type, misc]
    if not is_dataclass(own):
        return hint | None
    return _change_of(own, f"{own.__name__}Change") | None  # type: ignore[arg-type, union-attr]


def _has_fields(hint: Any) -> bool:
    return is_dataclass(hint) or get_origin(hint) is dict


def _optional(hint: Any) -> bool:
    return isinstance(hint, types.UnionType) and type(None) in get_args(hint)


CaseChange = _change_of(Case, "CaseChange")


def check_simulated(before: Case, after: Case) -> None:
    """Raises RefusedInput where a change would make a real job a simulated one after its first reading, or a simulated one real."""
    if before.simulated == after.simulated:
        return
    if before.simulated is not None:
        raise refuse("simulated", "unchanged: a job of a simulated vehicle stays one", str(after.simulated))
    if before.readings:
        raise refuse(
            "simulated",
            "a job without readings, so that nothing real is mixed with it",
            f"{len(before.readings)} readings",
        )
