"""Stated against measured, over every unit of a part."""

import statistics
from itertools import groupby

from upper_rook.core.common.units import Frozen, format_value
from upper_rook.core.parts.shop_part import FigureKind, PartFigure, ShopPart


class PartRow(Frozen):
    """One figure of a part: what it says, and what its units gave."""

    kind: FigureKind
    at: str
    unit: str
    """Symbol of the values."""
    stated: float | None
    lowest: float
    usual: float
    """Median of the units."""
    highest: float
    count: int
    """Units that it was measured of."""
    off_percent: float | None
    """How far the usual one lies above what is stated; negative for below."""
    sentence: str


def part_report(part: ShopPart) -> tuple[PartRow, ...]:
    """A row for each figure that was measured, in the order of kinds and conditions; a unit counts once."""
    latest: dict[tuple[FigureKind, str, float | None, str], PartFigure] = {}
    for unit in part.units:
        for figure in unit.figures:
            latest[figure.kind, figure.at, figure.stated, unit.id] = figure

    def condition(figure: PartFigure) -> tuple[int, str, float]:
        return list(FigureKind).index(figure.kind), figure.at, figure.stated or 0.0

    figures = sorted(latest.values(), key=condition)
    return tuple(_row(list(same)) for _, same in groupby(figures, key=condition))


def _row(figures: list[PartFigure]) -> PartRow:
    first, values = figures[0], [figure.measured for figure in figures]
    usual = statistics.median(values)
    off = 100 * (usual / first.stated - 1) if first.stated else None
    return PartRow(
        kind=first.kind,
        at=first.at,
        unit=first.kind.unit,
        stated=first.stated,
        lowest=min(values),
        usual=usual,
        highest=max(values),
        count=len(values),
        off_percent=off,
        sentence=_sentence(first, values, off),
    )


def _sentence(first: PartFigure, values: list[float], off: float | None) -> str:
    lowest, highest = (format_value(value, first.kind.unit, 3) for value in (min(values), max(values)))
    measured = lowest if lowest == highest else f"{lowest} to {highest}"
    if first.stated is None:
        return f"{measured}; nothing is stated."
    stated = format_value(first.stated, first.kind.unit, 3)
    if off is None or abs(off) < 0.5:
        return f"{measured}, as stated ({stated})."
    return f"{measured}, {abs(off):.0f} % {'more' if off > 0 else 'less'} than stated ({stated})."
