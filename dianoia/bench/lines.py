"""Worked field jobs in a file, a line of JSON each, so that a run that was stopped goes on where it was."""

import json
import os
import sys
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Generic, Protocol, TypeVar

from pydantic import TypeAdapter, ValidationError

from dianoia.bench.kept import engine
from dianoia.errors import refuse


class NumberedOutcome(Protocol):
    """What came of a job."""

    @property
    def number(self) -> int:
        """The job's number."""


Item = TypeVar("Item", bound=NumberedOutcome)


def worked_through(
    kind: type[Item], work: Callable[[tuple[int, int]], Item], jobs: int, seed: int, path: Path | None
) -> list[Item]:
    """What comes of field jobs 0 to ``jobs`` of a seed, in order; progress goes to standard error.

    work: takes seed and number, in a process of its own. path: see ``JobLines``; jobs that are there are not worked again.
    Raises RefusedInput as ``JobLines`` does.
    """
    lines = JobLines(kind, path, seed)
    found = {item.number: item for item in lines.read()}
    wanted = [number for number in range(jobs) if number not in found]
    with ProcessPoolExecutor(max_workers=os.cpu_count()) as pool:
        for item in pool.map(work, [(seed, number) for number in wanted], chunksize=2):
            found[item.number] = item
            lines.add(item)
            print(f"\rfield jobs: {len(found)} of {jobs} ", end="", file=sys.stderr, flush=True)
    print(file=sys.stderr)
    return [found[number] for number in range(jobs)]


class JobLines(Generic[Item]):
    """One kind of item (``kind``, a dataclass with ``number``) of one engine and one seed.

    path: None keeps nothing. Raises RefusedInput where the file cannot be read and written, or is of another engine, seed or kind.
    """

    def __init__(self, kind: type[Item], path: Path | None, seed: int) -> None:
        self._adapter: TypeAdapter[Item] = TypeAdapter(kind)
        self._path, self._seed = path, seed

    def read(self) -> list[Item]:
        """The items that are there."""
        path = self._path
        if path is None:
            return []
        try:
            path.open("ab").close()
            lines = path.read_text(encoding="utf-8").splitlines()
        except OSError as problem:
            raise refuse(
                "--out", "a file that can be read and written", f"{path} ({type(problem).__name__})"
            ) from problem
        return [self._item(text, f"line {number} of {path}") for number, text in enumerate(lines, start=1)]

    def _item(self, text: str, where: str) -> Item:
        try:
            line = json.loads(text)
            item = self._adapter.validate_python(line["outcome"])
        except (ValueError, KeyError, ValidationError) as problem:
            raise refuse("--out", "a file that this benchmark wrote", where) from problem
        if (line["engine"], line["seed"]) != (engine(), self._seed):
            raise refuse("--out", "jobs of this engine and seed", f"{where} is of others")
        return item

    def add(self, item: Item) -> None:
        """Write an item behind those that are there."""
        if self._path is None:
            return
        line = {"engine": engine(), "seed": self._seed, "outcome": self._adapter.dump_python(item, mode="json")}
        with self._path.open("a", encoding="utf-8") as file:
            file.write(json.dumps(line) + "\n")
