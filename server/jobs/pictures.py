"""Pictures that come in: opened with care, set upright, and rid of all that they carry besides themselves (where, when, with what)."""

import warnings
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from io import BytesIO
from typing import Literal

from PIL import Image, ImageOps

from dianoia.errors import RefusedInput, refuse
from server.limits import PICTURE_BYTES
from server.work.memory import give_back

# what it says of damaged files is said to who sent them
warnings.filterwarnings("ignore", module="PIL")
#: The only kinds that are opened: the library would hand others, such as PostScript, to other programs.
KINDS = ("JPEG", "PNG", "WEBP")
#: Pixels that a picture may have; its header says how many, before anything of it is decoded.
MOST_PIXELS = 30_000_000
#: One picture at a time, always in the same thread: each holds up to 120 MB while it is decoded, and what one thread frees the C library
#: does not give to the others.
_decoder = ThreadPoolExecutor(1, "pictures")


def kept_picture(
    data: bytes, field: str, longest: tuple[int, int], kind: Literal["JPEG", "PNG"], **how: object
) -> bytes:
    """A picture as a file that may be kept: upright, no larger than ``longest`` pixels, with nothing but its picture.

    field: what it is for; how: what the encoder is told. Raises RefusedInput for what is no picture, is damaged, or is too large.
    """
    if len(data) > PICTURE_BYTES:
        raise refuse(field, f"at most {PICTURE_BYTES // 1_000_000} MB", f"{len(data) / 1e6:.0f} MB")
    return _decoder.submit(_kept, data, field, longest, kind, how).result()


def _kept(
    data: bytes, field: str, longest: tuple[int, int], kind: Literal["JPEG", "PNG"], how: dict[str, object]
) -> bytes:
    made = BytesIO()
    try:
        _decoded(data, field, "RGB" if kind == "JPEG" else "RGBA", longest).save(made, kind, optimize=True, **how)
    except RefusedInput:
        raise
    except Exception as problem:  # damaged files make the library raise nearly anything
        raise refuse(field, "a whole picture: JPEG, PNG or WebP", "something else") from problem
    finally:
        give_back()
    return made.getvalue()


def _decoded(data: bytes, field: str, mode: str, longest: tuple[int, int]) -> Image.Image:
    with Image.open(BytesIO(data), formats=KINDS) as picture:
        width, height = picture.size
        if width * height > MOST_PIXELS:
            raise refuse(field, f"at most {MOST_PIXELS // 1_000_000} million pixels", f"{width} x {height}")
        side = max(longest)
        picture.draft("RGB", (side, side))  # a large JPEG is decoded at a half, a quarter or an eighth
        found = picture.convert(mode)
    found.thumbnail((side, side))
    found = _turned(found)
    found.thumbnail(longest)
    return Image.frombytes(mode, found.size, found.tobytes())


def _turned(picture: Image.Image) -> Image.Image:
    """The picture as the camera was held; as it is, where what the camera wrote is damaged."""
    with suppress(Exception):
        return ImageOps.exif_transpose(picture)
    return picture
