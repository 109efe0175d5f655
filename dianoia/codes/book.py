"""The code book: every listed code, found by code, word, bank, position or circuit."""

from dataclasses import dataclass

from dianoia.codes.decode import decode
from dianoia.codes.tables import codes
from dianoia.codes.types import CodeText, Decoded


@dataclass(frozen=True, kw_only=True)
class Search:
    """What to look for; None looks for anything."""

    words: str = ""
    """All must stand in the code or its title."""
    bank: int | None = None
    position: int | None = None
    circuit: str | None = None
    kind: str | None = None


def search(wanted: Search) -> list[Decoded]:
    """The listed codes that fit, in the order of their numbers."""
    words = wanted.words.lower().replace("o2", "oxygen").split()
    found = []
    for row in codes().values():
        text = f"{row.code} {row.title} {row.circuit} {row.failure}".lower()
        fits = (
            all(word in text for word in words)
            and wanted.bank in (None, int(row.bank or 0))
            and wanted.position in (None, int(row.position or 0))
            and wanted.circuit in (None, row.circuit)
            and wanted.kind in (None, row.kind)
        )
        if fits:
            found.append(decode(CodeText(code=row.code)))
    return found
