"""Volume steps as text: a CSV file, or what was typed or pasted from a spreadsheet."""

import re

from pydantic import ValidationError

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import parse_quantity
from upper_rook.core.judge.volume_steps_report import MOST_VOLUME_READINGS, VolumeReading
from upper_rook.formats import dialect

LARGEST_BYTES = 200_000
_EXPECTED = "two columns, volume and volts, are expected, for example: 24;1.85"
_NAMES = {
    "volume": re.compile(r"\W*(vol(ume)?(?!t)|number|no|step|setting|click)", re.IGNORECASE),
    "average": re.compile(r".*average|.*second", re.IGNORECASE),
    "voltage": re.compile(r".*(volt|rms|reading)|\W*v\b", re.IGNORECASE),
}


def read_volume_steps(data: bytes) -> list[VolumeReading]:
    """
    The readings in `data`: volume, volts and, where there is one, a second average-responding meter's volts.

    A column of an average-responding meter alone counts by its own law.

    Raises:
        BadInput: with one sentence that names the line.
    """
    if len(data) > LARGEST_BYTES:
        raise BadInput(f"{len(data):,} bytes are too many for volume steps: {_EXPECTED}.")
    text, _ = dialect.decode(data)
    lines = [(place, line) for place, line in enumerate(text.splitlines(), 1) if line.strip(" \t,;|")]
    if not lines:
        raise BadInput(f"There is nothing in it: {_EXPECTED}.")
    rows = [(place, _cells(line)) for place, line in lines]
    columns = _columns(rows[0][1])
    if columns:
        rows = rows[1:]
    volume_readings = [
        _volume_reading(place, cells, columns or ("volume", "voltage", "average")) for place, cells in rows
    ]
    if not volume_readings:
        raise BadInput(f"There is a heading and nothing below it: {_EXPECTED}.")
    return volume_readings


def looks_like_volume_steps(text: str, *, whole: bool) -> bool:
    """Whether a text begins with a heading of volume steps, or is all of a short one without."""
    lines = [line for line in text.splitlines() if line.strip(" \t,;|")]
    if not lines:
        return False
    if _columns(_cells(lines[0])) is not None:
        return True
    if not whole or len(lines) > MOST_VOLUME_READINGS:
        return False
    rows = [_cells(line) for line in lines]
    # Whole numbers of a volume scale beside something else; a capture's times begin near nothing.
    return all(2 <= len(row) <= 5 and row[0].isdigit() and 1 <= int(row[0]) <= 200 for row in rows)


def _cells(line: str) -> list[str]:
    """By tab, semicolon or bar; else by commas, unless the only one is a decimal one; else by blanks."""
    for delimiter in ("\t", ";", "|"):
        if delimiter in line:
            return dialect.split(line, delimiter)
    if "," in line and not re.fullmatch(r"\s*[0-9.]+\s+[0-9]+,[0-9]+\s*[a-zA-Zµ]*\s*", line):
        return dialect.split(line, ",")
    # A unit stays with its number.
    return [cell for cell in re.split(r"\s+(?!(?:[mkµu]?[vV])\b)", line.strip()) if cell]


def _columns(cells: list[str]) -> tuple[str, ...] | None:
    """Meaning of each column, from a heading; None when these are numbers."""
    if all(re.match(r"[\s\"]*[+-]?[0-9.,]", cell) for cell in cells if cell):
        return None
    named = []
    for cell in cells:
        kind = next((kind for kind, pattern in _NAMES.items() if pattern.match(cell)), "")
        # A second column of volts is the second meter's.
        named.append("average" if kind == "voltage" and "voltage" in named else kind)
    if "average" in named and "voltage" not in named:
        named[named.index("average")] = "averaging"
    if "volume" not in named or not {"voltage", "averaging"} & set(named):
        raise BadInput(f"The first line is “{' '.join(cells)[:40]}”: {_EXPECTED}.")
    return tuple(named)


def _volume_reading(place: int, cells: list[str], columns: tuple[str, ...]) -> VolumeReading:
    cells = _rejoined(cells, columns)
    values = {name: cell for name, cell in zip(columns, cells, strict=False) if name and cell}
    volts = values.get("voltage") or values.get("averaging")
    if "volume" not in values or volts is None:
        raise BadInput(f"Line {place} has no pair of volume and volts: {_EXPECTED}.")
    try:
        return VolumeReading(
            volume=_volume(values["volume"]),
            voltage_v=_volts(volts),
            averaging="averaging" in values,
            average_v=_volts(values["average"]) if "average" in values else None,
        )
    except BadInput as error:
        raise BadInput(f"Line {place}: {error.sentence}") from None
    except ValidationError:
        raise BadInput(f"Line {place}: a volume from 0 to 500 and volts above zero: {_EXPECTED}.") from None


def _rejoined(cells: list[str], columns: tuple[str, ...]) -> list[str]:
    """Decimals that a comma cut in two, 24,1,85: whole numbers in three cells where two are meant, or in five."""
    wanted = 2 if "average" not in columns or len(cells) == 3 else 3
    if len(cells) == 2 * wanted - 1 and all(cell.isdigit() for cell in cells):
        return [cells[0], *(f"{cells[number]},{cells[number + 1]}" for number in range(1, len(cells), 2))]
    return cells


def _volts(text: str) -> float:
    value = dialect.number(text.replace(",", "."))
    return parse_quantity(text, "volts") if value is None else value


def _volume(text: str) -> float:
    value = dialect.number(text.replace(",", "."))
    if value is None:
        raise BadInput(f"“{text[:24]}” isn’t a volume number.")
    return value
