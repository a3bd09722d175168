"""Photos as cameras write them, made here: a scene with its place, its time and its way up in the file."""

import io

from PIL import Image, ImageDraw

ORIENTATION, MAKER, GPS = 0x0112, 0x010F, 0x8825


def photo(width: int = 1200, height: int = 900, orientation: int = 1, kind: str = "JPEG") -> bytes:
    """A photo whose top left quarter is red and whose rest is blue, as stored; its EXIF data has a place."""
    picture = Image.new("RGB", (width, height), "#1030c0")
    ImageDraw.Draw(picture).rectangle((0, 0, width // 2 - 1, height // 2 - 1), fill="#d01010")
    exif = Image.Exif()
    exif[ORIENTATION], exif[MAKER] = orientation, "Somebody"
    exif[GPS] = {1: "N", 2: (54.0, 11.0, 2.5), 3: "E", 4: (7.0, 53.0, 1.0)}
    file = io.BytesIO()
    picture.save(file, kind, exif=exif, comment=b"taken by somebody") if kind == "JPEG" else picture.save(file, kind)
    return file.getvalue()
