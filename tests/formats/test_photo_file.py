"""Photos made small, upright and without what the camera wrote; hostile files refused within memory and time."""

import io
import struct
import zlib
from pathlib import Path

import pytest
from PIL import Image

from tests.shot import photo
from upper_rook.core.common.errors import BadInput
from upper_rook.desk.photo_cleaning import PhotoCleaner
from upper_rook.formats.photo_file import check_kept, cleaned

# EXIF 2.32, tag 0x0112, eight orientations, from memory: the corner that the first stored pixel belongs to.
CORNERS = {
    1: ("top", "left"),
    2: ("top", "right"),
    3: ("bottom", "right"),
    4: ("bottom", "left"),
    5: ("top", "left"),
    6: ("top", "right"),
    7: ("bottom", "right"),
    8: ("bottom", "left"),
}


def written(tmp_path: Path, data: bytes) -> Path:
    file = tmp_path / "sent"
    file.write_bytes(data)
    return file


@pytest.mark.parametrize("orientation", CORNERS)
def test_a_photo_is_turned_upright_and_nothing_but_the_picture_is_kept(tmp_path: Path, orientation: int) -> None:
    files = cleaned(written(tmp_path, photo(2600, 1300, orientation)))
    wide = orientation < 5
    assert (files.width, files.height) == ((2048, 1024) if wide else (1024, 2048))
    for data, longest in ((files.full, 2048), (files.small, 640)):
        with Image.open(io.BytesIO(data)) as kept:
            assert (kept.format, max(kept.size), dict(kept.getexif())) == ("JPEG", longest, {})
            assert b"somebody" not in data.lower()
            assert not kept.info.get("comment")
            up, side = CORNERS[orientation]
            x = kept.width // 4 if side == "left" else kept.width * 3 // 4
            y = kept.height // 4 if up == "top" else kept.height * 3 // 4
            red, _, blue = kept.getpixel((x, y))
            assert red > 150 > blue
            red, _, blue = kept.getpixel((kept.width - x, kept.height - y))
            assert blue > 150 > red
        check_kept(data, longest)


def test_other_kinds_are_read_and_what_shows_through_becomes_white(tmp_path: Path) -> None:
    file = io.BytesIO()
    Image.new("RGBA", (300, 200), (0, 0, 0, 0)).save(file, "PNG")
    files = cleaned(written(tmp_path, file.getvalue()))
    with Image.open(io.BytesIO(files.full)) as kept:
        assert (kept.size, kept.getpixel((150, 100))) == ((300, 200), (255, 255, 255))
    assert cleaned(written(tmp_path, photo(kind="WEBP"))).width == 1200


def a_bomb(side: int, rows: int) -> bytes:
    """A small PNG that says side × side pixels and holds so many rows (PNG specification, IHDR and IDAT, memory)."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    packed = zlib.compressobj(9)
    pixels = b"".join(packed.compress(b"\x00" * (side + 1)) for _ in range(rows)) + packed.flush()
    head = struct.pack(">IIBBBBB", side, side, 8, 0, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", pixels) + chunk(b"IEND", b"")


def test_files_that_are_no_photos_are_refused_in_a_sentence_and_the_next_is_read(tmp_path: Path) -> None:
    cleaner = PhotoCleaner()
    try:
        whole = photo()
        for data, word in (
            (a_bomb(12_000, 12_000), "120 million"),
            (a_bomb(30_000, 1), "120 million"),
            (b"", "JPEG"),
            (b"GIF89a" + bytes(50), "JPEG"),
            (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "JPEG"),
            (whole[: len(whole) // 2], "JPEG"),
            (whole[:300] + bytes(2000), "JPEG"),
        ):
            with pytest.raises(BadInput, match=word):
                cleaner.cleaned(written(tmp_path, data))
        assert cleaner.cleaned(written(tmp_path, whole)).width == 1200
    finally:
        cleaner.close()


def test_only_what_was_kept_passes_as_kept(tmp_path: Path) -> None:
    files = cleaned(written(tmp_path, photo()))
    check_kept(files.full, 2048, (files.width, files.height))
    for data, longest in ((photo(), 2048), (files.full, 640), (files.full[:900], 2048), (b"<svg/>", 2048)):
        with pytest.raises(BadInput, match=r"photo in this file"):
            check_kept(data, longest)
