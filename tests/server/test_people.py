"""Who comes in: names at a bench that nobody else can reach, sign-in elsewhere, and what each may do."""

import json
from http.client import HTTPConnection
from io import StringIO
from threading import Thread
from typing import Any

from axes.models import AccessAttempt
from django.contrib.auth.models import User
from django.contrib.sessions.models import Session
from django.core.checks import run_checks
from django.core.management import CommandError, call_command
from django.test import Client, TestCase, override_settings
from django.utils.timezone import now

from server import serving
from server.api.api import api
from server.jobs.start import start_job
from server.ledger.entries import Author
from server.ledger.models import Entry
from server.ledger.verification import problems
from server.people.access import ATTENDED, SEEN
from server.people.roles import add_person, role_of
from server.people.tidying import KEPT, tidy
from tests.cases import ELEMENT, case
from tests.people import BenchClient, come_in, someone

JSON = "application/json"
PASSWORD = "four-wires-and-a-shell"


def served(headers: dict[str, str]) -> tuple[str | None, ...]:
    """What the application is told of the scheme, the client and two headers, by the server that ``serve`` starts."""
    told: list[tuple[str | None, ...]] = []

    def application(environ: dict[str, str], start: Any) -> list[bytes]:
        names = ("wsgi.url_scheme", "REMOTE_ADDR", "HTTP_X_FORWARDED_PROTO", "HTTP_X_FORWARDED_FOR")
        told.append(tuple(environ.get(name) for name in names))
        start("204 No Content", [])
        return []

    server = serving.server(application, "127.0.0.1:0", 1)
    running = Thread(target=server.run, daemon=True)
    running.start()
    asked = HTTPConnection("127.0.0.1", server.effective_port, timeout=30)
    asked.request("GET", "/", headers=headers)
    asked.getresponse().read()
    server.close()
    return told[0]


class Bench(TestCase):
    """One machine, no passwords."""

    client_class: Any = BenchClient

    def pick(self, name: str) -> Any:
        return self.client.post("/api/people/pick", {"person": someone(name).pk}, content_type=JSON).json()

    def test_reading_is_free_and_writing_takes_a_name_that_is_noted(self) -> None:
        job = start_job(case()).pk
        self.assertEqual(self.client.get(f"/api/jobs/{job}").status_code, 200)
        self.assertEqual(self.client.post(f"/api/jobs/{job}/readings", ELEMENT, content_type=JSON).status_code, 401)
        self.assertEqual(self.pick("Beppo")["me"]["name"], "Beppo")
        taken = self.client.post(f"/api/jobs/{job}/readings", ELEMENT, content_type=JSON).json()
        self.assertEqual(taken["written"]["by"], "Beppo")
        self.pick("Ana")
        self.client.post(f"/api/jobs/{job}/readings/0/strike", {"reason": "wrong pin"}, content_type=JSON)
        written = self.client.get(f"/api/jobs/{job}").json()["written"][0]
        self.assertEqual((written["by"], written["struck_by"]), ("Beppo", "Ana"))

    def test_a_new_name_is_added_once(self) -> None:
        for name, status in (("  Dora  Grat ", 200), ("dora grat", 422), ("Ｄora Grat", 422), (" ", 422)):
            answer = self.client.post("/api/people/new", {"name": name}, content_type=JSON)
            self.assertEqual(answer.status_code, status, name)
        self.assertEqual(self.client.get("/api/people/here").json()["me"]["name"], "Dora Grat")

    def test_what_does_not_come_from_this_machine_is_refused(self) -> None:
        for why, fields in (
            ("another machine", {"REMOTE_ADDR": "192.0.2.7"}),
            ("another host's name", {"SERVER_NAME": "testserver"}),
            ("a proxy", {"HTTP_X_FORWARDED_FOR": "192.0.2.7"}),
            ("a proxy that says so", {"HTTP_FORWARDED": "for=192.0.2.7"}),
        ):
            with self.subTest(why):
                asked: dict[str, Any] = {"SERVER_NAME": "127.0.0.1", **fields}
                self.assertEqual(Client(**asked).get("/api/jobs").status_code, 403)
        with override_settings(ALLOWED_HOSTS=["depot.example"]):
            self.assertIn("dianoia.E002", [item.id for item in run_checks()])
        with self.assertRaisesMessage(CommandError, "this machine only"):
            call_command("serve", "--listen", "0.0.0.0:8000")

    def test_what_proxies_say_reaches_who_refuses_or_believes_it(self) -> None:
        sent = {"X-Forwarded-Proto": "https", "X-Forwarded-For": "198.51.100.9, 192.0.2.7"}
        here = "127.0.0.1"
        for why, bench, proxy, seen in (
            ("a bench, which refuses it", True, "", ("http", here, "https", "198.51.100.9, 192.0.2.7")),
            (
                "a proxy here, believed of TLS and of its client",
                False,
                here,
                ("https", "192.0.2.7", "https", "192.0.2.7"),
            ),
            ("somebody who is not the proxy", False, "192.0.2.99", ("http", here, None, None)),
            ("no proxy", False, "", ("http", here, None, None)),
        ):
            with self.subTest(why), override_settings(BENCH=bench, PROXY=proxy):
                self.assertEqual(served(sent), seen)

    def test_a_tablet_left_lying_asks_anew_and_polling_keeps_nobody_in(self) -> None:
        job = start_job(case()).pk
        come_in(self.client)
        session = self.client.session
        session[SEEN] -= 239 * 60
        session.save()
        for path in (f"/api/jobs/{job}/stand", f"/api/jobs/{job}", "/api/people/here"):
            self.client.get(path)
            self.assertEqual(self.client.session[SEEN], session[SEEN], path)
        self.client.get(f"/api/jobs/{job}/stand", headers={ATTENDED: "1"})
        self.assertGreater(self.client.session[SEEN], session[SEEN] + 200 * 60)
        session[SEEN] -= 2 * 60
        session.save()
        self.assertIsNone(self.client.get("/api/people/here").json()["me"])


@override_settings(BENCH=False, SESSION_COOKIE_SECURE=False, CSRF_COOKIE_SECURE=False)
class SignIn(TestCase):
    """Off the bench."""

    def sign_in(self, name: str, password: str, client: Client | None = None) -> int:
        body = {"name": name, "password": password}
        return int((client or self.client).post("/api/people/sign-in", body, content_type=JSON).status_code)

    def test_nothing_is_told_to_who_is_not_signed_in(self) -> None:
        job = start_job(case()).pk
        for path in ("jobs", f"jobs/{job}", f"jobs/{job}/case", "codebook", "workshop", f"jobs/{job}/customer"):
            self.assertEqual(self.client.get(f"/api/{path}").status_code, 401, path)
        told = self.client.get("/api/people/here").json()
        self.assertEqual((told["me"], told["by_password"], told["way"], told["people"]), (None, False, "sign-in", []))
        for path, body in (("pick", {"person": someone().pk}), ("new", {"name": "Eve"})):
            self.assertEqual(self.client.post(f"/api/people/{path}", body, content_type=JSON).status_code, 403)

    def test_a_reader_reads_and_a_cookie_is_worth_nothing_after_signing_out(self) -> None:
        job = start_job(case()).pk
        add_person("Rosa", "reader", PASSWORD)
        self.assertEqual(self.sign_in("Rosa", PASSWORD), 200)
        self.assertTrue(self.client.get("/api/people/here").json()["me"]["role"] == "reader")
        self.assertEqual(self.client.get(f"/api/jobs/{job}").status_code, 200)
        self.assertEqual(self.client.post(f"/api/jobs/{job}/readings", ELEMENT, content_type=JSON).status_code, 403)
        kept = self.client.cookies["sessionid"].value
        self.client.post("/api/people/sign-out", content_type=JSON)
        self.client.cookies["sessionid"] = kept
        self.assertEqual(self.client.get(f"/api/jobs/{job}").status_code, 401)

    def test_wrong_passwords_shut_the_door_for_a_while(self) -> None:
        person = add_person("Tino", "technician", PASSWORD)
        self.assertTrue(person.password.startswith("argon2"))
        self.assertEqual([self.sign_in("Tino", "wrong") for _ in range(6)], [401] * 4 + [429] * 2)
        self.assertEqual(self.sign_in("Tino", PASSWORD), 429)
        told = self.client.post("/api/people/sign-in", {"name": "Tino", "password": PASSWORD}, content_type=JSON).json()
        self.assertIn("Wait a quarter of an hour", told["message"])

    def test_every_operation_says_what_turns_a_request_away(self) -> None:
        for path, item in api.get_openapi_schema(path_prefix="/api/")["paths"].items():
            for method, operation in item.items():
                with self.subTest(path=path, method=method):
                    turned_away = {401, 403, 422, 500, 503} | ({409, 415} if method != "get" else set())
                    self.assertLessEqual(turned_away, {int(status) for status in operation["responses"]})

    def test_an_address_that_is_none_is_told_as_any_problem_is(self) -> None:
        answer = self.client.get("/api/people/nothing")
        self.assertEqual((answer.status_code, answer["Content-Type"]), (404, "application/json"))

    def test_a_name_picked_at_the_bench_is_worth_nothing_here(self) -> None:
        come_in(self.client)
        self.assertEqual(self.client.get("/api/jobs").status_code, 401)

    def test_every_write_carries_the_pages_token(self) -> None:
        job = start_job(case()).pk
        add_person("Tino", "technician", PASSWORD)
        strict = Client(enforce_csrf_checks=True)
        self.assertEqual(self.sign_in("Tino", PASSWORD, strict), 403)
        strict.get("/")
        token = {"X-CSRFToken": strict.cookies["csrftoken"].value}
        signed = strict.post(
            "/api/people/sign-in", {"name": "Tino", "password": PASSWORD}, content_type=JSON, headers=token
        )
        self.assertEqual(signed.status_code, 200)
        token = {"X-CSRFToken": strict.cookies["csrftoken"].value}
        for headers, status in (({}, 403), ({"X-CSRFToken": "x" * 32}, 403), (token, 201)):
            answer = strict.post(f"/api/jobs/{job}/readings", json.dumps(ELEMENT), content_type=JSON, headers=headers)
            self.assertEqual(answer.status_code, status)
        self.assertEqual(Entry.objects.filter(kind="reading").count(), 1)


@override_settings(BENCH=False, SESSION_COOKIE_SECURE=False, CSRF_COOKIE_SECURE=False)
class Accounts(TestCase):
    """What a foreman sees and changes, where people sign in."""

    def setUp(self) -> None:
        self.chiara = add_person("Chiara", "foreman", PASSWORD)
        self.ana = add_person("Ana", "technician", PASSWORD)
        self.hers, self.foremans = self.signed_in("Ana"), self.signed_in("Chiara")

    def signed_in(self, name: str, password: str = PASSWORD) -> Client:
        client = Client()
        client.post("/api/people/sign-in", {"name": name, "password": password}, content_type=JSON)
        return client

    def send(self, client: Client, method: str, path: str, body: Any) -> int:
        return int(getattr(client, method)(f"/api/people/accounts{path}", body, content_type=JSON).status_code)

    def test_a_name_is_found_whatever_its_case(self) -> None:
        self.assertEqual(self.signed_in(" cHIARA ").get("/api/people/here").json()["me"]["name"], "Chiara")

    def test_a_password_that_is_the_name_with_a_number_is_refused(self) -> None:
        for password, status in (("Dora-2026-12", 422), ("20261234dora", 422), ("doras-four-wires", 200)):
            body = {"name": "Dora", "password": password}
            self.assertEqual(self.send(self.foremans, "post", "", body), status, password)

    def test_old_tries_and_sessions_go(self) -> None:
        old = AccessAttempt.objects.create(username="eve", ip_address="192.0.2.7", failures_since_start=1)
        AccessAttempt.objects.filter(pk=old.pk).update(attempt_time=now() - 2 * KEPT)
        AccessAttempt.objects.create(username="eve", ip_address="192.0.2.8", failures_since_start=1)
        over = Session.objects.first()
        assert over is not None
        Session.objects.filter(pk=over.pk).update(expire_date=now() - KEPT)
        before = Session.objects.count()
        tidy()
        self.assertEqual((AccessAttempt.objects.get().ip_address, Session.objects.count()), ("192.0.2.8", before - 1))

    def test_who_left_is_forgotten_but_for_the_name_in_the_ledger(self) -> None:
        AccessAttempt.objects.create(username="ANA", ip_address="192.0.2.7", failures_since_start=1)
        start_job(case(ELEMENT), by=Author(self.ana.pk, "Ana"))
        out = StringIO()
        call_command("forget_person", "ana", stdout=out)
        self.ana.refresh_from_db()
        self.assertEqual(
            (self.ana.is_active, self.ana.has_usable_password(), self.ana.last_login), (False, False, None)
        )
        self.assertEqual((AccessAttempt.objects.count(), Session.objects.count()), (0, 1))
        self.assertIn("2 entries of the ledger", out.getvalue())
        self.assertEqual(list(problems()), [])
        for name, says in (("Chiara", "only foreman"), ("Eve", "Nobody here")):
            with self.assertRaisesMessage(CommandError, says):
                call_command("forget_person", name, stdout=out)
        add_person("Dora")
        call_command("forget_person", "Dora", stdout=out)
        self.assertFalse(User.objects.filter(username="Dora").exists())

    def test_an_account_is_added_and_shut_and_its_sessions_end(self) -> None:
        for body, status in (
            ({"name": "Dora", "password": "short"}, 422),
            ({"name": "ana", "password": PASSWORD}, 422),
            ({"name": "Dora", "role": "reader", "password": PASSWORD}, 200),
        ):
            self.assertEqual(self.send(self.foremans, "post", "", body), status, body)
        listed = [(item["name"], item["role"]) for item in self.foremans.get("/api/people/accounts").json()]
        self.assertEqual(listed, [("Ana", "technician"), ("Chiara", "foreman"), ("Dora", "reader")])
        self.assertEqual(self.send(self.foremans, "patch", f"/{self.ana.pk}", {"open": False}), 200)
        self.assertIsNone(self.hers.get("/api/people/here").json()["me"])
        self.assertIsNone(self.signed_in("Ana").get("/api/people/here").json()["me"])
        self.assertEqual(self.send(self.foremans, "patch", "/4711", {"open": False}), 404)

    def test_somebody_stays_foreman(self) -> None:
        for body in ({"role": "technician"}, {"open": False}):
            self.assertEqual(self.send(self.foremans, "patch", f"/{self.chiara.pk}", body), 409)
        self.assertEqual(role_of(self.chiara), "foreman")
        self.assertEqual(self.send(self.foremans, "patch", f"/{self.ana.pk}", {"role": "foreman"}), 200)
        self.assertEqual(self.send(self.foremans, "patch", f"/{self.chiara.pk}", {"role": "technician"}), 200)

    def test_ones_own_password_takes_the_old_one_and_ends_other_sessions(self) -> None:
        elsewhere, new = self.signed_in("Ana"), "another-long-one"
        for old, wanted, status in (("wrong", new, 422), (PASSWORD, "short", 422), (PASSWORD, new, 204)):
            self.assertEqual(self.send(self.hers, "post", "/password", {"old": old, "new": wanted}), status)
        self.assertIsNone(elsewhere.get("/api/people/here").json()["me"])
        for client in (self.hers, self.signed_in("Ana", new)):
            self.assertEqual(client.get("/api/people/here").json()["me"]["name"], "Ana")
