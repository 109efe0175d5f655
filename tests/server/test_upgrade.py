"""What version 0.1 left: a store, and readings that waited in a browser. Both are taken by this version."""

import gzip
import json
import os
import sqlite3
import subprocess
import sys
from contextlib import closing
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

from tests.kept.opened import WAITED

_ROOT = Path(__file__).parents[2]
_STORE = WAITED.parent / "store-0.1.sql.gz"


class FromBefore(TestCase):
    """tests/kept."""

    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.var = Path(folder.name)
        with closing(sqlite3.connect(self.var / "dianoia.sqlite3")) as found:
            found.executescript(gzip.decompress(_STORE.read_bytes()).decode("utf-8"))

    def manage(self, *arguments: str) -> str:
        around = {**os.environ, "DIANOIA_VAR": str(self.var), "DIANOIA_BENCH": "1"}
        done = subprocess.run(
            [sys.executable, "manage.py", *arguments],
            cwd=_ROOT,
            env=around,
            capture_output=True,
            text=True,
            check=False,
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        return done.stdout

    def test_a_store_and_an_outbox_of_version_0_1_are_taken(self) -> None:
        self.manage("upgrade")
        self.manage("verify_ledger")
        found = json.loads(
            self.manage("shell", "-v", "0", "-c", "from tests.kept.opened import opened; print(opened())").splitlines()[
                -1
            ]
        )
        self.assertEqual(found["decisions"], {"1": "keep-testing", "2": "no-fault-now"})
        waited = json.loads(WAITED.read_text(encoding="utf-8"))
        self.assertEqual({item["body"]["measure"] for item in waited},
                         {"voltage", "resistance", "lamp", "scope", "current", "scan", "trace", "inspect", "act"})  # fmt: skip
        self.assertEqual(found["answers"], [[201, 201]] * len(waited))
        self.assertEqual(found["lines"], 15 + len(waited))
        self.manage("verify_ledger")
