"""Worked jobs kept in a file, a line each, so that a benchmark that was stopped goes on where it was."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from hashlib import sha256
from pathlib import Path

from pydantic import TypeAdapter, ValidationError

from dianoia.bench.work import WorkedJob
from dianoia.errors import refuse

_CORE = Path(__file__).parents[1]
#: What has no part in how a job goes.
_APART = (
    "bound.py",
    "figures.py",
    "field.py",
    "isolate.py",
    "kept.py",
    "lines.py",
    "optimum.py",
    "speed.py",
    "cli.py",
    "__main__.py",
)


@dataclass(frozen=True)
class BenchRun:
    """Which simulated jobs are worked and how."""

    jobs: int
    seed: int
    style: str | None
    """None by the planner, else in that style's fixed order."""


@dataclass(frozen=True)
class _Line:
    engine: str
    run: BenchRun
    index: int
    outcome: WorkedJob


_AS_LINE = TypeAdapter(_Line)


class KeptOutcomes:
    """The outcomes in a file; none are kept without one.

    Raises RefusedInput where the file cannot be read and written, is not of this benchmark, or was written with another
    engine.
    """

    def __init__(self, path: Path | None) -> None:
        self._path = path
        try:
            self._lines = _read(path) if path else []
        except OSError as problem:
            raise refuse(
                "--keep", "a file that can be read and written", f"{path} ({problem.__class__.__name__})"
            ) from problem

    def of(self, run: BenchRun) -> dict[int, WorkedJob]:
        """Index of the job -> its outcome."""
        return {line.index: line.outcome for line in self._lines if line.run == run}

    def add(self, run: BenchRun, outcomes: Mapping[int, WorkedJob]) -> None:
        """Write outcomes behind those that are there."""
        if self._path is None:
            return
        with self._path.open("ab") as file:
            for index, outcome in outcomes.items():
                file.write(_AS_LINE.dump_json(_Line(engine(), run, index, outcome)) + b"\n")


def _read(path: Path) -> list[_Line]:
    lines = []
    path.open("ab").close()  # made where it is not there; said now and not after the first hour where it cannot be
    for number, text in enumerate(path.read_bytes().splitlines(keepends=True), start=1):
        if not text.endswith(b"\n"):
            raise refuse("--keep", "whole lines; delete the last one, which was cut off", f"line {number} of {path}")
        try:
            line = _AS_LINE.validate_json(text)
        except ValidationError as problem:
            raise refuse("--keep", "a file that the benchmark wrote", f"line {number} of {path}") from problem
        if line.engine != engine():
            raise refuse("--keep", "jobs worked by this version of the engine", f"another one's in {path}")
        lines.append(line)
    return lines


@cache
def engine() -> str:
    """A name for this version of the engine and its data: jobs come out alike where it is the same."""
    said = sha256()
    for path in sorted(_CORE.rglob("*")):
        if path.suffix in (".py", ".json", ".csv") and path.name not in _APART:
            said.update(path.relative_to(_CORE).as_posix().encode() + b"\0" + path.read_bytes() + b"\0")
    return said.hexdigest()[:16]
