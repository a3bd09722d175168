"""Readings as a table for people, read again by Python's own csv."""

import csv
import io
from typing import Any

from tests.core.helpers import LAYOUTS, reading, steps_of
from upper_rook.core.run.readings.records import UNITS, Eye, Quantity
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.formats.readings_csv import HEAD, readings_table

STEP = steps_of(JobSheet(chain=LAYOUTS["front"]))["ceiling.source.line"]


def table(*readings: Any, rows: dict[tuple[str, str], str] | None = None) -> list[dict[str, str]]:
    text = readings_table(readings, {STEP.key: STEP.title}, rows or {})
    assert text.endswith("\r\n")
    return list(csv.DictReader(io.StringIO(text, newline="")))


def test_names_units_and_figures_come_back_as_they_were() -> None:
    one = reading(STEP, 31, 3.8123456789, Eye.CLEAN, way="usb", displayed=3.9)
    other = reading(STEP, None, 6.1, quantity=Quantity.DC_VOLTS, row="running", uncertainty=None)
    first, second = table(one, other, rows={(STEP.key, "running"): "Running, at the amplifier"})
    assert tuple(first) == HEAD
    assert float(first["value"]) == one.value
    assert (first["step"], first["unit"], first["volume number"], first["wave"]) == (STEP.title, "V RMS", "31", "clean")
    assert (first["display"], first["way of playing"], first["tone (Hz)"]) == ("3.9", "USB", "1000.0")
    assert (second["reading"], second["unit"], second["volume number"]) == ("Running, at the amplifier", "V", "")
    assert second["doubt ± (same unit, about 95 %)"] == ""


def test_no_cell_is_a_formula_and_none_breaks_the_table() -> None:
    hostile = reading(STEP, 31, 3.8).model_copy(update={"by": '=cmd|"/c calc"!A1', "struck": 'a, "b"\nnext'})
    (row,) = table(hostile)
    assert row["by"] == '\'=cmd|"/c calc"!A1'
    assert row["struck out because"] == 'a, "b"\nnext'
    # A number below zero stays a number.
    (cold,) = table(reading(STEP, None, -14.1, quantity=Quantity.DC_VOLTS))
    assert float(cold["value"]) == -14.1


def test_what_has_a_unit_says_it() -> None:
    without = {Quantity.CONTINUITY, Quantity.POSITION, Quantity.VERDICT, Quantity.NUMBERS, Quantity.CHOICE}
    assert set(UNITS) == set(Quantity) - without
