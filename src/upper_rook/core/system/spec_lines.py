"""
Lines of a data sheet's text, in one way of writing, and the figures in them.

Nothing is guessed: a line whose figures can be read in two ways is given back with the reason. The ways of writing are
common practice of data sheets, no source.
"""

import re
from collections.abc import Iterator

from pydantic import BaseModel, ValidationError

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.refusals import refusals
from upper_rook.core.common.units import Frozen, parse_quantity

LONGEST_TEXT = 20_000
NUMBER = r"[0-9]+(?:[.,][0-9]+)*"
WATTS = re.compile(rf"({NUMBER}\s?k?)\s?w(?:atts?)?(?:\s?\(?rms\)?)?(?![a-z/])")
OHMS = re.compile(rf"({NUMBER})\s?(?:-\s?)?ohms?\b")
DECIBELS = re.compile(rf"({NUMBER})\s?db")
PEAK = re.compile(r"\b(?:max(?:imum|\.)?|peak|pmpo|music|burst|dynamic)\b")
_WATTS_RANGE = re.compile(rf"{NUMBER}\s?(?:w(?:atts?)?)?\s?(?:-|to)\s?{NUMBER}\s?k?\s?w")
_BRACKETS = re.compile(r"\([^)]*\)")
_SEPARATORS = re.compile(r"[;|\t]|(?<![0-9]),|,(?![0-9])|\s/\s|\s{3,}")
_NEXT_WATTS = re.compile(rf"(?<=ohm)\)?\s+(?=(?:[0-9]+\s?x\s?)?{NUMBER}\s?k?\s?w)")
"""Where a second rating follows the ohms of the first without a mark between them."""
_SIGNS = (("ωΩω", " ohm "), ("×✕*", "x"), ("–—−~", "-"), ("\u00a0\u202f", " "), ("≤≥<>±", ""))


class Unread(Frozen):
    """A line that was left, and why."""

    line: str
    reason: str


class Left(Exception):
    """A line can't be used; the sentence says why."""


def lines(text: str) -> Iterator[tuple[str, str]]:
    """Each line as it is, and with one way of writing. Raises BadInput for more than 20,000 characters."""
    if len(text) > LONGEST_TEXT:
        raise BadInput("This text has more than 20,000 characters: paste the part with the figures.", "text")
    for line in text.splitlines():
        plain = line.strip().lower()
        for signs, sign in _SIGNS:
            plain = re.sub(f"[{signs}]", sign, plain)
        yield line.strip()[:200], re.sub(r"(?<=[0-9]) +ohm", " ohm", plain)


def parts(plain: str) -> list[str]:
    """A line's parts between commas, bars, slashes and wide spaces; what is in brackets stays with what it follows."""
    inside = _BRACKETS.sub(lambda match: _SEPARATORS.sub(" ", match[0]), plain)
    return [piece for part in _SEPARATORS.split(inside) if part.strip() for piece in _NEXT_WATTS.split(part)]


def without_brackets(plain: str) -> str:
    """A line without what stands in brackets."""
    return _BRACKETS.sub("", plain)


def has_digits(plain: str) -> bool:
    """Whether there is a figure of any kind in it."""
    return bool(re.search("[0-9]", plain))


def number(text: str, kind: str) -> float:
    """A figure in the base unit of its kind. Raises BadInput where it can be read in two ways, or is out of bounds."""
    return parse_quantity(text.strip(), kind)


def only(pattern: re.Pattern[str], plain: str, kind: str) -> float:
    """The only figure of its kind in a line. Raises Left for several that differ, or none."""
    values = {number(found, kind) for found in pattern.findall(plain)}
    if len(values) != 1:
        several = "It has several figures of this kind: type the one that counts into its field."
        raise Left(several if values else "Its figure can’t be read.")
    return values.pop()


def refuse_watts_range(plain: str) -> None:
    """Raises Left for "20-120 W": a recommendation, no rating."""
    if _WATTS_RANGE.search(plain):
        raise Left("Watts from one figure to another are a recommendation: the continuous watts (RMS) are wanted.")


def keep(spec: type[BaseModel], new: dict[str, object], found: dict[str, object]) -> None:
    """
    Adds `new` figures of a line to those that were `found` before, checked by the fields of `spec`.

    Raises Left where one doesn't fit, or an earlier line gives another.
    """
    try:
        spec.model_validate(new)
    except ValidationError as error:
        first, *_ = refusals(error.errors(include_url=False))
        raise Left(f"Its figure can’t be taken: {first.sentence}.") from None
    if any(found.get(name, value) != value for name, value in new.items()):
        raise Left("An earlier line gives another figure: type the one that counts into its field.")
    found |= new
