"""A shelf tag as SVG: the clean volts of the line outputs, large; the number never to pass; the day."""

from xml.sax.saxutils import escape

from upper_rook.core.common.moments import format_day
from upper_rook.core.common.units import format_value
from upper_rook.core.sources.source_report import SourceReport
from upper_rook.core.sources.source_sheet import SourceSheet

_WIDTH, _HEAD, _ROW, _FOOT = 360, 62, 54, 66
_MOST_ROWS = 4
_INK, _QUIET = "#1b2340", "#58606e"
_LONGEST = 26


def shelf_tag(sheet: SourceSheet, report: SourceReport) -> str:
    """The tag of the unit that the report is of: 90 mm wide, and as high as it needs to be."""
    volts = _volts(sheet, report)
    height = _HEAD + _ROW * max(1, len(volts)) + _FOOT
    lines = [_text(20, 40, sheet.name, 26, bold=True)]
    for place, (name, shown) in enumerate(volts):
        base = _HEAD + _ROW * place + 42
        lines.append(_text(20, base, name, 18))
        lines.append(_text(_WIDTH - 20, base, shown, 40, bold=True, anchor="end"))
    if not volts:
        lines.append(_text(20, _HEAD + 34, "not measured yet", 20))
    base = height - 22
    if report.governing:
        lines.append(_text(20, base, f"never pass {report.governing.volume} of {sheet.top_volume}", 22, bold=True))
    if report.unit and report.unit.measured_on:
        day = format_day(report.unit.measured_on)
        lines.append(_text(_WIDTH - 20, base, day, 14, anchor="end", colour=_QUIET))
    body = "\n".join(lines)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="90mm" height="{90 * height / _WIDTH:.1f}mm" '
        f'viewBox="0 0 {_WIDTH} {height}" role="img" aria-label="{escape(sheet.name, {chr(34): "&quot;"})}">\n'
        f'<rect x="2" y="2" width="{_WIDTH - 4}" height="{height - 4}" fill="#fffdf8" stroke="{_INK}" '
        f'stroke-width="4"/>\n'
        f"{body}\n</svg>\n"
    )


def _volts(sheet: SourceSheet, report: SourceReport) -> list[tuple[str, str]]:
    """Of every line output the lowest clean volts that were measured of it."""
    found: dict[str, tuple[str, float]] = {}
    for row in report.matrix.rows if report.matrix else ():
        for cell in row.cells:
            if cell is None or cell.cell.clean_v is None or not sheet.is_line(cell.cell):
                continue
            output = sheet.output_of(cell.cell)
            before = found.get(output.id)
            if before is None or cell.cell.clean_v < before[1]:
                found[output.id] = (output.name or output.id, cell.cell.clean_v)
    return [(name, format_value(volts, "V", 3)) for name, volts in list(found.values())[:_MOST_ROWS]]


def _text(
    x: float, y: float, words: str, size: int, *, bold: bool = False, anchor: str = "start", colour: str = _INK
) -> str:
    short = words if len(words) <= _LONGEST else f"{words[: _LONGEST - 1]}…"
    weight = ' font-weight="700"' if bold else ""
    return (
        f'<text x="{x}" y="{y}" font-family="Atkinson Hyperlegible Next, sans-serif" font-size="{size}"{weight} '
        f'text-anchor="{anchor}" fill="{colour}">{escape(short)}</text>'
    )
