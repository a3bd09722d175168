"""Combinations of settings and volume by clean volts, and the price of each setting."""

from upper_rook.core.common.units import Frozen, format_db, format_signed, format_value, ratio_db
from upper_rook.core.sources.matrix import usual
from upper_rook.core.sources.source_sheet import Cell, Settings, SourceSheet, Tried, Unit
from upper_rook.core.system.playing import INPUT_WORDS

_ALIKE_DB = 0.1
"""Closer than this nobody can tell two of them apart with a meter (common practice, no source)."""


class Combination(Frozen):
    """One way to set a source at one output."""

    cell: Cell
    settings: str
    """Its settings in words."""
    more_db: float | None
    """Over what it gives with its settings as they are usually left; None where that wasn't measured."""
    because: str


class Cost(Frozen):
    """Effect of a setting on the volts and on the clean maximum."""

    tried: Tried
    db: float
    numbers: int | None
    """By how many volume numbers it moves the clean maximum; None where that wasn't looked for."""
    words: str


def combinations(sheet: SourceSheet, unit: Unit) -> tuple[Combination, ...]:
    """Every combination whose clean volts are known, for each output and way the best first."""
    left = usual(unit)
    known = [cell for cell in unit.cells if cell.clean_v is not None]
    order = {output.id: number for number, output in enumerate(sheet.outputs)}
    known.sort(key=lambda cell: (order[cell.output], str(cell.way or ""), str(cell.side or ""), -(cell.clean_v or 0)))
    return tuple(_combination(cell, _alike(known, cell, left)) for cell in known)


def best(sheet: SourceSheet, unit: Unit, output: str) -> Combination | None:
    """The one with the most clean volts at an output."""
    own = [combination for combination in combinations(sheet, unit) if combination.cell.output == output]
    return max(own, key=lambda combination: combination.cell.clean_v or 0, default=None)


def _alike(cells: list[Cell], cell: Cell, left: Settings) -> Cell | None:
    """The same spot with the settings as they are usually left."""
    wanted = cell.spot._replace(settings=left)
    return next((cell for cell in cells if cell.spot == wanted), None)


def _combination(cell: Cell, usually: Cell | None) -> Combination:
    volts = cell.clean_v or 0.0
    told = [f"clean maximum {cell.clean}: {format_value(volts, 'V')}"]
    more = ratio_db(volts, usually.clean_v) if usually and usually.clean_v else None
    if usually is not None and more is not None and usually is not cell:
        if abs(more) < _ALIKE_DB:
            told.append(f"as much as with {settings_in_words(usually)}")
        else:
            told.append(f"{format_signed(more, 1)} dB against {settings_in_words(usually)} at {usually.clean}")
    return Combination(cell=cell, settings=settings_in_words(cell), more_db=more, because=", ".join(told))


def settings_in_words(cell: Cell) -> str:
    """The settings of a cell as the source shows them."""
    return cell.settings.words or "its settings left alone"


def costs(unit: Unit) -> tuple[Cost, ...]:
    """Price or gain of every setting that was tried."""
    return tuple(_cost(tried) for tried in unit.tried)


def _cost(tried: Tried) -> Cost:
    db = ratio_db(tried.with_v, tried.without_v)
    both = tried.clean_with is not None and tried.clean_without is not None
    numbers = (tried.clean_with or 0) - (tried.clean_without or 0) if both else None
    name = f"{tried.setting} {tried.value}".strip() + (f", {INPUT_WORDS[tried.way]}" if tried.way else "")
    if abs(db) < _ALIKE_DB:
        told = f"{name} leaves the volts at {tried.volume} as they are"
    else:
        told = f"{name} {'gives' if db > 0 else 'costs'} {format_db(abs(db))} at {tried.volume}"
    if numbers:
        told += f", and it clips {abs(numbers)} numbers {'later' if numbers > 0 else 'earlier'}"
    elif numbers == 0:
        told += ", and it clips where it did"
    return Cost(tried=tried, db=db, numbers=numbers, words=f"{told}.")
