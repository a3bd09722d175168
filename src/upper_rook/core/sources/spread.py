"""How far units of one source differ, and how far one should trust the next."""

import math
import statistics

from upper_rook.core.common.units import Frozen, ratio_db
from upper_rook.core.sources.source_sheet import Cell, SourceSheet, Spot

_ONE_UNIT_DB = 1.0
"""How far the next unit of a source may be from the only one that was measured (common practice, no source)."""
_T95 = (12.71, 4.30, 3.18, 2.78, 2.57, 2.45, 2.36, 2.31, 2.26, 2.23)
"""Student's t at 95 %, two-sided, for 1 to 10 degrees of freedom (handbook table)."""


class Spread(Frozen):
    """One spot over all units that have it."""

    cell: Cell
    """Of the unit measured last."""
    units: int
    volts: float
    """The geometric mean of the clean volts."""
    apart_db: float
    """From the lowest unit to the highest."""
    next_db: float
    """The next unit lies within this of the mean, at about 95 %."""
    lowest_clean: int
    highest_clean: int


def spreads(sheet: SourceSheet) -> tuple[Spread, ...]:
    """Of every spot whose volts are known in at least one unit."""
    found: dict[Spot, list[Cell]] = {}
    for unit in sorted(sheet.units, key=lambda one: str(one.measured_on or "")):
        for cell in unit.cells:
            if cell.clean_v is not None and not cell.taken_over:
                found.setdefault(cell.spot, []).append(cell)
    return tuple(_spread(cells) for cells in found.values())


def _spread(cells: list[Cell]) -> Spread:
    levels = [ratio_db(cell.clean_v or 1.0, 1.0) for cell in cells]
    mean = statistics.fmean(levels)
    count = len(cells)
    if count == 1:
        within = _ONE_UNIT_DB
    else:
        # A prediction interval: the scatter of one more, and how well the mean itself is known.
        factor = _T95[min(count - 1, len(_T95)) - 1] * math.sqrt(1 + 1 / count)
        within = factor * statistics.stdev(levels)
    return Spread(
        cell=cells[-1],
        units=count,
        volts=10 ** (mean / 20),
        apart_db=max(levels) - min(levels),
        next_db=within,
        lowest_clean=min(cell.clean for cell in cells),
        highest_clean=max(cell.clean for cell in cells),
    )
