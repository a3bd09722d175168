"""How far units of one source differ, and how far one should trust the next."""

import math
import statistics
from collections.abc import Iterator

from upper_rook.core.common.units import Frozen, ratio_db
from upper_rook.core.sources.combinations import settings_in_words
from upper_rook.core.sources.source_sheet import Cell, Settings, SourceSheet, Spot, Unit

_ONE_UNIT_DB = 1.0
"""How far the next unit of a source may be from the only one that was measured (common practice, no source)."""
_T95 = (12.71, 4.30, 3.18, 2.78, 2.57, 2.45, 2.36, 2.31, 2.26, 2.23)
"""Student's t at 95 %, two-sided, for 1 to 10 degrees of freedom (handbook table)."""


class Spread(Frozen):
    """One spot over all units that have it."""

    cell: Cell
    """Of the unit measured last."""
    settings: str
    """Its settings in words."""
    units: int
    volts: float
    """The geometric mean of the clean volts."""
    apart_db: float
    """From the lowest unit to the highest."""
    next_db: float
    """The next unit lies within this of the mean, at about 95 %."""
    lowest_clean: int
    highest_clean: int
    best_at: tuple[str, ...] = ()
    """Settings of each unit's best, by its name, where units were measured at other trims; none where all are alike."""


def spreads(sheet: SourceSheet) -> tuple[Spread, ...]:
    """
    Of every spot whose volts are known in at least one unit.

    Where no spot is known of all the units that were measured at its output, side, way and tone, their best are
    compared too, whatever their settings.
    """
    units = sorted(sheet.units, key=lambda unit: str(unit.measured_on or ""))
    known = [(unit, cell) for unit in units for cell in unit.cells if cell.clean_v is not None and not cell.taken_over]
    found: dict[Spot, list[Cell]] = {}
    places: dict[Spot, dict[str, Cell]] = {}
    for unit, cell in known:
        found.setdefault(cell.spot, []).append(cell)
        best = places.setdefault(cell.spot._replace(settings=Settings()), {})
        if unit.id not in best or (best[unit.id].clean_v or 0) < (cell.clean_v or 0):
            best[unit.id] = cell
    return (*(_spread(cells) for cells in found.values()), *_of_best(units, found, places))


def _of_best(units: list[Unit], found: dict[Spot, list[Cell]], places: dict[Spot, dict[str, Cell]]) -> Iterator[Spread]:
    names = {unit.id: unit.name or unit.id for unit in units}
    for place, best in places.items():
        alike = max(len(cells) for spot, cells in found.items() if spot._replace(settings=Settings()) == place)
        if alike == len(best):
            continue
        said = tuple(f"{names[key]}: {settings_in_words(cell)}" for key, cell in best.items())
        yield _spread(list(best.values())).model_copy(update={"best_at": said})


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
        settings=settings_in_words(cells[-1]),
        units=count,
        volts=10 ** (mean / 20),
        apart_db=max(levels) - min(levels),
        next_db=within,
        lowest_clean=min(cell.clean for cell in cells),
        highest_clean=max(cell.clean for cell in cells),
    )
