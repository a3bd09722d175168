"""Arrows, circles and words on a photo as SVG: a dark line on a light one, so that they are seen on anything."""

from collections.abc import Iterable
from html import escape
from math import atan2, cos, hypot, pi, sin

from upper_rook.core.run.readings.photos import Drawn, DrawnKind

_WIDE = 1000.0
"""Width of the drawing in its own units; its height follows the photo."""
_LINE, _EDGE, _HEAD, _TEXT = 7.0, 13.0, 34.0, 40.0
_DARK, _LIGHT = "#111", "#fff"


def photo_marks_svg(marks: Iterable[Drawn], width: int, height: int) -> str:
    """Marks on a photo of so many pixels, as an SVG to be laid over it; empty without marks."""
    tall = _WIDE * height / width
    shapes = "".join(_shape(mark, tall) for mark in marks)
    if not shapes:
        return ""
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {_WIDE:g} {tall:.1f}" aria-hidden="true">{shapes}</svg>'
    )


def _shape(mark: Drawn, tall: float) -> str:
    x, y, x2, y2 = mark.x * _WIDE, mark.y * tall, mark.x2 * _WIDE, mark.y2 * tall
    if mark.kind is DrawnKind.CIRCLE:
        shape = f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{hypot(x2 - x, y2 - y):.1f}" fill="none"{{}}/>'
        return _twice(shape)
    if mark.kind is DrawnKind.ARROW:
        return _twice(f'<path d="{_arrow(x, y, x2, y2)}" fill="none" stroke-linecap="round"{{}}/>')
    text = escape(mark.text)
    place = (
        f'x="{x:.1f}" y="{y + _TEXT / 3:.1f}" font-size="{_TEXT:g}" font-weight="700" font-family="Sheet, sans-serif"'
    )
    return (
        f'<text {place} fill="{_LIGHT}" stroke="{_LIGHT}" stroke-width="8" stroke-linejoin="round">{text}</text>'
        f'<text {place} fill="{_DARK}">{text}</text>'
    )


def _twice(shape: str) -> str:
    return "".join(
        shape.format(f' stroke="{colour}" stroke-width="{width:g}"')
        for colour, width in ((_LIGHT, _EDGE), (_DARK, _LINE))
    )


def _arrow(x: float, y: float, x2: float, y2: float) -> str:
    """A line with two short ones at its head, 25 degrees from it."""
    back = atan2(y - y2, x - x2)
    barbs = ((x2 + _HEAD * cos(back + turn), y2 + _HEAD * sin(back + turn)) for turn in (-25 * pi / 180, 25 * pi / 180))
    (left_x, left_y), (right_x, right_y) = barbs
    return f"M{x:.1f} {y:.1f}L{x2:.1f} {y2:.1f}M{left_x:.1f} {left_y:.1f}L{x2:.1f} {y2:.1f}L{right_x:.1f} {right_y:.1f}"
