"""Pictures that come in: opened with care, set upright, and rid of all that they carry besides themselves (where, when, with what)."""

from io import BytesIO

from PIL import Image, ImageOps, UnidentifiedImageError

from dianoia.errors import refuse

#: How many bytes a picture may have when it comes.
MOST_BYTES = 20_000_000


def upright(data: bytes, field: str, mode: str, longest: tuple[int, int]) -> Image.Image:
    """A picture, upright, no larger than ``longest`` pixels. field: what it is for; mode: ``RGB`` or ``RGBA``. Raises RefusedInput for
    what is none, or too large.
    """
    if len(data) > MOST_BYTES:
        raise refuse(field, f"at most {MOST_BYTES // 1_000_000} MB", f"{len(data) / 1e6:.0f} MB")
    try:
        with Image.open(BytesIO(data)) as picture:
            found = ImageOps.exif_transpose(picture).convert(mode)
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError) as problem:
        raise refuse(field, "a picture: JPEG, PNG or WebP", "something else") from problem
    found.thumbnail(longest)
    return Image.frombytes(mode, found.size, found.tobytes())


def written(picture: Image.Image, kind: str, **how: object) -> bytes:
    """A picture as a file. kind: ``JPEG`` or ``PNG``."""
    made = BytesIO()
    picture.save(made, kind, optimize=True, **how)
    return made.getvalue()
