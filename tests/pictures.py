"""Pictures that do harm, for tests and scripts."""

import struct
import zlib
from collections.abc import Iterator
from io import BytesIO
from random import Random

from PIL import Image

KINDS = ("JPEG", "PNG", "WEBP")
#: A page for a printer, of the kind that an image library hands to another program.
POSTSCRIPT = b"%!PS-Adobe-3.0 EPSF-3.0\n%%BoundingBox: 0 0 9 9\n%%EndComments\n{} loop\nshowpage\n%%EOF\n\n"


def picture(kind: str = "JPEG", size: tuple[int, int] = (80, 60), exif: bytes = b"") -> bytes:
    made = BytesIO()
    Image.linear_gradient("L").resize(size).convert("RGB").save(made, kind, **({"exif": exif} if exif else {}))
    return made.getvalue()


def huge_png(width: int = 30_001, height: int = 1_000) -> bytes:
    """A few kilobytes that say they are many pixels, all of one colour."""
    header = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    rows = zlib.compress(b"\0" * (height * (width * 3 + 1)), 9)
    chunks = (b"IHDR" + header, b"IDAT" + rows, b"IEND")
    return b"\x89PNG\r\n\x1a\n" + b"".join(
        struct.pack(">I", len(chunk) - 4) + chunk + struct.pack(">I", zlib.crc32(chunk)) for chunk in chunks
    )


def damaged(number: int, seed: int = 1) -> Iterator[bytes]:
    """Pictures with bytes changed, cut off, doubled or taken out, each kind in turn."""
    random = Random(seed)
    exif = Image.Exif()
    exif[0x0112] = 6
    whole = [picture(kind, exif=exif.tobytes()) for kind in KINDS]
    for count in range(number):
        data = bytearray(whole[count % len(whole)])
        for _ in range(random.choice((1, 3, 30))):
            data[random.randrange(len(data))] = random.randrange(256)
        at = random.randrange(len(data))
        yield bytes(random.choice((data, data[:at], data[:at] + data[at // 2 :], data[:at] + data[at + 9 :])))
