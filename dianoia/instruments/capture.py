"""A process of its own that lets a simulated instrument record by a plan: ``python -m dianoia.instruments.capture``.

It reads one line of JSON: what an adapter holds (see ``adapter``), ``mended`` (components), ``plan``, ``leads`` (of a scope; none for a
scan tool) and ``path``. It writes the recording as CSV, and one line of JSON: ``recorded``, or ``refused`` with the findings.
"""

import json
import sys
from dataclasses import asdict
from pathlib import Path
from typing import Any

from dianoia.errors import RefusedInput
from dianoia.instruments.adapter import operator_of
from dianoia.instruments.plans import plan_named
from dianoia.instruments.recording import record
from dianoia.instruments.scope import Lead

#: Samples a second of the simulated scope.
SCOPE_HZ = 2000.0


def captured(order: dict[str, Any]) -> str:
    """Record as ordered; returns what was recorded in words. Raises RefusedInput."""
    operator = operator_of(order)
    for component in order.get("mended", ()):
        operator.vehicle.mend(component)
    leads = [Lead(point) for point in order["leads"]]
    path = Path(order["path"])
    made = path.with_suffix(".csv")
    told = record(operator.vehicle, plan_named(order["plan"]), made, leads, SCOPE_HZ)
    made.replace(path)
    return told


def main() -> None:
    """Carry out the order on standard input."""
    order = json.loads(sys.stdin.readline())
    try:
        said: dict[str, Any] = {"recorded": captured(order)}
    except RefusedInput as refusal:
        said = {"refused": [asdict(item) for item in refusal.findings]}
    print(json.dumps(said), flush=True)


if __name__ == "__main__":
    main()
