"""The hash that names a recording's samples."""

from hashlib import sha256
from pathlib import Path


def hash_of(path: Path) -> str:
    """The hash of a file, as ``sha256:...``."""
    digest = sha256()
    with path.open("rb") as file:
        while block := file.read(1 << 20):
            digest.update(block)
    return f"sha256:{digest.hexdigest()}"
