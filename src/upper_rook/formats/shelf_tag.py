"""A shelf tag as SVG: each output's volts at the number never to pass, large; that number; the day."""

from collections.abc import Iterator
from typing import NamedTuple
from xml.sax.saxutils import escape

from upper_rook.core.common.moments import format_day
from upper_rook.core.common.units import format_hertz, format_value
from upper_rook.core.sources.source_report import SourceReport, volts_at
from upper_rook.core.sources.source_sheet import Cell, SourceSheet
from upper_rook.core.system.playing import INPUT_WORDS

_WIDTH, _HEAD, _ROW, _LINE, _FOOT = 360, 62, 66, 28, 22
_MOST_ROWS = 4
_INK, _QUIET = "#1b2340", "#58606e"
_LONGEST_AT = 680
"""Letters that fit a line, times their size."""


def shelf_tag(sheet: SourceSheet, report: SourceReport) -> str:
    """The tag of the unit that the report is of: 90 mm wide, and as high as it needs to be."""
    rows = _rows(sheet, report)
    limits = list(_limits(sheet, report))
    foot = _HEAD + _ROW * max(1, len(rows)) + 28
    height = foot + _LINE * len(limits) + _FOOT
    lines = [_text(20, 40, sheet.name, 26, bold=True)]
    for place, row in enumerate(rows):
        base = _HEAD + _ROW * place + 36
        lines.append(_text(20, base, row.output, 18))
        lines.append(_text(_WIDTH - 20, base, row.volts, 40, bold=True, anchor="end"))
        lines.append(_text(20, base + 20, row.read, 14, colour=_QUIET))
    if not rows:
        lines.append(_text(20, _HEAD + 34, "not measured yet", 20))
    lines += [_text(20, foot + _LINE * place, limit, 17, bold=True) for place, limit in enumerate(limits)]
    if report.unit and report.unit.measured_on:
        day = format_day(report.unit.measured_on)
        lines.append(_text(_WIDTH - 20, height - 16, day, 14, anchor="end", colour=_QUIET))
    body = "\n".join(lines)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="90mm" height="{90 * height / _WIDTH:.1f}mm" '
        f'viewBox="0 0 {_WIDTH} {height}" role="img" aria-label="{escape(sheet.name, {chr(34): "&quot;"})}">\n'
        f'<rect x="2" y="2" width="{_WIDTH - 4}" height="{height - 4}" fill="#fffdf8" stroke="{_INK}" '
        f'stroke-width="4"/>\n'
        f"{body}\n</svg>\n"
    )


def _limits(sheet: SourceSheet, report: SourceReport) -> Iterator[str]:
    """The number never to pass; one for each kind of output where there are several."""
    for limit in report.by_kind:
        yield f"never pass {limit.volume}: {limit.words}"
    if report.governing and not report.by_kind:
        yield f"never pass {report.governing.volume} of {sheet.top_volume}"


class _Row(NamedTuple):
    """An output, its volts at the number never to pass, and how they were read."""

    output: str
    volts: str
    read: str


def _rows(sheet: SourceSheet, report: SourceReport) -> list[_Row]:
    """Every measured output by the way and tone that gives the least there."""
    numbers = {limit.kind: limit.volume for limit in report.by_kind}
    found: dict[str, tuple[float, int, Cell]] = {}
    for row in report.matrix.rows if report.matrix else ():
        for shown in row.cells:
            if shown is None or report.governing is None:
                continue
            output = sheet.output_of(shown.cell)
            number = numbers.get(output.kind, report.governing.volume)
            volts = volts_at(shown.cell, number)
            if volts is not None and (output.id not in found or volts < found[output.id][0]):
                found[output.id] = (volts, number, shown.cell)
    # Line outputs first: they are what the unit is chosen for.
    kept = sorted(found.values(), key=lambda row: not sheet.is_line(row[2]))[:_MOST_ROWS]
    return [_row(sheet, *row) for row in kept]


def _row(sheet: SourceSheet, volts: float, number: int, cell: Cell) -> _Row:
    output = sheet.output_of(cell)
    way = INPUT_WORDS[cell.way] if cell.way else ""
    told = (f"at {number}", way, format_hertz(cell.tone_hz), cell.settings.words)
    return _Row(output.name or output.id, format_value(volts, "V", 3), ", ".join(word for word in told if word))


def _text(
    x: float, y: float, words: str, size: int, *, bold: bool = False, anchor: str = "start", colour: str = _INK
) -> str:
    longest = _LONGEST_AT // size
    short = words if len(words) <= longest else f"{words[: longest - 1]}…"
    weight = ' font-weight="700"' if bold else ""
    return (
        f'<text x="{x}" y="{y}" font-family="Atkinson Hyperlegible Next, sans-serif" font-size="{size}"{weight} '
        f'text-anchor="{anchor}" fill="{colour}">{escape(short)}</text>'
    )
