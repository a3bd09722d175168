"""Stated against measured, over every unit of a part."""

import statistics
from datetime import date
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
    doubt: float | None
    """Expanded, the largest of the units; None where an instrument promises nothing."""
    count: int
    """Units that it was measured of."""
    off_percent: float | None
    """How far the usual one lies above what is stated; negative for below."""
    sentence: str


class UnitRow(Frozen):
    """One unit of a part, as a line of its page."""

    id: str
    name: str
    measured_on: date
    figures: tuple[str, ...]


def unit_rows(part: ShopPart) -> tuple[UnitRow, ...]:
    """A row for each unit, in the order in which they were kept."""
    return tuple(
        UnitRow(
            id=unit.id,
            name=unit.name or unit.id,
            measured_on=max(figure.taken_on for figure in unit.figures),
            figures=tuple(f"{_measured(figure)} {figure.at}" for figure in unit.figures),
        )
        for unit in part.units
    )


def _measured(figure: PartFigure) -> str:
    return format_value(figure.measured, figure.kind.unit, 3)


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
    doubts = [figure.doubt for figure in figures if figure.doubt is not None]
    doubt = max(doubts) if len(doubts) == len(figures) else None
    return PartRow(
        kind=first.kind,
        at=first.at,
        unit=first.kind.unit,
        stated=first.stated,
        lowest=min(values),
        usual=usual,
        highest=max(values),
        doubt=doubt,
        count=len(values),
        off_percent=off,
        sentence=_sentence(first, values, usual, doubt),
    )


def _sentence(first: PartFigure, values: list[float], usual: float, doubt: float | None) -> str:
    unit, stated_value = first.kind.unit, first.stated
    lowest, highest = (format_value(value, unit, 3) for value in (min(values), max(values)))
    measured = lowest if lowest == highest else f"{lowest} to {highest}"
    measured += f" ± {format_value(doubt, unit, 2)}" if doubt is not None else " ± ?"
    if stated_value is None:
        return f"{measured}; nothing is stated."
    stated = format_value(stated_value, unit, 3)
    if doubt is not None and abs(usual - stated_value) <= doubt:
        return f"{measured}: within that as stated ({stated})."
    off = 100 * (usual / stated_value - 1)
    return f"{measured}, {abs(off):.0f} % {'more' if off > 0 else 'less'} than stated ({stated})."
