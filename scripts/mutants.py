"""Deliberate mistakes, made mechanically one at a time, and whether the tests of their place notice each.

    .venv/bin/python scripts/mutants.py                     60 mistakes, drawn by the first digits of the last commit
    .venv/bin/python scripts/mutants.py --seed 1 --count 60

A mistake is a doubled constant, a turned comparison or sign, an ``and`` for an ``or``, a doubled or halved number of a table, a
word of a table exchanged for another of its column. A mistake of the core meets the fast tests of the core, one of the server those of
its room and then all of the server's, one of the front end its own tests. Prints one line for each, and the survivors again at the end.
"""

import argparse
import ast
import json
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import Queue
from typing import Any

ROOT = Path(__file__).parents[1]
#: Where a mistake makes a wrong figure or a wrong decision. Not: speed, drawing, sentences, the benchmark.
ROOMS = ("quantities", "codes", "families", "case", "vehicle", "circuit", "readings", "diagnosis/faults", "diagnosis/inference",
         "diagnosis/decision", "diagnosis/planning", "repair")  # fmt: skip
TABLES = ("families/data/families.json", "circuit/data/assumptions.json", "case/data/lamps.json", "codes/data/senses.json",
          "diagnosis/faults/data/faults.json", "diagnosis/faults/data/observations.json", "diagnosis/decision/data/gates.json",
          "repair/data/proof.json")  # fmt: skip
#: Room of the server -> its own tests.
SERVER = {
    "ledger": ("chain", "ledger", "keeping"),
    "jobs": ("api", "handed_over", "writes", "listing"),
    "people": ("people", "doors", "permissions"),
    "work": ("ahead", "workers"),
}
#: Features of the front end whose mistakes are made.
WEB = ("api", "bench", "people", "repair", "shared", "start", "workshop")
#: In a line of the front end -> the mistake.
IN_TYPESCRIPT = {"===": "!==", "!==": "===", " && ": " || ", " || ": " && ", " ?? ": " && ", " <= ": " > ", " >= ": " < ",
                 " + ": " - ", " - ": " + ", "true": "false", "false": "true"}  # fmt: skip
#: Files of text, drawing or bookkeeping only; and lines that only bound what is kept or typed.
LEFT_OUT = {
    "words.py",
    "describe.py",
    "spoken.py",
    "plan.py",
    "store.py",
    "times.py",
    "sums.py",
    "changes.py",
    "load.py",
}
BOOKKEEPING = re.compile(
    r"maxsize|_KEPT|KEPT|_LONGEST|_LARGEST|MOST_|Field\(|_LEDGERS|_PORTION|assert |raise |require\(|#: "
)
#: Columns of free text, which no figure follows from; and of how often something happens, which no test can know: the field
#: benchmark judges it.
TEXT = (
    "reason",
    "says",
    "mend",
    "label",
    "schema",
    "id",
    "saw",
    "makes",
    "not_said",
    "driver",
    "emissions",
    "generic_source",
)
OPINIONS = {"weight", "by_code", "latch", "times", "chance", "usual", "other_loop", "no_fault_weight", "pair_factor", "coincidence",
            "named_factor", "drive", "weights"}  # fmt: skip
COMPARE = {ast.Lt: ">=", ast.LtE: ">", ast.Gt: "<=", ast.GtE: "<", ast.Eq: "!=", ast.NotEq: "=="}
SIGN = {ast.Add: "-", ast.Sub: "+", ast.Mult: "/", ast.Div: "*"}
SYMBOL = {ast.Lt: "<", ast.LtE: "<=", ast.Gt: ">", ast.GtE: ">=", ast.Eq: "==", ast.NotEq: "!=", ast.Add: "+", ast.Sub: "-",
          ast.Mult: "*", ast.Div: "/"}  # fmt: skip


@dataclass(frozen=True)
class Mistake:
    """file: below the root; line: from 1; before, after: the line or the table's field with the mistake and without."""

    file: str
    line: int
    before: str
    after: str
    text: str

    def __str__(self) -> str:
        return f"{self.file}:{self.line}: {self.before.strip()[:90]}  ->  {self.after.strip()[:90]}"


def in_code(path: Path) -> Iterator[Mistake]:
    """Every mistake that can be made in a module."""
    text = path.read_text(encoding="utf-8")
    lines = text.splitlines(keepends=True)
    for node in ast.walk(ast.parse(text)):
        for start, end, new in _changes(node, lines):
            line = start[0]
            if (
                start[0] != end[0]
                or BOOKKEEPING.search(lines[line - 1])
                or lines[line - 1].startswith(("from ", "import "))
            ):
                continue
            old = lines[line - 1]
            changed = old.encode()[: start[1]].decode() + new + old.encode()[end[1] :].decode()
            yield Mistake(
                str(path.relative_to(ROOT)), line, old, changed, "".join([*lines[: line - 1], changed, *lines[line:]])
            )


def _changes(node: ast.AST, lines: list[str]) -> Iterator[tuple[tuple[int, int], tuple[int, int], str]]:
    """Start, end and the new text of each change of a node."""
    if isinstance(node, ast.Constant) and type(node.value) in (int, float) and node.end_col_offset is not None:
        value: int | float = node.value  # type: ignore[assignment]
        yield (
            (node.lineno, node.col_offset),
            (node.end_lineno or 0, node.end_col_offset),
            repr(value * 2 if value else 1),
        )
    elif isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in COMPARE:
        yield from _between(
            node.left, node.comparators[0], SYMBOL[type(node.ops[0])], COMPARE[type(node.ops[0])], lines
        )
    elif isinstance(node, ast.BinOp) and type(node.op) in SIGN:
        yield from _between(node.left, node.right, SYMBOL[type(node.op)], SIGN[type(node.op)], lines)
    elif isinstance(node, ast.BoolOp):
        one, other = ("and", "or") if isinstance(node.op, ast.And) else ("or", "and")
        yield from _between(node.values[0], node.values[1], one, other, lines)


def _between(
    left: ast.expr, right: ast.expr, old: str, new: str, lines: list[str]
) -> Iterator[tuple[tuple[int, int], tuple[int, int], str]]:
    line = left.end_lineno or 0
    if line != right.lineno:
        return
    row, first, last = lines[line - 1].encode(), left.end_col_offset or 0, right.col_offset
    at = row.find(old.encode(), first, last)
    if at >= 0:
        yield (line, at), (line, at + len(old)), new


def in_typescript(path: Path) -> Iterator[Mistake]:
    """Every mistake that can be made in a module of the front end; types, imports and words are left alone."""
    lines = path.read_text(encoding="utf-8").splitlines(keepends=True)
    for number, line in enumerate(lines, start=1):
        if re.match(r"\s*(import|export \{|type|interface|//|/?\*|[\w?]+: ['\w]+( \||$))", line):
            continue
        plain = re.sub(r"'[^']*'|`[^`]*`|>[^<>{}]*<", lambda match: " " * len(match.group()), line)
        for old, new in IN_TYPESCRIPT.items():
            for match in re.finditer(rf"\b{old}\b" if old.isalpha() else re.escape(old), plain):
                changed = line[: match.start()] + new + line[match.end() :]
                text = "".join([*lines[: number - 1], changed, *lines[number:]])
                yield Mistake(str(path.relative_to(ROOT)), number, line, changed, text)


def in_table(path: Path) -> Iterator[Mistake]:
    """Every mistake that can be made in a table of JSON."""
    document = json.loads(path.read_text(encoding="utf-8"))
    words = _columns(document)
    for steps, value in _leaves(document):
        name = next((step for step in reversed(steps) if isinstance(step, str)), "")
        if (
            isinstance(value, bool)
            or value == 0
            or name in TEXT
            or name.endswith("_reason")
            or not OPINIONS.isdisjoint(steps)
        ):
            continue
        if isinstance(value, int | float):
            new: Any = value * 2 if value > 0.5 or value == 0 else value / 2 if value > 0.25 else value * 2
        else:
            others = sorted(words[name] - {value})
            if not others or len(words[name]) > 40:
                continue
            new = others[len(others) // 2]
        changed = json.loads(json.dumps(document))
        _put(changed, steps, new)
        where = ".".join(map(str, steps))
        yield Mistake(
            str(path.relative_to(ROOT)), 0, f"{where} = {value}", f"{new}", json.dumps(changed, ensure_ascii=False)
        )


def _leaves(item: Any, steps: tuple[Any, ...] = ()) -> Iterator[tuple[tuple[Any, ...], Any]]:
    if isinstance(item, dict):
        for name, value in item.items():
            yield from _leaves(value, (*steps, name))
    elif isinstance(item, list):
        for place, value in enumerate(item):
            yield from _leaves(value, (*steps, place))
    elif item is not None:
        yield steps, item


def _columns(document: Any) -> dict[str, set[str]]:
    found: dict[str, set[str]] = {}
    for steps, value in _leaves(document):
        name = next((step for step in reversed(steps) if isinstance(step, str)), "")
        if isinstance(value, str):
            found.setdefault(name, set()).add(value)
    return found


def _put(document: Any, steps: tuple[Any, ...], value: Any) -> None:
    for step in steps[:-1]:
        document = document[step]
    document[steps[-1]] = value


def all_mistakes() -> dict[str, list[Mistake]]:
    """Place -> every mistake in it, in a fixed order."""
    core, web = ROOT / "dianoia", ROOT / "web" / "src"
    modules = sorted(path for room in ROOMS for path in (core / room).glob("*.py") if path.name not in LEFT_OUT)
    rooms = sorted(path for room in SERVER for path in (ROOT / "server" / room).glob("*.py"))
    parts = sorted(
        path
        for part in WEB
        for path in (web / part).rglob("*.ts*")
        if ".test." not in path.name and ".gen." not in path.name
    )
    return {
        "core": [item for path in modules for item in in_code(path)],
        "tables": [item for name in TABLES for item in in_table(core / name)],
        "server": [item for path in rooms for item in in_code(path)],
        "web": [item for path in parts for item in in_typescript(path)],
    }


#: Of a draw.
SHARES = {"tables": 0.25, "server": 0.2, "web": 0.2}


def drawn(seed: int, count: int) -> list[Mistake]:
    """A sample: a quarter from tables, a fifth each from the server and the front end, the rest from the core."""
    pick = random.Random(seed)
    every = all_mistakes()
    counts = {place: round(share * count) for place, share in SHARES.items()}
    counts["core"] = count - sum(counts.values())
    return [item for place, number in counts.items() for item in pick.sample(every[place], number)]


#: Tests that need no whole job, tried first: most mistakes are caught within seconds.
FIRST = ("trade_facts", "tables", "codes", "quantities", "case_file", "times_by_hand", "signal_by_hand", "physics_by_hand", "circuit",
         "instruments", "signal_loop", "judge", "gates", "vehicle", "choices", "learning")  # fmt: skip


def tests_of(file: str) -> list[list[str]]:
    """The tests that a mistake in a file meets, in turn; none of Django's runner for the front end."""
    parts = Path(file).parts
    if parts[0] == "server":
        return [[f"tests.server.test_{name}" for name in SERVER[parts[1]]], ["tests.server"]]
    return [[f"tests.core.test_{name}" for name in FIRST], ["tests.core"]]


def noticed(mistake: Mistake, tree: Path) -> bool:
    """Whether the tests of its place fail with the mistake made in a copy of the project."""
    path = tree / mistake.file
    right = path.read_text(encoding="utf-8")
    path.write_text(mistake.text, encoding="utf-8")
    try:
        if mistake.file.startswith("web/"):
            return front_end_fails(tree)
        return any(fails(tree, tests) for tests in tests_of(mistake.file))
    finally:
        path.write_text(right, encoding="utf-8")


def front_end_fails(tree: Path) -> bool:
    """Whether the front end's types or its own tests fail."""
    quiet = {**os.environ, "DIANOIA_WEB_TESTS": str(tree / "var" / "web-tests")}
    commands = (["npx", "--no-install", "tsc", "--noEmit"], ["npx", "--no-install", "vitest", "run", "--bail=1"])
    try:
        return any(
            subprocess.run(command, cwd=tree / "web", env=quiet, capture_output=True, timeout=300).returncode
            for command in commands
        )
    except subprocess.TimeoutExpired:
        return True


def fails(tree: Path, tests: list[str]) -> bool:
    """Whether some of the tests fail, or do not come to an end."""
    command = [
        str(ROOT / ".venv/bin/python"),
        "manage.py",
        "test",
        *tests,
        "--noinput",
        "--exclude-tag",
        "slow",
        "--failfast",
    ]
    quiet = {**os.environ, "PYTHONDONTWRITEBYTECODE": "1", "OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1"}
    try:
        return subprocess.run(command, cwd=tree, env=quiet, capture_output=True, timeout=600).returncode != 0
    except subprocess.TimeoutExpired:
        return True


def copied(folder: str) -> Path:
    """A copy of the project to make mistakes in."""
    tree = Path(tempfile.mkdtemp(dir=folder)) / "tree"
    shutil.copytree(
        ROOT, tree, ignore=shutil.ignore_patterns(".venv", "node_modules", ".git", "var", "dist", "__pycache__")
    )
    (tree / ".venv").symlink_to(ROOT / ".venv")
    (tree / "web" / "node_modules").symlink_to(ROOT / "web" / "node_modules")
    given = [str(ROOT / ".venv/bin/python"), "-m", "tests.web.fixtures", str(tree / "var" / "web-tests")]
    subprocess.run(given, cwd=tree, check=True)
    return tree


def last_commit() -> int:
    """The first digits of the last commit, as a number."""
    return int(subprocess.check_output(["git", "rev-parse", "HEAD"], cwd=ROOT, text=True)[:7], 16)


def main() -> None:
    """Draw, make each mistake, and say which nobody noticed."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--seed", type=int, default=last_commit())
    parser.add_argument("--count", type=int, default=60)
    options = parser.parse_args()
    survivors = []
    with tempfile.TemporaryDirectory() as folder, ThreadPoolExecutor(os.cpu_count()) as pool:
        trees: Queue[Path] = Queue()
        for _ in range(os.cpu_count() or 1):
            trees.put(copied(folder))
        first = next(iter(trees.queue))
        if fails(first, ["tests.core"]) or front_end_fails(first):
            sys.exit("The tests fail without any mistake: mend that first.")

        def tried(mistake: Mistake) -> bool:
            tree = trees.get()
            try:
                return noticed(mistake, tree)
            finally:
                trees.put(tree)

        mistakes = drawn(options.seed, options.count)
        for number, (mistake, caught) in enumerate(zip(mistakes, pool.map(tried, mistakes), strict=True), start=1):
            survivors += [] if caught else [mistake]
            print(f"{number:3} {'caught  ' if caught else 'SURVIVED'} {mistake}", flush=True)
    print(f"\nseed {options.seed}: {options.count - len(survivors)} of {options.count} caught; nobody noticed:")
    for mistake in survivors:
        print(f"  {mistake}")
    sys.exit(1 if len(survivors) > options.count // 10 else 0)


if __name__ == "__main__":
    main()
