"""Answers to requests that the contract allows and nobody thought of."""

import json
from collections import Counter
from pathlib import Path

from django.conf import settings
from django.test import LiveServerTestCase

from server.jobs.start import start_job
from server.people.roles import add_person
from tests.cases import BATTERY, ELEMENT, case, demo_case
from tests.contract import Live, operations, try_operation
from tests.people import BenchClient, Emptied, come_in

#: Requests of each operation: 500 and more of all.
EACH = 18


class Contract(Emptied, LiveServerTestCase):
    """docs/openapi.json against the server."""

    def test_no_answer_is_unknown_to_the_contract_or_a_fault_of_the_server_s(self) -> None:
        jobs = [start_job(item).pk for item in (case(BATTERY, ELEMENT), demo_case("04"))]
        client = BenchClient()
        chiara = come_in(client, "Chiara", "foreman")
        client.get("/")
        cookies = {name: client.cookies[name].value for name in ("sessionid", "csrftoken")}
        session = client.session
        session["picked"] = False
        session.save()
        headers = {
            "Cookie": "; ".join(f"{name}={value}" for name, value in cookies.items()),
            "X-CSRFToken": cookies["csrftoken"],
        }
        live = Live(jobs, [int(add_person("Ana").pk), int(chiara.pk)], headers)
        document = json.loads(Path(settings.BASE_DIR, "docs", "openapi.json").read_text(encoding="utf-8"))
        made: Counter[int] = Counter()
        for operation in operations(document):
            with self.subTest(f"{operation.method} {operation.path}"):
                made += try_operation(operation, live, self.live_server_url, EACH, None)
        self.assertGreaterEqual(made.total(), 500)
        self.assertGreaterEqual(made[200] + made[201], 80, made)  # and not all of them were turned away
