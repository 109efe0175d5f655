"""The permission table, asked of every operation of the API's document, for every role and nobody, at both kinds of server."""

import json
from collections.abc import Iterator
from pathlib import Path
from time import time
from typing import Any
from unittest.mock import patch

from django.conf import settings
from django.contrib.auth.models import User
from django.test import Client, TestCase, override_settings

from server.jobs.start import start_job
from server.people.access import PICKED, SEEN
from server.people.permissions import FILES, OPERATIONS, Needs
from server.people.roles import Role, add_person
from tests.cases import case
from tests.people import BenchClient

#: What stands for each part of an address that is asked.
_PARTS = {
    "{number}": "1",
    "{place}": "0",
    "{step}": "wear-gloves",
    "{address}": "B2S1",
    "{person}": "1",
    "{which}": "decision",
}
#: Who asks: a role, or nobody; and whether a password was given.
_WHO: tuple[tuple[Role | None, bool], ...] = (
    (None, False), ("reader", True), ("technician", False), ("technician", True), ("foreman", False), ("foreman", True),
)  # fmt: skip


def operations() -> Iterator[tuple[str, str]]:
    document = json.loads(Path(settings.BASE_DIR, "docs", "openapi.json").read_text(encoding="utf-8"))
    for path, methods in document["paths"].items():
        for method in methods:
            yield method.upper(), path


def allowed(needs: Needs, role: Role | None, by_password: bool, bench: bool) -> bool:
    """What the table means, written down once more by hand."""
    if needs == "anybody":
        return True
    if needs == "reads":
        return role is not None or bench
    if needs == "self":
        return role is not None
    if needs == "writes":
        return role in ("technician", "foreman")
    return role == "foreman" and by_password


class Table(TestCase):
    """Rows and operations."""

    def test_every_operation_has_one_row_and_every_row_an_operation(self) -> None:
        self.assertEqual(set(operations()), set(OPERATIONS))
        self.assertFalse(set(OPERATIONS) & set(FILES))

    @patch("server.people.access.needs_of", return_value=None)
    def test_an_address_without_a_row_is_read_and_changed_by_nobody_who_has_not_come_in(self, _: Any) -> None:
        with override_settings(BENCH=False, SESSION_COOKIE_SECURE=False, CSRF_COOKIE_SECURE=False):
            for method, path in (("GET", "/api/families"), ("POST", "/api/jobs")):
                answer = Client().generic(method, path, "{}", content_type="application/json")
                self.assertEqual(answer.status_code, 401, path)


class EveryRole(TestCase):
    """Asked of the running application."""

    people: dict[Role, User]

    @classmethod
    def setUpTestData(cls) -> None:
        cls.people = {
            role: add_person(role, role, "four-wires-and-a-shell") for role in ("reader", "technician", "foreman")
        }
        start_job(case())

    def client_of(self, role: Role | None, by_password: bool, bench: bool) -> Client:
        client = BenchClient() if bench else Client()
        if role is None:
            return client
        client.force_login(self.people[role], backend="django.contrib.auth.backends.ModelBackend")
        session = client.session
        session[SEEN], session[PICKED] = time(), not by_password
        session.save()
        return client

    def asked(self, client: Client, method: str, path: str) -> Any:
        address = path
        for part, value in _PARTS.items():
            address = address.replace(part, value)
        body: dict[str, Any] = {} if method == "GET" else {"data": "{}", "content_type": "application/json"}
        return client.generic(method, address, **body)

    def test_who_may_do_what(self) -> None:
        for bench in (True, False):
            for role, by_password in _WHO:
                if not bench and role is not None and not by_password:
                    continue  # a name that was picked is worth nothing off the bench
                for method, path in operations():
                    with (
                        self.subTest(f"{method} {path}", role=role, by_password=by_password, bench=bench),
                        override_settings(BENCH=bench, SESSION_COOKIE_SECURE=False, CSRF_COOKIE_SECURE=False),
                    ):
                        client = self.client_of(role, by_password, bench)
                        answer = self.asked(client, method, path)
                        told = json.loads(answer.content)["message"] if answer.status_code in (401, 403) else ""
                        shut = any(told.startswith(words) for words in (
                            "Say who you are", "Sign in first", "You may read here", "Only a foreman", "Accounts take",
                        ))  # fmt: skip
                        self.assertEqual(not shut, allowed(OPERATIONS[method, path], role, by_password, bench), told)
