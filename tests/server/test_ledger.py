"""The ledger under any course of requests: it only grows, and a bad one leaves no trace."""

from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase

from server.ledger.verification import problems
from tests.cases import BATTERY, ELEMENT, LAMP, LOOKED, SUPPLY
from tests.people import BenchClient, come_in

#: A request, and whether it is one that is taken.
Request = tuple[str, Any]
GOOD = (BATTERY, SUPPLY, ELEMENT, LAMP, LOOKED)
BAD: Any = ({**SUPPLY, "value": "6 ohm"}, {**SUPPLY, "red": "moon"}, {"measure": "act", "action": "pray", "value": "done"},
       {**ELEMENT, "connector": "mated"}, [], {**BATTERY, "struck": "already"})  # fmt: skip
REQUESTS = st.one_of(
    st.sampled_from(GOOD).map(lambda reading: ("take", reading)),
    st.sampled_from(BAD).map(lambda reading: ("refuse", reading)),
    st.tuples(st.integers(0, 4), st.sampled_from(("wrong pin", " "))).map(lambda strike: ("strike", strike)),
    st.sampled_from(({"style": "ohms-first"}, {"title": "Morning"}, {"style": "hammer"}, {"readings": []})).map(
        lambda change: ("change", change)
    ),
)


class AnyCourse(TestCase):
    """Requests in any order against a plain list."""

    client_class: Any = BenchClient

    def send(self, method: str, path: str, body: Any = None) -> tuple[int, Any]:
        answer = getattr(self.client, method)(f"/api/jobs{path}", body, content_type="application/json")
        return answer.status_code, answer.json()

    @settings(max_examples=25, deadline=None)
    @given(st.lists(REQUESTS, min_size=1, max_size=7))
    def test_the_ledger_is_what_was_taken_with_what_was_struck(self, requests: list[Request]) -> None:
        come_in(self.client)
        _, job = self.send("post", "", {"codes": "P0057", "vehicle": {"label": "Bus 4"}})
        at = f"/{job['id']}"
        values: list[Any] = []
        struck: dict[int, str] = {}
        for kind, body in requests:
            if kind == "take":
                self.assertEqual(self.send("post", f"{at}/readings", body)[0], 201)
                values.append(body["value"])
            elif kind == "refuse":
                self.assertIn(self.send("post", f"{at}/readings", body)[0], (400, 422), body)
            elif kind == "strike":
                place, reason = body
                allowed = place < len(values) and reason.strip() != "" and struck.get(place, reason) == reason
                status, _ = self.send("post", f"{at}/readings/{place}/strike", {"reason": reason})
                self.assertEqual(status, 200 if allowed else 422, body)
                if allowed:
                    struck[place] = reason
            else:
                allowed = body.get("style") != "hammer" and "readings" not in body
                self.assertEqual(self.send("patch", at, body)[0], 200 if allowed else 422, body)
        _, view = self.send("get", at)
        self.assertEqual([item["value"] for item in view["case"]["readings"]], values)
        kept = [item.get("struck") for item in view["case"]["readings"]]
        self.assertEqual({place: reason for place, reason in enumerate(kept) if reason is not None}, struck)
        self.assertEqual(len(view["ledger"]), len(values))
        self.assertEqual([item["reading"] for item in view["verdict"]["judged"]], list(range(len(values))))
        self.assertEqual(
            [bool(item["struck_by"]) for item in view["written"]], [place in struck for place in range(len(values))]
        )
        self.assertEqual(list(problems()), [])
        (summary,) = [item for item in self.send("get", "?size=100")[1]["jobs"] if item["id"] == view["id"]]
        self.assertEqual(summary["readings"], len(values) - len(struck))
