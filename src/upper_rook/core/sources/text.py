"""A source sheet as lines of text."""

from collections.abc import Iterator

from upper_rook.core.common.moments import format_day
from upper_rook.core.common.units import format_db, format_signed, format_value
from upper_rook.core.sources.combinations import settings_in_words
from upper_rook.core.sources.matrix import Matrix, Shown
from upper_rook.core.sources.source_report import SourceReport, in_words
from upper_rook.core.sources.source_sheet import SourceSheet
from upper_rook.core.system.playing import INPUT_WORDS


def source_text(sheet: SourceSheet, report: SourceReport) -> Iterator[str]:
    """Line by line: what governs, the matrix, the combinations, what settings cost, what to heed."""
    unit = report.unit
    yield f"{sheet.name}, volume 0 to {sheet.top_volume}"
    if unit is None or report.matrix is None:
        yield "Nothing was measured yet."
        return
    measured = f", measured {format_day(unit.measured_on)}" if unit.measured_on else ""
    yield f"Unit: {unit.name or unit.id}{measured}"
    yield from _limits(report)
    if report.lowest:
        yield f"{report.lowest}."
    yield from _matrix(report.matrix)
    if report.combinations:
        yield "Combinations, the best first:"
    for combination in report.combinations:
        cell = combination.cell
        yield f"  {in_words(sheet, cell)}, {settings_in_words(cell)}: {combination.because}"
    for cost in report.costs:
        yield cost.words
    yield from report.advice
    for spread in report.spreads:
        if spread.units > 1:
            settings = f", each at its best ({'; '.join(spread.best_at)})" if spread.best_at else ""
            yield (
                f"{in_words(sheet, spread.cell)}{settings}: {spread.units} units, {format_value(spread.volts, 'V')}, "
                f"{format_db(spread.apart_db)} apart; the next within ± {format_db(spread.next_db)}"
            )


def _limits(report: SourceReport) -> Iterator[str]:
    if report.governing:
        yield f"Governing number: {report.governing.words}"
    for never_pass in report.never_pass:
        yield f"Never pass{f' by {INPUT_WORDS[never_pass.way]}' if never_pass.way else ''}: {never_pass.volume}"
    for limit in report.by_kind:
        yield f"Never pass through its {limit.words}: {limit.volume}"


def _matrix(matrix: Matrix) -> Iterator[str]:
    if matrix.settings:
        yield f"  With {matrix.settings}, as the source shows them:"
    for row in matrix.rows:
        stated = f", stated {format_value(row.stated_v, 'V', 3)}" if row.stated_v else ""
        told = "; ".join(
            f"{column.words} {_cell(shown)}" for column, shown in zip(matrix.columns, row.cells, strict=True)
        )
        yield f"  {row.words}{stated}: {told}"


def _cell(shown: Shown | None) -> str:
    if shown is None:
        return "not measured"
    cell = shown.cell
    volts = format_value(cell.clean_v, "V") if cell.clean_v is not None else "volts not saved"
    off = f" ({format_signed(shown.off_db, 1)} dB of what is stated)" if shown.off_db is not None else ""
    return f"clean maximum {cell.clean}, {volts}{off}{', copied' if cell.taken_over else ''}"
