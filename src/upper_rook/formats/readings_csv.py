"""Readings of a job as a table for people (RFC 4180): names instead of keys, with their units."""

import csv
import io
from collections.abc import Iterable, Mapping

from upper_rook.core.run.readings.records import UNITS, Eye, Reading, by_whom
from upper_rook.core.system.playing import INPUT_WORDS
from upper_rook.formats.cells import plain_cell

HEAD = (
    "taken at (UTC)",
    "step",
    "reading",
    "value",
    "unit",
    "doubt ± (same unit, about 95 %)",
    "display",
    "volume number",
    "tone (Hz)",
    "tone level (dBFS)",
    "way of playing",
    "wave",
    "instrument",
    "by",
    "sheet version",
    "struck out because",
)


def readings_table(
    readings: Iterable[Reading], titles: Mapping[str, str], rows: Mapping[tuple[str, str], str], from_file: int = 0
) -> str:
    """
    The table, nothing rounded; `titles` are those of steps, `rows` those of their rows by step and row.

    Names of records up to the arrival number `from_file` are as a file says.
    """
    table = io.StringIO()
    writer = csv.writer(table)
    writer.writerow(HEAD)
    for one in readings:
        now = one.circumstances
        values = (
            one.taken_at.isoformat(),
            titles.get(one.step, one.step),
            rows.get((one.step, now.row), now.row) if now.row else "",
            one.value,
            UNITS.get(one.quantity, ""),
            one.uncertainty,
            now.displayed,
            now.volume,
            now.tone.frequency_hz if now.tone else None,
            now.tone.level_dbfs if now.tone else None,
            INPUT_WORDS[now.way] if now.way else "",
            "" if one.seen is Eye.UNSEEN else one.seen.value,
            one.instrument,
            by_whom(one, from_file),
            one.sheet_version,
            one.struck,
        )
        writer.writerow([plain_cell(value) for value in values])
    return table.getvalue()
