"""Cells of a table: a spreadsheet takes none of them for a formula."""

import re

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
