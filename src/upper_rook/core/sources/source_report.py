"""Report on a unit's measurements: its limits, the settings to use and to avoid, and two units compared."""

from upper_rook.core.common.units import Frozen, format_signed, format_value, from_db, ratio_db
from upper_rook.core.sources.combinations import Combination, Cost, combinations, costs
from upper_rook.core.sources.matrix import Matrix, matrix, usual
from upper_rook.core.sources.source_sheet import Cell, SourceSheet, Unit
from upper_rook.core.sources.spread import Spread, spreads
from upper_rook.core.system.kind_limits import KindLimit, kind_limits
from upper_rook.core.system.playing import INPUT_WORDS, InputKind
from upper_rook.core.system.source import OutputKind

_WORSE_DB = -1.0
"""So far below what is stated it is worth a word (common practice, no source)."""
_AGREE_DB = 0.1


class Governing(Frozen):
    """The lowest clean number of all, and what it is of."""

    volume: int
    cell: Cell
    words: str


class NeverPass(Frozen):
    """The number never to pass by a way of playing; None for whatever was played."""

    way: InputKind | None
    volume: int


class SourceReport(Frozen):
    """One unit of a source, worked out."""

    name: str
    unit: Unit | None
    matrix: Matrix | None
    governing: Governing | None
    never_pass: tuple[NeverPass, ...]
    by_kind: tuple[KindLimit, ...]
    """The number by kind of output, where there are several."""
    lowest: str | None
    """The output that gives the least at the governing number, in words."""
    combinations: tuple[Combination, ...]
    costs: tuple[Cost, ...]
    advice: tuple[str, ...]
    spreads: tuple[Spread, ...]


def report(sheet: SourceSheet, key: str | None = None) -> SourceReport:
    """The unit of that id, or the one measured last; a sheet without units has nothing to tell."""
    unit = sheet.unit(key)
    if unit is None or not unit.cells:
        return SourceReport(
            name=sheet.name,
            unit=unit,
            matrix=None,
            governing=None,
            never_pass=(),
            by_kind=(),
            lowest=None,
            combinations=(),
            costs=costs(unit) if unit else (),
            advice=(),
            spreads=(),
        )
    left = usual(unit)
    cells = [cell for cell in unit.cells if cell.settings == left]
    governing = governing_of(sheet, cells)
    return SourceReport(
        name=sheet.name,
        unit=unit,
        matrix=matrix(sheet, unit),
        governing=governing,
        never_pass=tuple(NeverPass(way=way, volume=number) for way, number in never_pass(sheet, cells).items()),
        by_kind=kind_limits((sheet.output_of(cell).kind, cell.clean) for cell in cells),
        lowest=_lowest(sheet, cells, governing),
        combinations=combinations(sheet, unit),
        costs=costs(unit),
        advice=(*_own_amplifier(sheet, cells), *_below_stated(sheet, cells), *ways_compared(cells)),
        spreads=spreads(sheet),
    )


def _counting(sheet: SourceSheet, cells: list[Cell]) -> list[Cell]:
    """Line outputs where there are any: speaker outputs clip earlier, and need not be used."""
    lines = [cell for cell in cells if sheet.is_line(cell)]
    return lines or cells


def governing_of(sheet: SourceSheet, cells: list[Cell]) -> Governing | None:
    """The lowest clean number of all: no louder is clean everywhere."""
    lowest = min(_counting(sheet, cells), key=lambda cell: cell.clean, default=None)
    if lowest is None:
        return None
    return Governing(volume=lowest.clean, cell=lowest, words=f"{lowest.clean}, by {in_words(sheet, lowest)}")


def never_pass(sheet: SourceSheet, cells: list[Cell]) -> dict[InputKind | None, int]:
    """The number never to pass, by way of playing."""
    numbers: dict[InputKind | None, int] = {}
    for cell in _counting(sheet, cells):
        numbers[cell.way] = min(numbers.get(cell.way, cell.clean), cell.clean)
    return numbers


def in_words(sheet: SourceSheet, cell: Cell) -> str:
    """Subject of a cell."""
    output = sheet.output_of(cell)
    told = [output.name or output.id]
    if cell.side:
        told.append(f"{cell.side.value} side")
    if cell.way:
        told.append(INPUT_WORDS[cell.way])
    return ", ".join(told)


def volts_at(cell: Cell, number: int) -> float | None:
    """Volts at a number: as read there, in dB between two readings, else a decibel a number (common practice)."""
    known = {reading.volume: reading.voltage_v for reading in cell.volume_readings if reading.volume <= cell.clean}
    if cell.clean_v is not None:
        known[cell.clean] = cell.clean_v
    if not known:
        return None
    low = max((other for other in known if other <= number), default=min(known))
    high = min((other for other in known if other >= number), default=max(known))
    if low >= high:
        return known[low] * from_db(number - low)
    part = (number - low) / (high - low)
    return float(known[low] * (known[high] / known[low]) ** part)


def _lowest(sheet: SourceSheet, cells: list[Cell], governing: Governing | None) -> str | None:
    if governing is None:
        return None
    lines = [cell for cell in _counting(sheet, cells) if cell.clean_v is not None]
    if len({line.output for line in lines}) < 2:
        return None
    volts = {id(line): volts_at(line, governing.volume) or 0.0 for line in lines}
    least = min(lines, key=lambda line: volts[id(line)])
    return f"{in_words(sheet, least)} gives the least: {format_value(volts[id(least)], 'V')} at {governing.volume}"


def _own_amplifier(sheet: SourceSheet, cells: list[Cell]) -> list[str]:
    """Its own amplifier against its line outputs."""
    kinds = {output.id: output.kind for output in sheet.outputs}
    speakers = min((cell.clean for cell in cells if kinds[cell.output] is OutputKind.SPEAKER), default=None)
    lines = min((cell.clean for cell in cells if kinds[cell.output] is OutputKind.LINE), default=None)
    if speakers is None or lines is None or speakers >= lines:
        return []
    return [
        f"Its speaker outputs clip above {speakers} of {sheet.top_volume}, its line outputs only above {lines}: don’t "
        f"drive speakers from it above {speakers}."
    ]


def _below_stated(sheet: SourceSheet, cells: list[Cell]) -> list[str]:
    told = []
    for output in sheet.outputs:
        own = [cell.clean_v for cell in cells if cell.output == output.id and cell.clean_v is not None]
        stated = output.rated.v
        if own and stated and ratio_db(max(own), stated) < _WORSE_DB:
            told.append(
                f"{output.name or output.id} gives {format_value(max(own), 'V')} clean of the "
                f"{format_value(stated, 'V')} that are stated: {100 * (max(own) / stated):.0f} %."
            )
    return told


def ways_compared(cells: list[Cell]) -> list[str]:
    """Each way of playing against the first, over the outputs that both were measured at."""
    ways = list(dict.fromkeys(cell.way for cell in cells if cell.way))
    told = []
    for way in ways[1:]:
        differences = _differences(cells, ways[0], way)
        if not differences:
            continue
        most = max(differences, key=abs)
        first, other = INPUT_WORDS[ways[0]], INPUT_WORDS[way]
        if abs(most) <= _AGREE_DB:
            told.append(f"By {first} and by {other} it agrees within {_AGREE_DB:g} dB.")
        else:
            told.append(f"By {other} it gives {format_signed(most, 1)} dB against {first} at the same number.")
    return told


def _differences(cells: list[Cell], one_way: InputKind, other_way: InputKind) -> list[float]:
    """In dB, at the lower of both clean numbers, for every spot that both have."""
    own = {cell.spot: cell for cell in cells}
    found = []
    for cell in cells:
        other = own.get(cell.spot._replace(way=other_way)) if cell.way is one_way else None
        if other is None:
            continue
        number = min(cell.clean, other.clean)
        volts = volts_at(cell, number), volts_at(other, number)
        if volts[0] and volts[1]:
            found.append(ratio_db(volts[1], volts[0]))
    return found


class Beside(Frozen):
    """One output of two sheets, at the same way and tone."""

    words: str
    volts: tuple[float | None, float | None]
    clean: tuple[int, int]
    db: float | None
    """How much more the second gives."""


def beside(source_sheet: SourceSheet, other: SourceSheet) -> tuple[Beside, ...]:
    """Two sheets side by side, by the outputs that both call alike, of the units measured last."""
    units = source_sheet.unit(), other.unit()
    if units[0] is None or units[1] is None:
        return ()
    found = []
    theirs = usual(units[1])
    named = {
        (in_words(other, cell).casefold(), cell.tone_hz): cell for cell in units[1].cells if cell.settings == theirs
    }
    ours = usual(units[0])
    for cell in units[0].cells:
        words = in_words(source_sheet, cell)
        twin = named.get((words.casefold(), cell.tone_hz)) if cell.settings == ours else None
        if twin is None:
            continue
        both = cell.clean_v, twin.clean_v
        db = ratio_db(both[1], both[0]) if both[0] and both[1] else None
        found.append(Beside(words=words, volts=both, clean=(cell.clean, twin.clean), db=db))
    return tuple(found)
