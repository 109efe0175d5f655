"""Reads a file in a process of its own: what makes a library crash there ends nothing here."""

import json
import subprocess
import sys
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import TYPE_CHECKING, Any

from dianoia.errors import Finding, RefusedInput, refuse

if TYPE_CHECKING:
    from dianoia.signals.recording import Recording

#: Seconds that it may take.
LONGEST_S = 180.0


def load_apart(path: Path) -> "Recording":
    """The recording in a file. Raises RefusedInput."""
    from dianoia.signals import keep
    from dianoia.signals.recording import Recording

    with TemporaryDirectory(prefix="dianoia-") as folder:
        made = Path(folder, "made.parquet")
        order = {"path": str(path.resolve()), "out": str(made), "chosen": None}
        read = _read(order)
        if "recording" not in read:
            headings = ", ".join(column["heading"] for column in read["columns"][:6])
            raise refuse("file", "a column of a known signal, as 'B1S1 sensor voltage [V]'", headings)
        found = keep.read(made)
    kept = {one["place"] for one in read["chosen"]}
    unknown = tuple(column["heading"] for column in read["columns"] if column["place"] not in kept)
    return Recording(found.traces, found.rows, unknown)


def _read(order: dict[str, Any]) -> dict[str, Any]:
    """What the process has read. Raises RefusedInput."""
    try:
        done = subprocess.run(
            [sys.executable, "-m", "dianoia.signals.importer"],
            input=json.dumps(order) + "\n",
            cwd=Path(__file__).parents[2],
            capture_output=True,
            text=True,
            timeout=LONGEST_S,
            check=False,
        )
    except subprocess.TimeoutExpired as problem:
        raise refuse("file", f"a file that is read in {LONGEST_S:.0f} s", "one that takes longer") from problem
    lines = done.stdout.splitlines()
    last = json.loads(lines[-1]) if lines else {}
    if "refused" in last:
        raise RefusedInput([Finding(**item) for item in last["refused"]])
    if "read" not in last:
        raise refuse("file", "a whole recording", "a damaged one: the library that reads it crashed")
    found: dict[str, Any] = last["read"]
    return found
