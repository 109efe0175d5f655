"""Requests made from the contract itself, with live numbers in them: no answer may be a fault of the server's, or unknown to the contract."""

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import seed as seeded
from hypothesis import strategies as st
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from tests.cases import BATTERY, ELEMENT, LAMP, SUPPLY

CHECKS = [not_a_server_error, status_code_conformance, content_type_conformance, response_schema_conformance]
#: An answer that takes longer is none: a busy machine works a strange job out for half a minute.
ANSWERED_S = 60
#: Who comes in or goes changes the session that all the others use: these are asked without one.
ALONE = ("/people/pick", "/people/new", "/people/sign-in", "/people/sign-out")
READINGS: tuple[dict[str, Any], ...] = (BATTERY, SUPPLY, ELEMENT, LAMP)


@dataclass(frozen=True)
class Live:
    """Numbers that are there. headers: of who asks, with cookies and token."""

    jobs: Sequence[int]
    people: Sequence[int]
    headers: Mapping[str, str]


def operations(document: Mapping[str, Any]) -> Iterator[Any]:
    """Of an OpenAPI document."""
    for found in schemathesis.openapi.from_dict(_without_pairs(document)).get_all_operations():
        yield found.ok()  # type: ignore[union-attr]


def _without_pairs(part: Any) -> Any:
    """A document whose lists of a fixed length are lists of any of their parts: the tester's validator knows no others."""
    if isinstance(part, list):
        return [_without_pairs(item) for item in part]
    if not isinstance(part, Mapping):
        return part
    plain = {name: _without_pairs(value) for name, value in part.items() if name != "prefixItems"}
    return {**plain, "items": {"anyOf": _without_pairs(part["prefixItems"])}} if "prefixItems" in part else plain


def try_operation(operation: Any, live: Live, base_url: str, count: int, seed: int | None) -> Counter[int]:
    """Make so many requests of an operation. Returns how many answers had each status; raises the first that the contract does not allow.

    seed: None for the same requests each time.
    """
    made: Counter[int] = Counter()

    @settings(max_examples=count, derandomize=seed is None, database=None, deadline=None, phases=(Phase.generate,),
              suppress_health_check=list(HealthCheck))  # fmt: skip
    @given(_cases(operation, live))
    def ask(case: Any) -> None:
        headers = {
            name: value
            for name, value in live.headers.items()
            if name != "Cookie" or not operation.path.endswith(ALONE)
        }
        made[
            case.call_and_validate(base_url=base_url, headers=headers, checks=CHECKS, timeout=ANSWERED_S).status_code
        ] += 1

    (ask if seed is None else seeded(seed)(ask))()
    return made


def _cases(operation: Any, live: Live) -> st.SearchStrategy[Any]:
    """As the contract has them; and with numbers and readings that are there."""
    numbers = {
        "number": live.jobs,
        "person": live.people,
        "place": range(4),
        "address": ("B1S1", "B1S2", "B2S1"),
        "step": ("heat", "find"),
    }
    known = {name: st.sampled_from(list(values)) for name, values in numbers.items() if f"{{{name}}}" in operation.path}
    if not known:
        return operation.as_strategy()
    live_cases = st.fixed_dictionaries(known).flatmap(lambda values: operation.as_strategy(path_parameters=values))
    if operation.path.endswith("/readings"):
        taken = st.tuples(st.fixed_dictionaries(known), st.sampled_from(READINGS))
        live_cases |= taken.flatmap(lambda pair: operation.as_strategy(path_parameters=pair[0], body=dict(pair[1])))
    return operation.as_strategy() | live_cases | live_cases
