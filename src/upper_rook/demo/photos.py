"""The demo's photos: an amplifier's panel and a loom of wires, drawn."""

from collections.abc import Callable
from io import BytesIO
from math import cos, radians, sin

from PIL import Image, ImageDraw, ImageFilter, ImageFont

_SIZE = (1600, 1000)
_PANEL, _EDGE, _PRINT = "#3b4148", "#20242a", "#dfe3e6"
_WIRES = ("#c9a227", "#5b7f95", "#8b5a3c", "#6d7f4f", "#b9b4a8", "#4a4a52")

Shot = Callable[[ImageDraw.ImageDraw], None]


def jpeg(shot: Shot) -> bytes:
    """A drawn photo, a little blurred as from a hand that held the light too."""
    picture = Image.new("RGB", _SIZE, "#6b645b")
    shot(ImageDraw.Draw(picture))
    file = BytesIO()
    picture.filter(ImageFilter.GaussianBlur(1.2)).save(file, "JPEG", quality=88)
    return file.getvalue()


def panel(draw: ImageDraw.ImageDraw) -> None:
    """Four knobs with scales from 0 to 40."""
    draw.rounded_rectangle((90, 150, 1510, 850), 30, fill=_PANEL, outline=_EDGE, width=8)
    for x in (140, 1460):
        for y in (200, 800):
            draw.ellipse((x - 18, y - 18, x + 18, y + 18), fill="#8d9298", outline=_EDGE, width=4)
    for x, text, number in ((330, "INPUT 1", 21), (650, "INPUT 2", 24), (970, "BASS", 0), (1290, "LOW-PASS", 33)):
        _knob(draw, x, 500, number)
        _print(draw, x, 700, text, 44)


def loom(draw: ImageDraw.ImageDraw) -> None:
    """Speaker wires into a row of terminals."""
    draw.rounded_rectangle((200, 560, 1400, 820), 20, fill=_PANEL, outline=_EDGE, width=8)
    for place, colour in enumerate(_WIRES):
        x = 300 + 200 * place
        points = [(x + 60 * sin(y / 130 + place), y) for y in range(0, 620, 20)]
        draw.line(points, fill=_EDGE, width=44, joint="curve")
        draw.line(points, fill=colour, width=34, joint="curve")
        draw.ellipse((points[-1][0] - 42, 600, points[-1][0] + 42, 684), fill="#a8adb3", outline=_EDGE, width=6)
        _print(draw, points[-1][0], 760, f"{place // 2 + 1}{'+' if place % 2 == 0 else '-'}", 52)


def _knob(draw: ImageDraw.ImageDraw, x: int, y: int, number: int) -> None:
    for mark in range(0, 41, 5):
        angle = radians(135 + mark * 270 / 40)
        inner, outer = ((x + r * cos(angle), y + r * sin(angle)) for r in (108, 126))
        draw.line((*inner, *outer), fill=_PRINT, width=5)
        if mark % 10 == 0:
            _print(draw, x + 146 * cos(angle), y + 146 * sin(angle), str(mark), 28)
    draw.ellipse((x - 92, y - 92, x + 92, y + 92), fill="#17191d", outline="#55595f", width=6)
    angle = radians(135 + number * 270 / 40)
    draw.line((x, y, x + 84 * cos(angle), y + 84 * sin(angle)), fill=_PRINT, width=10)


def _print(draw: ImageDraw.ImageDraw, x: float, y: float, text: str, size: int) -> None:
    draw.text((x, y), text, fill=_PRINT, font=ImageFont.load_default(size), anchor="mm")
