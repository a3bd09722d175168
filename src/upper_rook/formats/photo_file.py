"""
Photos: what a camera wrote, made small, upright and without anything but the picture.

Called in a child process alone, since a small file can stand for a huge picture.
"""

import io
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

from PIL import Image, ImageOps

from upper_rook.core.common.errors import BadInput
from upper_rook.core.run.readings.photos import LONGEST_SIDE, SMALL_SIDE

LARGEST_PHOTO = 40_000_000
"""Bytes of a file that is sent."""
LARGEST_KEPT = 4_000_000
"""Bytes of one that is kept."""
MOST_PIXELS = 120_000_000
_KINDS = ("JPEG", "PNG", "WEBP")
_QUALITY, _SMALL_QUALITY = 85, 78
_USE_JPEG = "This isn’t a photo that can be read: send a JPEG, PNG or WebP file."
_TOO_LARGE = "This photo has more than 120 million pixels: take a smaller one."
Image.MAX_IMAGE_PIXELS = MOST_PIXELS
_DAMAGED = (OSError, ValueError, SyntaxError, EOFError, IndexError, KeyError, TypeError, ZeroDivisionError)
"""Errors that Pillow's readers raise for files that aren't whole."""


class PhotoFiles(NamedTuple):
    """The two files that are kept of a photo."""

    full: bytes
    small: bytes
    width: int
    """Pixels of the full one."""
    height: int


def cleaned(file: Path) -> PhotoFiles:
    """
    A photo as it is kept: JPEG, at most 2048 pixels a side, nothing of the camera's, place or time in it.

    Raises BadInput for what isn't a photo, is damaged, or has more than 120 million pixels.
    """
    try:
        with _opened(file, _KINDS) as sent:
            # A JPEG is read at half or a quarter of its size where that is enough: in a third of the time.
            sent.draft("RGB", (LONGEST_SIDE, LONGEST_SIDE))
            picture = _on_white(ImageOps.exif_transpose(sent))
    except BadInput:
        raise
    except _DAMAGED:
        raise BadInput(_USE_JPEG) from None
    picture.thumbnail((LONGEST_SIDE, LONGEST_SIDE), Image.Resampling.LANCZOS, reducing_gap=2.0)
    small = picture.copy()
    small.thumbnail((SMALL_SIDE, SMALL_SIDE), Image.Resampling.LANCZOS)
    return PhotoFiles(_jpeg(picture, _QUALITY), _jpeg(small, _SMALL_QUALITY), picture.width, picture.height)


def check_kept(data: bytes, longest: int, size: tuple[int, int] | None = None) -> None:
    """
    Raises BadInput where a file isn't one that `cleaned` could have made: another format, larger, with a camera's data.

    `size` is its width and height, where they are known.
    """
    try:
        with _opened(io.BytesIO(data), ("JPEG",)) as kept:
            fits = max(kept.size) <= longest and size in {None, kept.size}
            ours = fits and not kept.getexif() and not kept.info.get("comment")
            if ours:
                kept.load()
    except _DAMAGED:
        raise BadInput("A photo in this file can’t be read.") from None
    if not ours:
        raise BadInput("A photo in this file isn’t one that was kept by Upper Rook.")


@contextmanager
def _opened(file: Path | io.BytesIO, kinds: tuple[str, ...]) -> Iterator[Image.Image]:
    """A file's picture, not read yet. Raises BadInput for a huge one, one of _DAMAGED for no picture."""
    try:
        picture = Image.open(file, formats=kinds)
    except Image.DecompressionBombError:
        raise BadInput(_TOO_LARGE) from None
    with picture:
        if picture.width * picture.height > MOST_PIXELS:
            raise BadInput(_TOO_LARGE)
        yield picture


def _on_white(picture: Image.Image) -> Image.Image:
    """Its colours alone: what can be seen through becomes white."""
    if picture.mode in {"RGBA", "LA", "PA"} or "transparency" in picture.info:
        coloured = picture.convert("RGBA")
        white = Image.new("RGBA", coloured.size, "white")
        return Image.alpha_composite(white, coloured).convert("RGB")
    return picture.convert("RGB")


def _jpeg(picture: Image.Image, quality: int) -> bytes:
    """Encoded anew from its pixels, so that nothing else comes along."""
    bare = Image.new("RGB", picture.size)
    bare.paste(picture)
    file = io.BytesIO()
    bare.save(file, "JPEG", quality=quality, optimize=True)
    return file.getvalue()
