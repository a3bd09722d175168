"""Impedance curves as text: a table of hertz and ohms, as measuring programs export them."""

from pydantic import ValidationError

from upper_rook.core.common.errors import BadInput
from upper_rook.core.system.loads import ImpedancePoint
from upper_rook.formats import dialect

LARGEST_BYTES = 1_000_000
MOST_POINTS = 2000
"""Of more than these only some are kept, the lowest among them."""
_EXPECTED = "two columns, hertz and ohms, are expected, for example: 40;5.8"


def read_impedance(data: bytes) -> tuple[ImpedancePoint, ...]:
    """
    The curve in `data`, from the lowest frequency up; further columns, such as a phase, are passed over.

    Raises:
        BadInput: with one sentence that names the line.
    """
    if len(data) > LARGEST_BYTES:
        raise BadInput(f"{len(data):,} bytes are too many for an impedance curve: {_EXPECTED}.")
    text, _ = dialect.decode(data)
    found = dialect.recognise(text, whole=True)
    if len(found.columns) < 2:
        raise BadInput(f"There is one column of numbers: {_EXPECTED}.")
    points: dict[float, ImpedancePoint] = {}
    for place, line in enumerate(text.splitlines()[found.first_line :], found.first_line + 1):
        if line.strip(" \t,;|"):
            point = _point(place, dialect.split(line, found.delimiter), found)
            points.setdefault(point.frequency_hz, point)
    return _thinned([points[hertz] for hertz in sorted(points)])


def _point(place: int, cells: list[str], found: dialect.Dialect) -> ImpedancePoint:
    values = [
        dialect.number(cells[column], found.decimal) if column < len(cells) else None for column in found.columns[:2]
    ]
    hertz, ohm = values
    if hertz is None or ohm is None:
        raise BadInput(f"Line {place} has no pair of hertz and ohms: {_EXPECTED}.")
    try:
        return ImpedancePoint(frequency_hz=hertz, ohm=ohm)
    except ValidationError:
        raise BadInput(f"Line {place}: {hertz:g} Hz and {ohm:g} Ω are no point of an impedance curve.") from None


def _thinned(points: list[ImpedancePoint]) -> tuple[ImpedancePoint, ...]:
    if len(points) <= MOST_POINTS:
        return tuple(points)
    step = -(-len(points) // (MOST_POINTS - 1))
    lowest = min(points, key=lambda point: point.ohm)
    return tuple(point for number, point in enumerate(points) if number % step == 0 or point is lowest)
