"""Counts the words of our sentences: documents, docstrings and comments, and what screens and papers say.

    python scripts/sentences.py            one line a place: sentences, average, longest, those over 35 words
    python scripts/sentences.py --long     each sentence over 35 words, with its place

A sentence ends with a full stop, a question or exclamation mark, or with its paragraph. A colon, a semicolon or a row of a table ends
none. Code in backticks is one word.
"""

import argparse
import ast
import json
import re
import subprocess
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
LONGEST = 35
#: Abbreviations whose stop ends nothing.
_ABBREVIATED = re.compile(r"\b(e\.g|i\.e|no|vs|approx|etc)\.", re.IGNORECASE)
_END = re.compile(r"(?<=[.!?])[\"')*]*\s+(?=[A-Z\"'(`\d*])")
_WORD = re.compile(r"[\w'’°%²/.,-]*\w[\w'’°%²]*")


@dataclass(frozen=True)
class Sentence:
    """One sentence."""

    where: str
    """File, or file and line."""
    text: str

    @property
    def words(self) -> int:
        """How many words it has."""
        return len(_WORD.findall(re.sub(r"`+[^`]*`+", "code", self.text)))


def sentences(text: str, where: str) -> Iterator[Sentence]:
    """The sentences of plain text, paragraph by paragraph."""
    for paragraph in re.split(r"\n\s*\n", text):
        plain = _ABBREVIATED.sub(r"\1", " ".join(paragraph.split()))
        for part in _END.split(plain):
            found = Sentence(where, part.strip())
            if found.words > 1:
                yield found


def of_markdown(path: Path) -> Iterator[Sentence]:
    """A document's; code, tables and headings left out."""
    text = re.sub(r"```.*?```", "", path.read_text(encoding="utf-8"), flags=re.DOTALL)
    lines = [
        "" if re.match(r"\s*(\||#|    |!\[|<)", line) else re.sub(r"^\s*([-*]|\d+\.) ", "\n", line)
        for line in text.split("\n")
    ]
    yield from sentences(re.sub(r"\[([^\]]*)\]\([^)]*\)", r"\1", "\n".join(lines)), str(path.relative_to(ROOT)))


def of_python(path: Path) -> Iterator[Sentence]:
    """Docstrings and comments of a module."""
    text = path.read_text(encoding="utf-8")
    name = str(path.relative_to(ROOT))
    for node in ast.walk(ast.parse(text)):
        if isinstance(node, (ast.Module, ast.ClassDef, ast.FunctionDef)) and (said := ast.get_docstring(node)):
            said = re.sub(r"(?m)^ {4}.*$", "", re.split(r"\n\s*>>>", said)[0])
            yield from sentences(re.sub(r"(?m)^- ", "\n", said), f"{name}:{getattr(node, 'lineno', 1)}")
    block: list[str] = []
    for number, line in enumerate([*text.split("\n"), ""], start=1):
        comment = re.match(r"\s*#:? ?(.*)", line)
        if comment:
            block.append(comment.group(1))
        elif block:
            yield from sentences(" ".join(block), f"{name}:{number}")
            block = []


def of_tables(path: Path) -> Iterator[Sentence]:
    """What a data file says."""

    def texts(value: object) -> Iterator[str]:
        if isinstance(value, str):
            yield value
        elif isinstance(value, dict):
            for item in value.values():
                yield from texts(item)
        elif isinstance(value, list):
            for item in value:
                yield from texts(item)

    for text in texts(json.loads(path.read_text(encoding="utf-8"))):
        if " " in text:
            yield from sentences(text, str(path.relative_to(ROOT)))


def of_screens(path: Path) -> Iterator[Sentence]:
    """Text between tags, and in quotes, of a part of the front end."""
    text = re.sub(r"/\*.*?\*/", "", path.read_text(encoding="utf-8"), flags=re.DOTALL)
    text = re.sub(r"(?m)^import .*$|(?<!:)//.*$", "", text)
    for match in re.finditer(r">([^<>{}]+)<|'([^'\n]{20,})'|\"([^\"\n]{20,})\"", text):
        yield from sentences(next(group for group in match.groups() if group), str(path.relative_to(ROOT)))


def places() -> dict[str, list[Sentence]]:
    """Kind of place -> its sentences."""
    files = [Path(name) for name in subprocess.check_output(["git", "ls-files"], cwd=ROOT, text=True).split()]
    found: dict[str, list[Sentence]] = {}
    for file in files:
        path = ROOT / file
        if file.suffix == ".md":
            found.setdefault("documents", []).extend(of_markdown(path))
        elif (
            file.suffix == ".py"
            and file.parts[0] in ("dianoia", "server", "scripts")
            and "migrations" not in file.parts
        ):
            found.setdefault(f"code of {file.parts[0]}", []).extend(of_python(path))
        elif file.suffix == ".py" and file.parts[0] == "tests":
            found.setdefault("code of tests", []).extend(of_python(path))
        elif file.suffix == ".json" and file.parts[0] == "dianoia":
            found.setdefault("tables", []).extend(of_tables(path))
        elif file.suffix == ".tsx" and ".test." not in file.name:
            found.setdefault("screens", []).extend(of_screens(path))
    return found


def main() -> None:
    """Print the counts, or the long ones."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--long", action="store_true")
    options = parser.parse_args()
    for kind, found in sorted(places().items()):
        counts = [item.words for item in found]
        over = [item for item in found if item.words > LONGEST]
        if options.long:
            for item in over:
                print(f"{item.where} [{item.words}] {item.text}")
        else:
            print(
                f"{kind}: {len(found)} sentences, average {sum(counts) / len(counts):.1f} words, longest {max(counts)}, over {LONGEST}: {len(over)}"
            )


if __name__ == "__main__":
    main()
