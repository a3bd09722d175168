"""The papers as HTML: one file, fonts within, nothing fetched; from the same text the PDF is drawn."""

from base64 import b64encode
from collections.abc import Mapping
from enum import StrEnum
from functools import lru_cache
from pathlib import Path
from types import MappingProxyType
from uuid import UUID

import segno
from jinja2 import Environment, FileSystemLoader, StrictUndefined

from upper_rook.core.common.moments import format_day
from upper_rook.core.common.units import format_hertz, format_signed, format_value
from upper_rook.core.handover.customer_card import CustomerCard
from upper_rook.core.handover.document import Handover
from upper_rook.formats.overview_svg import overview_svg
from upper_rook.formats.photo_marks import photo_marks_svg

_HERE = Path(__file__).parent
_PARTS = {"atkinson-latin-ext": "unicode-range: U+0100-02FF, U+1E00-1EFF;"}


class Paper(StrEnum):
    """Paper that a sheet is drawn on."""

    A4 = "A4"
    LETTER = "letter"


MOST_ON_PAPER = 24
"""Photos on a sheet: six pages of them at most."""
_NO_PHOTOS: Mapping[UUID, bytes] = MappingProxyType({})


def sheet_html(document: Handover, paper: Paper = Paper.A4, photos: Mapping[UUID, bytes] = _NO_PHOTOS) -> str:
    """The shop's sheet: everything; `photos` are JPEG files by their ids, and one without a file is only counted."""
    shown = [
        (photo, b64encode(photos[photo.id]).decode(), photo_marks_svg(photo.drawn, photo.width, photo.height))
        for photo in document.photos
        if photo.id in photos
    ]
    template = _environment().get_template("sheet.html")
    return template.render(
        document=document, paper=paper.value, fonts=font_faces(), photos=shown, overview=overview_svg(document.levels)
    )


def card_html(card: CustomerCard, paper: Paper = Paper.A4) -> str:
    """The customer's card, with a code that holds its text and points nowhere."""
    code = _code(card.text) or _code(card.short_text)
    return _environment().get_template("card.html").render(card=card, paper=paper.value, fonts=font_faces(), code=code)


def _code(text: str) -> str:
    """A code as SVG; nothing for more text than one holds (2,953 bytes: ISO/IEC 18004, from memory)."""
    try:
        made = segno.make(text, error="l", micro=False)
    except segno.DataOverflowError:
        return ""
    return str(made.svg_inline(scale=3, dark="#1b2340", omitsize=True))


@lru_cache(maxsize=1)
def _environment() -> Environment:
    made = Environment(
        loader=FileSystemLoader(_HERE / "templates"),
        autoescape=True,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    made.filters |= {
        "value": format_value,
        "signed": format_signed,
        "hertz": format_hertz,
        "day": format_day,
        "doubt": _doubt,
    }
    return made


def _doubt(doubt: float | None) -> str:
    """± with two figures, or that nothing is promised."""
    return "± ?" if doubt is None else f"± {format_value(doubt, '', 2)}"


@lru_cache(maxsize=1)
def font_faces() -> str:
    """The rules of the font *Sheet* with its files within, so that a page fetches nothing."""
    rule = (
        '@font-face {{ font-family: Sheet; font-weight: 200 800; src: url("data:font/woff2;base64,{data}") '
        'format("woff2"); {part} }}\n'
    )
    files = sorted((_HERE / "fonts").glob("*.woff2"))
    return "".join(
        rule.format(data=b64encode(file.read_bytes()).decode(), part=_PARTS.get(file.stem, "")) for file in files
    )
