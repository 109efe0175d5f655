"""Reads one file into a kept recording, in a process of its own with limits of memory and time.

One order as a line of JSON comes in; lines of JSON go out: how far it is, then what was read or why it was refused. A file that
makes a library crash ends this process and nothing else.
"""

import json
import resource
import sys
from dataclasses import asdict
from pathlib import Path
from typing import Any

#: Bytes of memory and seconds of processor time that a file may take.
MOST_MEMORY, MOST_SECONDS = 3_000_000_000, 120


def main() -> None:
    """Carry out the order on standard input."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_SECONDS, MOST_SECONDS))
    # while the order is still on its way, what it needs is loaded
    from dianoia.errors import Finding, RefusedInput
    from dianoia.signals import keep, measure, view  # noqa: F401
    from dianoia.signals.readers import text  # noqa: F401

    order = json.loads(sys.stdin.readline())
    try:
        _tell({"read": _read(order)})
    except RefusedInput as refusal:
        _tell({"refused": [asdict(finding) for finding in refusal.findings]})
    except MemoryError:
        _refuse(Finding("file", "a file that can be read in 3 GB of memory", "a larger one"))
    except BaseException as problem:  # what a library raises of a damaged file may be no Exception at all
        if isinstance(problem, KeyboardInterrupt | SystemExit):
            raise
        _refuse(Finding("file", "a whole recording", f"a damaged one ({type(problem).__name__})"))


def _refuse(finding: Any) -> None:
    _tell({"refused": [asdict(finding)]})


def _tell(said: dict[str, Any]) -> None:
    sys.stdout.write(json.dumps(said, allow_nan=False) + "\n")
    sys.stdout.flush()


def _read(order: dict[str, Any]) -> dict[str, Any]:
    """What an order's file holds; its recording is written to ``order["out"]``.

    An order has ``path``, ``out``, ``chosen`` (columns as corrected; None to propose them), ``remembered`` (of the same source
    before) and ``sensor`` (the job's own, where a heading names none).
    """
    from dianoia.signals import keep
    from dianoia.signals.load import recording_of
    from dianoia.signals.measure import measure
    from dianoia.signals.propose import check_chosen, chosen_of, proposed_with, source_key
    from dianoia.signals.readers.open_source import open_source
    from dianoia.signals.view import case_columns, samples_view

    _tell({"doing": "reading"})
    source = open_source(Path(order["path"]))
    key = source_key(source.columns)
    chosen = (
        chosen_of(order["chosen"])
        if order.get("chosen") is not None
        else proposed_with(source.columns, order.get("remembered", {}).get(key), order.get("sensor"))
    )
    columns = [asdict(column) for column in source.columns]
    found: dict[str, Any] = {"columns": columns, "chosen": [asdict(one) for one in chosen], "source": key}
    _tell({"doing": "reading", "columns": columns, "chosen": found["chosen"]})
    if not chosen:
        return found
    check_chosen(chosen, source.columns)
    recording = recording_of(source, chosen)
    _tell({"doing": "measuring"})
    measured = measure(recording)
    _tell({"doing": "keeping"})
    digest = keep.write(recording, Path(order["out"]))
    return {
        **found,
        "recording": digest,
        "rows": recording.rows,
        "from_s": recording.from_s,
        "to_s": recording.to_s,
        "kept": [asdict(column) for column in case_columns(measured)],
        "view": asdict(samples_view(measured)),
    }


if __name__ == "__main__":
    main()
