"""Who wrote an entry, and when: a type that knows no database."""

from dataclasses import dataclass


@dataclass(frozen=True)
class EntryOrigin:
    """Who wrote a line of the ledger and when, by the server's clock; struck_by and struck_at likewise."""

    by: str
    at: str
    imported: bool = False
    """Whether it came with a case file."""
    clock: str = ""
    """What is noted of the instrument's own time, empty where it agrees."""
    later: bool = False
    """Whether it was written after it was taken: it waited, or came with a file."""
    struck_by: str = ""
    struck_at: str = ""
