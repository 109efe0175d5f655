"""What is turned away before it costs anything: bodies, pictures, passwords, addresses."""

import json
import socket
from http.client import HTTPConnection
from io import BytesIO
from threading import Barrier, Thread
from time import sleep
from typing import Any
from unittest.mock import patch

from django.core.handlers.wsgi import WSGIHandler
from django.test import Client, TestCase, TransactionTestCase, override_settings
from PIL import EpsImagePlugin, Image

from server import limits, serving
from server.jobs.start import start_job
from server.ledger.models import Photo
from server.people import passwords
from server.people.roles import add_person
from tests import pictures
from tests.cases import ELEMENT, case
from tests.people import AtTheBench, Emptied, come_in

JSON = "application/json"
PASSWORD = "four-wires-and-a-shell"
OFF_THE_BENCH = override_settings(BENCH=False, SESSION_COOKIE_SECURE=False, CSRF_COOKIE_SECURE=False)


class Pictures(AtTheBench, TestCase):
    """Photos of a repair's steps, and the workshop's mark."""

    def setUp(self) -> None:
        super().setUp()
        self.photos = f"/api/jobs/{start_job(case()).pk}/steps/heat/photos"

    def send(self, data: bytes, kind: str = "image/png") -> Any:
        return self.client.generic("POST", self.photos, data, content_type=kind)

    def test_a_page_of_postscript_starts_no_other_program(self) -> None:
        with patch.object(EpsImagePlugin, "Ghostscript") as started:
            photo = self.send(pictures.POSTSCRIPT)
            mark = self.client.generic("PUT", "/api/workshop/mark", pictures.POSTSCRIPT, content_type="image/png")
        self.assertEqual((photo.status_code, mark.status_code, started.called), (422, 422, False))

    def test_the_header_says_that_a_picture_is_too_large_before_it_is_decoded(self) -> None:
        with patch.object(Image.Image, "convert") as decoded:
            answer = self.send(pictures.huge_png())
        self.assertEqual((answer.status_code, decoded.called), (422, False))
        self.assertEqual(answer.json()["findings"][0]["found"], "30001 x 1000")

    def test_a_large_photo_is_decoded_at_a_part_of_its_size(self) -> None:
        asked: list[tuple[int, int]] = []

        def convert(picture: Image.Image, *how: Any, **more: Any) -> Image.Image:
            asked.append(picture.size)
            return original(picture, *how, **more)

        original = Image.Image.convert
        large = pictures.picture("JPEG", (5200, 4000))
        with patch.object(Image.Image, "convert", convert):
            self.assertEqual(self.send(large, "image/jpeg").status_code, 201)
        self.assertEqual(asked[0], (2600, 2000))  # at a half; a quarter would be below what is kept

    def test_a_photo_stands_as_it_was_taken_even_where_what_the_camera_wrote_is_damaged(self) -> None:
        exif = Image.Exif()
        exif[0x0112] = 6  # turned by a quarter
        turned, broken = exif.tobytes(), b"Exif\0\0MM\0*" + b"\xff" * 40
        for written, portrait in ((turned, True), (broken, False)):
            self.assertEqual(self.send(pictures.picture(exif=written), "image/jpeg").status_code, 201)
            kept = Photo.objects.latest("pk").image
            with Image.open(BytesIO(bytes(kept))) as photo:
                self.assertEqual(photo.height > photo.width, portrait)

    def test_damaged_pictures_are_refused_or_kept_and_never_fail(self) -> None:
        found = {self.client.generic("PUT", "/api/workshop/mark", data, content_type="image/png").status_code
                 for data in pictures.damaged(100)}  # fmt: skip
        self.assertLessEqual(found, {200, 422})
        self.assertIn(422, found)


class Bodies(AtTheBench, TestCase):
    """Their size and their numbers."""

    def test_each_address_has_its_limit_and_strangers_a_smaller_one(self) -> None:
        job = start_job(case()).pk
        stranger = Client(SERVER_NAME="127.0.0.1")
        for client, method, path, size, status in (
            (self.client, "POST", "/api/jobs/import", limits.CASE_BYTES + 1, 413),
            (self.client, "POST", f"/api/jobs/{job}/readings", limits.DOCUMENT_BYTES + 1, 413),
            (self.client, "POST", f"/api/jobs/{job}/readings", limits.DOCUMENT_BYTES, 422),
            (self.client, "PUT", "/api/workshop/mark", limits.PICTURE_BYTES + 1, 413),
            (stranger, "PUT", "/api/workshop/mark", limits.STRANGER_BYTES + 1, 413),
            (stranger, "POST", "/api/people/new", limits.STRANGER_BYTES + 1, 413),
            (stranger, "POST", "/api/people/new", limits.STRANGER_BYTES, 422),
        ):
            with self.subTest(path=path, size=size):
                kind = "image/png" if path.endswith("mark") else JSON
                answer = client.generic(method, path, b" " * size, content_type=kind)
                self.assertEqual(answer.status_code, status)
                self.assertTrue(answer.json()["message"])

    def test_absurd_numbers_are_refused(self) -> None:
        job = start_job(case()).pk
        body = json.dumps(ELEMENT)[:-1] + ', "rpm": 1' + "0" * 5000 + "}"
        answer = self.client.generic("POST", f"/api/jobs/{job}/readings", body, content_type=JSON)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("at most 300 digits", answer.json()["message"])
        for path, status in (
            (f"jobs/{job}/without/{10**30}", 422),
            (f"jobs/{10**30}", 404),
            ("jobs/" + "9" * 5000, 422),
        ):
            self.assertEqual(self.client.get(f"/api/{path}").status_code, status, path[:40])

    def test_an_address_that_is_no_page_is_not_answered_with_one(self) -> None:
        for path in ("/wp-login.php", "/.env", "/jobs", "/jobs/1/nothing", "/codes/x"):
            self.assertEqual(self.client.get(path).status_code, 404, path)


class Served(Emptied, TransactionTestCase):
    """The server that ``serve`` starts, over a socket."""

    client_class: Any = Client

    def setUp(self) -> None:
        super().setUp()
        self.server = serving.server(WSGIHandler(), "127.0.0.1:0", 2)
        self.port = self.server.effective_port
        self.running = Thread(target=self.server.run, daemon=True)
        self.running.start()
        self.addCleanup(self.stop)

    def stop(self) -> None:
        self.server.close()
        self.running.join(10)

    def announced(self, length: int, cookie: str = "", path: str = "/api/workshop/mark") -> int:
        """The answer to headers alone: a body is announced and never sent."""
        asked = HTTPConnection("127.0.0.1", self.port, timeout=30)
        asked.putrequest("PUT", path)
        for name, value in (("Content-Type", "image/png"), ("Content-Length", str(length)), ("Cookie", cookie)):
            asked.putheader(name, value)
        asked.endheaders()
        return asked.getresponse().status

    def test_a_body_above_its_limit_is_refused_before_it_comes(self) -> None:
        come_in(self.client)
        key = self.client.cookies["sessionid"].value
        self.assertEqual(self.announced(limits.PICTURE_BYTES + 1, f"sessionid={key}"), 413)
        for cookie in ("", "sessionid=made-up", 'sessionid="', f"sessionid={key[::-1]}"):
            self.assertEqual(self.announced(limits.STRANGER_BYTES + 1, cookie), 413, cookie)

    def test_chunks_that_nobody_announced_end_at_the_limit(self) -> None:
        with socket.create_connection(("127.0.0.1", self.port), timeout=30) as line:
            line.sendall(b"POST /api/people/new HTTP/1.1\r\nHost: x\r\nTransfer-Encoding: chunked\r\n\r\n")
            chunk = b"1000\r\n" + b" " * 4096 + b"\r\n"
            for _ in range(limits.STRANGER_BYTES // 4096 + 1):
                line.sendall(chunk)
            self.assertIn(b"413", line.recv(200))

    def test_headers_that_come_drop_by_drop_are_not_waited_for(self) -> None:
        with (
            patch.object(serving, "HEADER_S", 0.05),
            socket.create_connection(("127.0.0.1", self.port), timeout=30) as line,
        ):
            line.sendall(b"GET / HTTP/1.1\r\n")
            sleep(0.2)
            line.sendall(b"X-Slow: 1\r\n")
            self.assertEqual(line.recv(100), b"")


class Passwords(TestCase):
    """Their hashes, and the tries that count."""

    @OFF_THE_BENCH
    def setUp(self) -> None:
        add_person("Tino", "technician", PASSWORD)

    def sign_in(self, name: str, password: str, client: Client, address: str = "192.0.2.1") -> int:
        with OFF_THE_BENCH:
            body = {"name": name, "password": password}
            answer = client.post("/api/people/sign-in", body, content_type=JSON, REMOTE_ADDR=address)
        return int(answer.status_code)

    def test_a_device_that_signed_in_before_is_not_locked_out_by_a_stranger_beside_it(self) -> None:
        own, stranger, copied = Client(), Client(), Client()
        self.assertEqual(self.sign_in("Tino", PASSWORD, own), 200)
        self.assertEqual([self.sign_in("Tino", "wrong", stranger) for _ in range(5)], [401] * 4 + [429])
        self.assertEqual(self.sign_in("Tino", PASSWORD, stranger), 429)
        self.assertEqual(self.sign_in("Tino", PASSWORD, own), 200)
        self.assertEqual(self.sign_in("Tino", PASSWORD, Client(), "192.0.2.2"), 200)
        copied.cookies["device"] = own.cookies["device"].value[:-2] + "xx"  # its signature does not hold
        self.assertEqual(self.sign_in("Tino", PASSWORD, copied), 429)
        self.assertEqual([self.sign_in("Tino", "wrong", own) for _ in range(5)], [401] * 4 + [429])  # its own count

    def test_tries_while_the_door_is_shut_do_not_keep_it_shut(self) -> None:
        from axes.models import AccessAttempt

        for _ in range(5):
            self.sign_in("Tino", "wrong", Client())
        first = AccessAttempt.objects.get().attempt_time
        self.sign_in("Tino", "wrong", Client())
        self.assertEqual(AccessAttempt.objects.get().attempt_time, first)

    def test_an_address_that_tried_ten_names_is_slowed_and_others_are_not(self) -> None:
        for number in range(10):
            self.assertEqual(self.sign_in(f"Name {number}", "guessed", Client()), 401)
        self.assertEqual(self.sign_in("Tino", PASSWORD, Client()), 429)
        self.assertEqual(self.sign_in("Tino", PASSWORD, Client(), "192.0.2.2"), 200)

    def test_a_hash_fits_the_memory_and_costlier_ones_are_kept_anew(self) -> None:
        from django.contrib.auth.hashers import Argon2PasswordHasher
        from django.contrib.auth.models import User

        person = User.objects.get(username="Tino")
        self.assertIn("m=19456,t=2,p=1", person.password)
        person.password = Argon2PasswordHasher().encode(PASSWORD, "salt-of-former-times")
        person.save()
        self.assertEqual(self.sign_in("Tino", PASSWORD, Client()), 200)
        self.assertIn("m=19456,t=2,p=1", User.objects.get(username="Tino").password)

    def test_two_at_a_time_some_wait_and_the_rest_are_turned_away(self) -> None:
        turns, inside = passwords.HashingSlots(2, 3), Barrier(3)
        over, seen = Barrier(3), []

        def hold() -> None:
            with turns.one():
                inside.wait(30)
                over.wait(30)

        def wait_for_a_turn() -> None:
            with turns.one():
                seen.append("served")

        holding = [Thread(target=hold) for _ in range(2)]
        for thread in holding:
            thread.start()
        inside.wait(30)
        waiting = [Thread(target=wait_for_a_turn) for _ in range(3)]
        for thread in waiting:
            thread.start()
        while turns._here < 5:
            sleep(0.001)
        with self.assertRaises(passwords.TooBusy), turns.one():
            pass
        self.assertEqual(seen, [])
        over.wait(30)
        for thread in (*holding, *waiting):
            thread.join(30)
        self.assertEqual(seen, ["served"] * 3)

    def test_who_is_turned_away_is_told_when_to_try_again(self) -> None:
        with patch.object(passwords.turns, "_here", passwords.AT_A_TIME + passwords.WAITING):
            self.assertEqual(self.sign_in("Tino", PASSWORD, Client()), 429)
