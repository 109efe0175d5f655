"""Figures of the code base, so that one can see where it grows: lines, functions, names with several meanings, tests.

python scripts/count.py
"""

import ast
import re
import subprocess
from collections import Counter, defaultdict
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
LONG_FUNCTION = 40
#: Written by a machine.
GENERATED = re.compile(r"\.gen\.|/migrations/|package-lock|\.schema\.json|openapi\.json")
#: The second car keeps names of its own, and every command is called so.
OTHERS_NAMES = ("simulated", "management")


def files(*suffixes: str) -> list[Path]:
    """Hand-written files of the repository."""
    names = subprocess.check_output(["git", "ls-files"], cwd=ROOT, text=True).split()
    return [ROOT / name for name in names if name.endswith(suffixes) and not GENERATED.search(name)]


def lines(path: Path) -> int:
    """Lines that are not empty."""
    return sum(bool(line.strip()) for line in path.read_text(encoding="utf-8").splitlines())


def is_test(path: Path) -> bool:
    """Whether a file is of the tests."""
    parts = path.relative_to(ROOT).parts
    return parts[0] == "tests" or parts[:2] == ("web", "tests") or ".test." in path.name


def functions(path: Path) -> Iterator[int]:
    """The lengths of a module's functions, in lines."""
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, (ast.FunctionDef, ast.AsyncFunctionDef)):
            yield (node.end_lineno or node.lineno) - node.lineno + 1


def components(path: Path) -> Iterator[int]:
    """The lengths of a front-end module's functions with a name, in lines: to the brace at the same depth."""
    text = path.read_text(encoding="utf-8").splitlines()
    for start, line in enumerate(text):
        head = re.match(r"(\s*)(export )?(async )?(function \w+|const \w+ = .*=> \{$)", line)
        if head:
            end = next((at for at in range(start, len(text)) if text[at].startswith(f"{head[1]}}}")), start)
            yield end - start + 1


def classes_twice() -> dict[str, list[str]]:
    """Class names that two modules of core and server give, without the second car's."""
    found = defaultdict(list)
    for path in files(".py"):
        if (
            is_test(path)
            or path.relative_to(ROOT).parts[0] == "scripts"
            or any(part in path.parts for part in OTHERS_NAMES)
        ):
            continue
        for node in ast.parse(path.read_text(encoding="utf-8")).body:
            if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                found[node.name].append(str(path.relative_to(ROOT)))
    return {name: places for name, places in found.items() if len(places) > 1}


def p95(values: list[int]) -> int:
    """The 95th of a hundred."""
    return sorted(values)[int(0.95 * len(values))] if values else 0


def main() -> None:
    """Print all."""
    code = files(".py", ".ts", ".tsx", ".css", ".typ")
    total, tests = sum(map(lines, code)), sum(lines(path) for path in code if is_test(path))
    print(f"hand-written code: {total} lines, {tests} of them tests ({100 * tests / total:.0f} %)")
    by_room: Counter[str] = Counter()
    for path in code:
        by_room["tests" if is_test(path) else path.relative_to(ROOT).parts[0]] += lines(path)
    print(", ".join(f"{room} {count}" for room, count in by_room.most_common()))
    for kind, longest in (("server", 250), ("dianoia", 400), ("web", 300)):
        over = [
            (lines(path), path.name)
            for path in code
            if path.relative_to(ROOT).parts[0] == kind and not is_test(path) and lines(path) > longest
        ]
        print(f"{kind}: files over {longest} lines: {sorted(over, reverse=True) or 'none'}")
    python = [size for path in files(".py") if not is_test(path) for size in functions(path)]
    screens = [size for path in files(".ts", ".tsx") if not is_test(path) for size in components(path)]
    for kind, sizes in (("Python", python), ("front end", screens)):
        print(
            f"{kind}: {len(sizes)} functions, 95 of 100 up to {p95(sizes)} lines, over {LONG_FUNCTION}: {sum(size > LONG_FUNCTION for size in sizes)}"
        )
    print(f"class names with several meanings: {classes_twice() or 'none'}")
    text = {path: path.read_text(encoding="utf-8") for path in code}
    print("fmt: skip:", sum(item.count("fmt: skip") for item in text.values()), end="; ")
    wide = sum(
        len(line) > 120
        for path, item in text.items()
        if path.suffix == ".py" and not is_test(path)
        for line in item.splitlines()
    )
    print(f"Python lines over 120 (tests apart): {wide}")


if __name__ == "__main__":
    main()
