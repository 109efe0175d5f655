"""What is asked for beside the jobs: the page itself, the book of codes, sums, layouts."""

import re
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from django.test import TestCase, override_settings

from tests.people import AtTheBench


class Asked(AtTheBench, TestCase):
    """Requests that leave nothing behind."""

    def ask(self, path: str, **query: Any) -> tuple[int, Any]:
        answer = self.client.get(f"/api{path}", query)
        return answer.status_code, answer.json()

    def test_the_code_book_finds_by_every_handle(self) -> None:
        _, every = self.ask("/codebook")
        self.assertGreater(len(every), 200)
        for query, holds in (
            ({"words": "heater low"}, lambda code: "heater" in code["title"].lower()),
            ({"bank": 2, "position": 1}, lambda code: (code["bank"], code["position"]) == (2, 1)),
            ({"circuit": "heater"}, lambda code: code["circuit"] == "heater"),
        ):
            with self.subTest(query):
                status, found = self.ask("/codebook", **query)
                self.assertEqual(status, 200)
                self.assertTrue(0 < len(found) < len(every) and all(map(holds, found)), len(found))
        self.assertEqual(self.ask("/codebook", words="unicorn"), (200, []))
        status, refused = self.ask("/codebook", bank="left")
        self.assertEqual((status, refused["findings"][0]["field"]), (422, "bank"))
        self.assertEqual(self.ask("/codebook", words="P0135")[1][0]["code"], "P0135")

    def test_sums_are_taken_as_typed_and_refused_by_field(self) -> None:
        for path, query, expected in (
            ("heater", {"ohms_20c": "6", "volts": "12"}, {"cold_amps": 2.0}),
            ("resistance", {"amps": "500mA", "volts": "12"}, {"ohms_20c": [24.0, 24.0]}),
            ("pwm", {"volts": "14", "duty": "25"}, {"meter_v": 10.5}),
            ("pwm", {"volts": "14", "meter_v": "3.5"}, {"duty": 0.75}),
        ):
            with self.subTest(path=path, **query):
                status, answer = self.ask(f"/sums/{path}", **query)
                self.assertEqual((status, {name: answer.get(name) for name in expected}), (200, expected), answer)
        for path, query, field in (
            ("heater", {"ohms_20c": "6 V"}, "ohms_20c"),
            ("heater", {"ohms_20c": "6", "volts": "many"}, "volts"),
            ("at-20", {"ohms": "8", "celsius": "warm"}, "celsius"),
            ("pwm", {"duty": "half"}, "duty"),
            ("resistance", {"amps": "0"}, "amps"),
        ):
            with self.subTest(path=path, **query):
                status, answer = self.ask(f"/sums/{path}", **query)
                self.assertEqual(status, 422)
                self.assertIn(field, [finding["field"] for finding in answer["findings"]], answer)

    def test_layouts_families_and_vehicles_of_earlier_jobs(self) -> None:
        self.assertTrue(all(preset["label"] for preset in self.ask("/presets")[1]))
        self.assertIn("airfuel-4w", [row["id"] for row in self.ask("/families")[1]])
        for label in ("Bus 4", "Plough 2", "Bus 4"):
            body = {"codes": "P0057", "vehicle": {"label": label}}
            self.client.post("/api/jobs", data=body, content_type="application/json")
        known = [row["vehicle"]["label"] for row in self.ask("/vehicles")[1]]
        self.assertEqual(known, ["Bus 4", "Plough 2"])


class Built(AtTheBench, TestCase):
    """The built front end."""

    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.dist = Path(folder.name)
        settings = override_settings(WEB_DIST=self.dist)
        settings.enable()
        self.addCleanup(settings.disable)

    def test_the_page_is_fresh_and_its_assets_are_for_good(self) -> None:
        (self.dist / "index.html").write_text("<!doctype html>")
        (self.dist / "assets").mkdir()
        (self.dist / "assets" / "a-1.js").write_text("1")
        for path in ("/", "/jobs/3", "/codes"):
            self.assertEqual(self.client.get(path)["Cache-Control"], "no-cache", path)
        script = self.client.get("/assets/a-1.js")
        self.assertIn("immutable", script["Cache-Control"])
        self.assertIn("javascript", script["Content-Type"])
        for path in ("/assets/b.js", "/assets/..", "/api/unknown"):
            self.assertEqual(self.client.get(path).status_code, 404, path)
        (self.dist / "kept.txt").write_text("not to be served")
        for path in ("/assets/../kept.txt", "/assets/%2e%2e/kept.txt", "/assets//kept.txt", "/kept.txt"):
            self.assertNotIn(b"not to be served", self.client.get(path).getvalue(), path)

    def test_every_page_of_the_front_end_has_its_address_and_no_other_has(self) -> None:
        """``web/src/main.tsx`` names the pages, ``server/web.py`` answers them."""
        (self.dist / "index.html").write_text("<!doctype html>")
        told = (Path(__file__).parents[2] / "web" / "src" / "main.tsx").read_text(encoding="utf-8")
        paths = re.findall(r"path: '(/[^']*)'", told)
        self.assertGreater(len(paths), 8)
        for path in paths:
            self.assertEqual(self.client.get(path.replace(":id", "12")).status_code, 200, path)

    def test_without_a_build_it_says_what_to_do(self) -> None:
        answer = self.client.get("/")
        self.assertEqual(answer.status_code, 503)
        self.assertIn("make demo", answer.content.decode())
