"""Cells and tables of CSV (RFC 4180): a spreadsheet takes none of them for a formula."""

import csv
import io
import re
from collections.abc import Iterable

_FORMULA = ("=", "+", "-", "@", "\t", "\r")
_NUMBER = re.compile(r"[+-]?\d+(?:[.,]\d+)?")


def plain_cell(value: object) -> object:
    """
    A value as a cell: text that a spreadsheet would take for a formula begins with an apostrophe, None is empty.

    >>> plain_cell("=1+1"), plain_cell("-3"), plain_cell(None), plain_cell(4.2)
    ("'=1+1", '-3', '', 4.2)
    """
    if isinstance(value, str) and value.startswith(_FORMULA) and not _NUMBER.fullmatch(value):
        return f"'{value}"
    return "" if value is None else value


def csv_table(head: Iterable[str], rows: Iterable[Iterable[object]]) -> str:
    r"""
    A table with its head.

    >>> csv_table(("step", "note"), [("Gain", "=1+1")])
    "step,note\r\nGain,'=1+1\r\n"
    """
    written = io.StringIO()
    writer = csv.writer(written)
    writer.writerow(head)
    writer.writerows([plain_cell(value) for value in row] for row in rows)
    return written.getvalue()
