"""Readings of a job as a table for people (RFC 4180): names instead of keys, with their units."""

from collections.abc import Iterable, Mapping

from upper_rook.core.run.readings.records import UNITS, Eye, Reading, by_whom
from upper_rook.core.system.playing import INPUT_WORDS
from upper_rook.formats.cells import csv_table

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
    return csv_table(HEAD, (_row(reading, titles, rows, from_file) for reading in readings))


def _row(
    reading: Reading, titles: Mapping[str, str], rows: Mapping[tuple[str, str], str], from_file: int
) -> tuple[object, ...]:
    now = reading.circumstances
    return (
        reading.taken_at.isoformat(),
        titles.get(reading.step, reading.step),
        rows.get((reading.step, now.row), now.row) if now.row else "",
        reading.value,
        UNITS.get(reading.quantity, ""),
        reading.uncertainty,
        now.displayed,
        now.volume,
        now.tone.frequency_hz if now.tone else None,
        now.tone.level_dbfs if now.tone else None,
        INPUT_WORDS[now.way] if now.way else "",
        "" if reading.seen is Eye.UNSEEN else reading.seen.value,
        reading.instrument,
        by_whom(reading, from_file),
        reading.sheet_version,
        reading.struck,
    )
