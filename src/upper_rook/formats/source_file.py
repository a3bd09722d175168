"""Source sheets as open files: JSON in and out, and the matrix as CSV (RFC 4180)."""

import csv
import io
import re
from typing import Any

from upper_rook.core.sources.source_sheet import FORMAT, SourceSheet
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
_FORMULA = ("=", "+", "-", "@", "\t")
_NUMBER = re.compile(r"[-+]\d+(?:[.,]\d+)?")
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
    stated = {one.id: one.rated.v for one in sheet.outputs}
    names = {one.id: one.name or one.id for one in sheet.outputs}
    text = io.StringIO()
    rows = csv.writer(text)
    rows.writerow(_COLUMNS)
    for unit in sheet.units:
        for one in unit.cells:
            row = (
                unit.name or unit.id,
                names[one.output],
                one.side,
                one.way,
                one.tone_hz,
                one.trim,
                one.sub_level,
                stated[one.output],
                one.clean,
                one.clean_v,
                one.doubt_v,
                one.clipped,
                one.basis,
                "yes" if one.taken_over else "",
                one.taken_on,
                one.by,
            )
            rows.writerow([_plain(each) for each in row])
    return text.getvalue()


def _plain(value: object) -> object:
    """What a spreadsheet would run as a formula is kept as text."""
    if isinstance(value, str) and value.startswith(_FORMULA) and not _NUMBER.fullmatch(value):
        return f"'{value}"
    return "" if value is None else value
