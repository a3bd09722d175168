"""
How a table of numbers is written: its delimiter, decimal mark, columns, units, and the lines above them.

Worked out from the first lines of the file alone, so that the rest can be read as a stream.
"""

import codecs
import itertools
import math
import re
from collections import Counter
from dataclasses import dataclass

from upper_rook.core.common.errors import BadInput

_DELIMITERS = (",", ";", "\t", "|", " ")
_TAIL = 60
"""Lines at the end of the head by which the columns are judged; preambles are above them."""


@dataclass(frozen=True)
class Dialect:
    """Head of a table."""

    delimiter: str
    decimal: str
    fields: int
    """Columns of a line, empty ones included."""
    columns: tuple[int, ...]
    """Those that hold numbers."""
    first_line: int
    """Lines above the numbers."""
    headings: tuple[tuple[str, ...], ...]
    """For each number column the texts above it, nearest last."""
    preamble: tuple[tuple[str, ...], ...]
    """The lines above the numbers, in cells."""


def decode(head: bytes) -> tuple[str, str]:
    """
    (text, encoding) of a file's first bytes.

    Raises:
        BadInput: when it isn't text.
    """
    if head.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        return head[: len(head) // 2 * 2].decode("utf-16", errors="replace"), "utf-16"
    control = sum(byte < 32 and byte not in (9, 10, 11, 12, 13) for byte in head)
    if b"\0" in head or control > len(head) // 50:
        raise BadInput("This is not text: a scope’s CSV export or a WAV file is expected.")
    try:
        # A character may be cut off at the end.
        return codecs.getincrementaldecoder("utf-8-sig")().decode(head), "utf-8"
    except UnicodeDecodeError:
        return head.decode("cp1252", errors="replace"), "cp1252"


def recognise(text: str, *, whole: bool) -> Dialect:
    """
    The dialect of a table that begins with `text`; `whole` when that is all of it.

    Raises:
        BadInput: when no table of numbers is found.
    """
    lines = text.splitlines()
    if not whole and lines:
        lines.pop()
    while lines and not lines[-1].strip(" \t,;|"):
        lines.pop()
    if not lines:
        raise BadInput("The file is empty: a table of times and volts is expected.")
    found = [tried for tried in (_try(lines, *pair) for pair in _pairs()) if tried]
    if not found:
        raise BadInput("No table of numbers is found: lines of a time and volts are expected, as a scope exports them.")
    best = max(found, key=lambda row: row[:2])[2]
    rival = next(
        (row[2] for row in found if row[2].decimal == "," and len(row[2].columns) * 2 == len(best.columns)), None
    )
    if rival and best.delimiter == "," and _is_split_decimals(lines[best.first_line :], len(best.columns)):
        return rival
    return best


def split(line: str, delimiter: str) -> list[str]:
    """The cells of a line, without quotes and blanks around them; runs of blanks are one delimiter."""
    cells = line.split() if delimiter == " " else line.split(delimiter)
    return [cell.strip().strip('"').strip() for cell in cells]


def number(text: str, decimal: str = ".") -> float | None:
    """A plain or exponential number, or None; one beyond all bounds is none."""
    value = float(text.replace(decimal, ".")) if _pattern(decimal).fullmatch(text) else None
    return value if value is not None and math.isfinite(value) else None


def _pairs() -> list[tuple[str, str]]:
    return [(delimiter, decimal) for delimiter in _DELIMITERS for decimal in (".", ",") if delimiter != decimal]


_PATTERNS = {
    decimal: re.compile(rf"[+-]?([0-9]+({re.escape(decimal)}[0-9]*)?|{re.escape(decimal)}[0-9]+)([eE][+-]?[0-9]+)?")
    for decimal in (".", ",")
}


def _pattern(decimal: str) -> re.Pattern[str]:
    return _PATTERNS[decimal]


def _try(lines: list[str], delimiter: str, decimal: str) -> tuple[float, int, Dialect] | None:
    """(share of cells that are numbers, columns, dialect) when read in this way."""
    tail = [split(line, delimiter) for line in lines[-_TAIL:] if line.strip()]
    if not tail:
        return None
    fields = Counter(len(row) for row in tail).most_common(1)[0][0]
    rows = [row for row in tail if len(row) == fields]
    # The lower half has no preamble, unless the file has hardly more than that.
    low = rows[len(rows) // 2 :]
    is_number = _pattern(decimal).fullmatch
    columns = tuple(
        place for place in range(fields) if sum(bool(is_number(row[place])) for row in low) > 0.6 * len(low)
    )
    if not columns:
        return None
    filled = [cell for row in low for cell in row if cell]
    share = sum(bool(is_number(cell)) for cell in filled) / len(filled)
    first = _first_line(lines, delimiter, decimal, fields, columns)
    if first is None:
        return None
    above = tuple(tuple(split(line, _delimiter_in(line, delimiter))) for line in lines[:first])
    return (
        round(share, 2),
        len(columns),
        Dialect(delimiter, decimal, fields, columns, first, _headings(above, columns), above),
    )


def _delimiter_in(line: str, usual: str) -> str:
    """A preamble may be written otherwise than the numbers, of which there may be one in a line."""
    return (
        usual
        if usual in line
        else next((delimiter for delimiter in _DELIMITERS if delimiter != " " and delimiter in line), usual)
    )


def _headings(above: tuple[tuple[str, ...], ...], columns: tuple[int, ...]) -> tuple[tuple[str, ...], ...]:
    """For each number column the texts right above it; a line with a number there is no heading."""
    rows = [
        row
        for row in above[-3:]
        if len(row) >= len(columns) and not any(number(row[place]) is not None for place in columns if place < len(row))
    ]
    return tuple(tuple(row[place] for row in rows if place < len(row) and row[place]) for place in columns)


def _first_line(lines: list[str], delimiter: str, decimal: str, fields: int, columns: tuple[int, ...]) -> int | None:
    """The first line whose columns are all numbers, as are those of the next line that isn't blank."""
    is_number = _pattern(decimal).fullmatch
    before = False
    candidate = None
    for place, line in enumerate(lines):
        if not line.strip():
            continue
        row = split(line, delimiter)
        good = len(row) == fields and all(is_number(row[column]) for column in columns)
        if good and before:
            return candidate
        candidate, before = place, good
    return candidate if before else None


def _is_split_decimals(lines: list[str], columns: int) -> bool:
    """
    Whether whole numbers between commas are decimals cut in two.

    A first column of whole numbers that doesn't count on evenly is no index and no time.
    """
    rows = [split(line, ",") for line in lines[:200] if line.strip()]
    if any(not cell.lstrip("+-").isdigit() for row in rows for cell in row[:columns]):
        return False
    first = [int(row[0]) for row in rows]
    steps = {after - before for before, after in itertools.pairwise(first)}
    return len(steps) != 1 or steps == {0}
