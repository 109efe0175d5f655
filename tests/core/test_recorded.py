"""The demo jobs as they are on record (``tests/recorded.py``)."""

import json
from typing import Any
from unittest import TestCase

from tests.recorded import RECORD, figures, jobs

#: How far a figure may be off: another processor's last digits.
SHARE, CHANCE = 1e-3, 2e-4


class Recorded(TestCase):
    """Decisions, beliefs, proofs, judgements and proposals."""

    def test_nothing_has_changed(self) -> None:
        record = json.loads(RECORD.read_text(encoding="utf-8"))
        self.assertEqual(record.keys(), jobs().keys())
        for name, document in jobs().items():
            found = json.loads(json.dumps(figures(document)))
            for field, wanted in record[name].items():
                with self.subTest(name, field=field):
                    self.alike(found[field], wanted)

    def alike(self, found: Any, wanted: Any) -> None:
        if isinstance(wanted, float) and isinstance(found, float):
            self.assertAlmostEqual(found, wanted, delta=max(CHANCE, SHARE * abs(wanted)))
        elif isinstance(wanted, dict):
            self.assertEqual(found.keys(), wanted.keys())
            for key, value in wanted.items():
                self.alike(found[key], value)
        elif isinstance(wanted, list):
            self.assertEqual(len(found), len(wanted))
            for one, other in zip(found, wanted, strict=True):
                self.alike(one, other)
        else:
            self.assertEqual(found, wanted)
