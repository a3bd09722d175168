"""Source sheets as open files: JSON in and out, and the matrix as CSV (RFC 4180)."""

from typing import Any

from upper_rook.core.sources.source_sheet import FORMAT, Settings, SourceSheet
from upper_rook.formats.cells import csv_table
from upper_rook.formats.document import Kind

SOURCE_FILE = Kind(model=SourceSheet, noun="source", format=FORMAT)
_COLUMNS = (
    "unit",
    "output",
    "side",
    "way",
    "tone_hz",
    "trim",
    "sub_level",
    "other_settings",
    "stated_v",
    "clean",
    "clean_v",
    "doubt_v",
    "clipped",
    "evidence",
    "taken_over",
    "date",
    "by",
)
"""A trim as a source shows it is kept as it is."""


def read_source(text: bytes) -> SourceSheet:
    """The sheet in `text`. Raises BadInput with a sentence and the field."""
    return SOURCE_FILE.read(text)


def write_source(sheet: SourceSheet) -> str:
    """The sheet as JSON text."""
    return sheet.model_dump_json(indent=2) + "\n"


def source_schema() -> dict[str, Any]:
    """The JSON Schema of a source file."""
    return SOURCE_FILE.schema()


def write_csv(sheet: SourceSheet) -> str:
    """Every clean maximum of every unit in a line of its own; volts in volts RMS, tones in hertz."""
    stated = {output.id: output.rated.v for output in sheet.outputs}
    names = {output.id: output.name or output.id for output in sheet.outputs}
    return csv_table(
        _COLUMNS,
        (
            (
                unit.name or unit.id,
                names[cell.output],
                cell.side,
                cell.way,
                cell.tone_hz,
                cell.trim,
                cell.sub_level,
                Settings(others=cell.others).words,
                stated[cell.output],
                cell.clean,
                cell.clean_v,
                cell.doubt_v,
                cell.clipped,
                cell.basis,
                "yes" if cell.taken_over else "",
                cell.taken_on,
                cell.by,
            )
            for unit in sheet.units
            for cell in unit.cells
        ),
    )
