"""Entries of the ledger chained by hash: what each one is hashed over, and how a chain is checked.

Entry n holds h(n) = SHA-256(h(n-1) + newline + r(n)); r(n) is the entry's record, the canonical JSON of all that was written down.
A changed byte, a removed or an exchanged row breaks the chain from there on. A chain cannot show that its end was cut off, nor
that all of it was made anew by someone who has the whole database. For that the newest hash has to be kept elsewhere, as on
the printed sheet.
"""

import json
from hashlib import sha256
from typing import Any

#: What the first entry is chained to.
START = sha256(b"dianoia-ledger/1").hexdigest()


def canonical(value: Any) -> str:
    """A JSON document in one form: keys in order, no spaces, characters as they are."""
    return json.dumps(value, ensure_ascii=False, sort_keys=True, separators=(",", ":"), allow_nan=False)


def record(number: int, job: int, place: int, kind: str, by: str, at: str, body: str) -> str:
    """What an entry is hashed over. body: canonical JSON already; by: the name as it was then; at: the server's time."""
    return canonical([number, job, place, kind, by, at, body])


def link(before: str, text: str) -> str:
    """The hash of a record that follows the entry with the hash ``before``."""
    return sha256(f"{before}\n{text}".encode()).hexdigest()


def commitment(salt: str, value: Any) -> str:
    """Stands for personal data in the chain: it shows that the data is what was entered, and says nothing once the salt is gone."""
    return sha256(f"{salt}\n{canonical(value)}".encode()).hexdigest()
