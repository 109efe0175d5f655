"""Someone who works with the pages of a test."""

import json
from time import time
from typing import Any

from django.contrib.auth.models import User
from django.test import Client

from server.ledger import guards
from server.ledger.entries import Author
from server.ledger.models import Entry, Job, Kind
from server.people.access import PICKED, SEEN
from server.people.roles import Role, add_person


def someone(name: str = "Ana", role: Role = "technician") -> User:
    return User.objects.filter(username=name).first() or add_person(name, role)


def come_in(client: Client, name: str = "Ana", role: Role = "technician") -> User:
    """As if the name had been picked at the bench."""
    person = someone(name, role)
    client.force_login(person, backend="django.contrib.auth.backends.ModelBackend")
    session = client.session
    session[SEEN], session[PICKED] = time(), True
    session.save()
    return person


def author(name: str = "Ana") -> Author:
    return Author(int(someone(name).pk), name)


def readings(job: Job | None = None) -> list[dict[str, Any]]:
    """The stored readings in the order they came."""
    rows = Entry.objects.filter(kind=Kind.READING, **({"job": job} if job else {}))
    return [json.loads(row.body)["reading"] for row in rows]


class BenchClient(Client):
    """Requests of this machine's own browser."""

    def __init__(self, **fields: Any) -> None:
        super().__init__(**{"SERVER_NAME": "127.0.0.1", **fields})


class AtTheBench:
    """Mixin: someone's name is picked before each test."""

    client_class: Any = BenchClient
    client: Client

    def setUp(self) -> None:
        super().setUp()  # type: ignore[misc]
        come_in(self.client)


class Emptied:
    """Mixin of tests that empty their database: its guards are lifted for that, and come back with the flush."""

    def _fixture_teardown(self) -> None:
        guards.lift()
        super()._fixture_teardown()  # type: ignore[misc]
