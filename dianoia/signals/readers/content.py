"""What kind of file it is, told by its content and never by its name."""

from pathlib import Path
from typing import Literal

from dianoia.errors import refuse
from dianoia.signals.readers.source import MOST_BYTES

Content = Literal["text", "mdf", "parquet"]
#: First bytes of what packs other files: a small one may unpack to any size.
_PACKED = {
    b"\x1f\x8b": "gzip", b"PK\x03\x04": "zip", b"BZh": "bzip2", b"\xfd7zXZ\x00": "xz", b"(\xb5/\xfd": "zstd",
    b"7z\xbc\xaf\x27\x1c": "7-zip", b"\x04\x22M\x18": "lz4", b"Rar!": "rar", b"x\x9c": "zlib", b"x\xda": "zlib", b"x\x01": "zlib",
    b"\xff\x06\x00\x00sNaPpY": "snappy",
}  # fmt: skip
#: Bytes read to tell the content and the layout.
HEAD = 262_144


def content_of(path: Path) -> tuple[Content, bytes]:
    """The kind of a file, and its first bytes. Raises RefusedInput for what cannot be read: empty, too large, packed, no log."""
    try:
        size = path.stat().st_size
        with path.open("rb") as file:
            head = file.read(HEAD)
    except OSError as problem:
        raise refuse("file", "a file that can be read", f"{path.name} ({problem.__class__.__name__})") from problem
    if size == 0:
        raise refuse("file", "a recording", "an empty file")
    if size > MOST_BYTES:
        raise refuse("file", f"at most {MOST_BYTES // 1_000_000} MB", f"{size / 1e6:,.0f} MB")
    for start, name in _PACKED.items():
        if head.startswith(start):
            raise refuse("file", "a file that is not packed: unpack it first", f"a {name} file")
    if head.startswith(b"MDF ") or head.startswith(b"UnFinMF"):
        return "mdf", head
    if head.startswith(b"PAR1"):
        return "parquet", head
    if not head.startswith((b"\xff\xfe", b"\xfe\xff")) and b"\x00" in head:
        at = head.index(b"\x00")
        raise refuse("file", "text (CSV), MDF 4 or a recording of Dianoia", f"a byte 0 at byte {at + 1}: no text")
    return "text", head
