"""An address as a code that a camera reads."""

import segno
from pydantic import BaseModel


class CodeAt(BaseModel):
    """A page under one of the server's addresses, and its code."""

    url: str
    code: str
    """A picture, as a data URI (SVG)."""


def codes(addresses: tuple[str, ...], end: str = "") -> list[CodeAt]:
    """The same page under each address; black on white whatever the theme, as cameras expect it."""
    return [CodeAt(url=at + end, code=_drawn(at + end)) for at in addresses]


def _drawn(address: str) -> str:
    return segno.make(address, error="m", micro=False).svg_data_uri(scale=6, border=4, dark="#000", light="#fff")
