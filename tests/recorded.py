"""What the program says of the demo jobs, on record: a change of figures is seen in review, whoever meant it or not.

    python -m tests.recorded     writes the record anew

The figures are no proof of anything: sums by hand, the second car and the worked examples judge them.
"""

import json
from pathlib import Path
from typing import Any

from dianoia.answer.answer import answer
from dianoia.case.load import case_from_plain

_TESTS = Path(__file__).parent
RECORD = _TESTS / "recorded.json"


def jobs() -> dict[str, dict[str, Any]]:
    """The demo jobs, by name."""
    return {
        path.stem: json.loads(path.read_text(encoding="utf-8"))
        for path in sorted((_TESTS.parent / "demo" / "cases").glob("*.json"))
    }


def figures(document: dict[str, Any]) -> dict[str, Any]:
    """What is decided, believed, proven, judged and proposed."""
    verdict = answer(case_from_plain(document))
    proposed = [verdict.next, *verdict.alternatives] if verdict.next else []
    return {
        "decision": verdict.decision,
        "components": list(verdict.components),
        "found": list(verdict.found),
        "suspects": {item.fault: item.probability for item in verdict.suspects},
        "proven": {item.part: list(item.by) for item in verdict.proven},
        "unproven": list(verdict.unproven),
        "judged": [[item.result, item.low, item.high] for item in verdict.judged],
        "proposed": [[item.id, item.minutes, item.expect] for item in proposed if item],
        "warnings": sorted(item.warning for item in verdict.warnings),
        "repair": [verdict.repair.state, [[item.what, item.by, item.expect] for item in verdict.repair.proof]],
        "minutes": verdict.forecast.expected_minutes if verdict.forecast else None,
    }


if __name__ == "__main__":
    lines = [f' "{name}": {json.dumps(figures(document), ensure_ascii=False)}' for name, document in jobs().items()]
    RECORD.write_text("{\n" + ",\n".join(lines) + "\n}\n", encoding="utf-8")
