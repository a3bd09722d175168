"""The matrix of a unit: outputs down, ways and tones across, stated against measured, and the numbers that govern."""

from collections import Counter

from upper_rook.core.common.units import Frozen, format_hertz, ratio_db
from upper_rook.core.sources.source_sheet import Cell, Settings, SheetOutput, SourceSheet, Unit
from upper_rook.core.system.playing import INPUT_WORDS, InputKind, Side


class Column(Frozen):
    """A way of playing at a tone."""

    way: InputKind | None
    tone_hz: float
    words: str


class Shown(Frozen):
    """A cell beside what the maker states."""

    cell: Cell
    volts_of_stated: float | None
    """Measured over stated; None where either isn't known."""
    off_db: float | None


class MatrixRow(Frozen):
    """An output, or one side of it."""

    output: str
    side: Side | None
    words: str
    stated_v: float | None
    cells: tuple[Shown | None, ...]
    """One for each column; None where nothing was measured."""


class Matrix(Frozen):
    """Of the settings as they are usually left: those that most cells share."""

    columns: tuple[Column, ...]
    rows: tuple[MatrixRow, ...]
    settings: str
    """Those settings in words; empty where none was moved."""


def usual(unit: Unit) -> Settings:
    """The settings that most cells of a unit were measured with; of equals those with least to say of them."""
    counted = Counter(cell.settings for cell in unit.cells)
    return max(
        counted, key=lambda settings: (counted[settings], *(not setting for setting in settings)), default=Settings()
    )


def matrix(sheet: SourceSheet, unit: Unit) -> Matrix:
    """The matrix of one unit."""
    left = usual(unit)
    own = [cell for cell in unit.cells if cell.settings == left]
    columns = sorted({(cell.way, cell.tone_hz) for cell in own}, key=lambda column: (str(column[0] or ""), column[1]))
    several = len({tone for _, tone in columns}) > 1
    rows = []
    for output in sheet.outputs:
        sides = [side for side in (None, *Side) if any((cell.output, cell.side) == (output.id, side) for cell in own)]
        rows += [_row(output, side, columns, own) for side in sides or [None]]
    return Matrix(
        columns=tuple(Column(way=way, tone_hz=tone, words=_column(way, tone, several)) for way, tone in columns),
        rows=tuple(rows),
        settings=left.words,
    )


def _column(way: InputKind | None, tone_hz: float, several: bool) -> str:
    words = INPUT_WORDS[way] if way else "as played"
    return f"{words}, {format_hertz(tone_hz)}" if several else words


def _row(
    output: SheetOutput, side: Side | None, columns: list[tuple[InputKind | None, float]], cells: list[Cell]
) -> MatrixRow:
    own = {(cell.way, cell.tone_hz): cell for cell in cells if (cell.output, cell.side) == (output.id, side)}
    name = output.name or output.id
    return MatrixRow(
        output=output.id,
        side=side,
        words=f"{name}, {side.value}" if side else name,
        stated_v=output.rated.v,
        cells=tuple(_shown(own.get(key), output.rated.v) for key in columns),
    )


def _shown(cell: Cell | None, stated_v: float | None) -> Shown | None:
    if cell is None:
        return None
    known = cell.clean_v is not None and stated_v
    return Shown(
        cell=cell,
        volts_of_stated=cell.clean_v / stated_v if known and cell.clean_v and stated_v else None,
        off_db=ratio_db(cell.clean_v, stated_v) if known and cell.clean_v and stated_v else None,
    )
