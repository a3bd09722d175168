"""The logbook's tables as CSV (RFC 4180)."""

import csv
import io
from collections.abc import Iterable

from upper_rook.formats.cells import plain_cell


def table(head: Iterable[str], rows: Iterable[Iterable[object]]) -> str:
    """A table with its head; nothing in it is taken for a formula."""
    written = io.StringIO()
    writer = csv.writer(written)
    writer.writerow(head)
    for row in rows:
        writer.writerow([plain_cell(value) for value in row])
    return written.getvalue()
