"""Rows of numbers below the head of a table, read as a stream of blocks."""

import codecs
import io
from collections.abc import Iterator
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.errors import BadInput
from upper_rook.formats import dialect as dialects
from upper_rook.formats.dialect import Dialect
from upper_rook.formats.progress import Progress

Array = NDArray[np.float64]

_BLOCK_BYTES = 1 << 18
_LONGEST_LINE = 1 << 24
_MOST_BROKEN = 100


class NumberRows:
    """Blocks of numbers, (row, number column); an empty cell is not a number. Lines with other columns are left out."""

    def __init__(self, file: BinaryIO, head: bytes, encoding: str, dialect: Dialect, progress: Progress | None) -> None:
        """`head` was read from `file` before."""
        self._file, self._head, self._dialect, self._progress = file, head, dialect, progress
        self._decoder = None if encoding == "utf-8" else codecs.getincrementaldecoder(encoding)(errors="replace")
        self._row = 0
        self._broken: list[int] = []

    def __iter__(self) -> Iterator[Array]:
        """
        Block by block.

        Raises:
            BadInput: where a cell is no number, or where lines other than the last have other columns.
        """
        for block in self._blocks():
            rows = _read_quickly(block, self._dialect)
            if rows is None:
                yield self._read_strictly(block)
            else:
                self._row += len(rows)
                yield rows
        # A last line may be cut off where the export was stopped.
        if self._broken and self._broken != [self._row]:
            line = self._broken[0] + self._dialect.first_line
            raise BadInput(f"In line {line} the columns differ: every line is expected to have the same.")

    def _blocks(self) -> Iterator[bytes]:
        """Whole lines of UTF-8 that end in a line feed, the first of them the first with numbers."""
        waiting = bytearray().join(self._clean(self._head).splitlines(keepends=True)[self._dialect.first_line :])
        done = len(self._head)
        while more := self._file.read(_BLOCK_BYTES):
            done += len(more)
            if self._progress:
                self._progress(done)
            waiting += self._clean(more)
            end = waiting.rfind(b"\n") + 1
            if end:
                yield bytes(waiting[:end])
                del waiting[:end]
            elif len(waiting) > _LONGEST_LINE:
                raise BadInput("A line is longer than any table’s: a time and volts in each line are expected.")
        if waiting:
            yield bytes(waiting) + b"\n"

    def _clean(self, data: bytes) -> bytes:
        data = self._decoder.decode(data).encode() if self._decoder else data
        return data.replace(b"\r\n", b"\n").replace(b"\r", b"\n")

    def _read_strictly(self, block: bytes) -> Array:
        """Line by line: slower, and with the line and the cell that can't be read."""
        dialect, rows = self._dialect, []
        for line in block.decode("utf-8", errors="replace").split("\n"):
            if not line.strip():
                continue
            self._row += 1
            cells = dialects.split(line, dialect.delimiter)
            if len(cells) == dialect.fields:
                rows.append([self._number(cells[column]) for column in dialect.columns])
                continue
            self._broken.append(self._row)
            if len(self._broken) >= _MOST_BROKEN:
                raise BadInput("The lines of the table differ: each is expected to have the same columns of numbers.")
        return np.array(rows, dtype=np.float64).reshape(-1, len(dialect.columns))

    def _number(self, cell: str) -> float:
        value = dialects.number(cell, self._dialect.decimal) if cell else np.nan
        if value is None:
            line = self._row + self._dialect.first_line
            raise BadInput(
                f"“{cell[:24]}” in line {line} is not a number: every line is expected to hold a time and volts."
            )
        return value


def _read_quickly(block: bytes, dialect: Dialect) -> Array | None:
    """All rows of a block; None where it isn't plain numbers in equal lines."""
    lines, blank = block.count(b"\n"), dialect.delimiter == " "
    cells = len(block.split()) if blank else block.count(dialect.delimiter.encode()) + lines
    if cells != lines * dialect.fields:
        return None
    if dialect.decimal == ",":
        if b"." in block:
            return None
        block = block.replace(b",", b".")
    try:
        rows = np.loadtxt(
            io.BytesIO(block),
            delimiter=None if blank else dialect.delimiter,
            # With every column wanted a line that differs is refused; by name it would pass where it reaches so far.
            usecols=None if len(dialect.columns) == dialect.fields else dialect.columns,
            comments=None,
            encoding="latin-1",
            ndmin=2,
        )
    except (ValueError, IndexError):
        return None
    # A line of another length beside one of that much less, or blank lines.
    return rows if len(rows) == lines and np.isfinite(rows).all() else None
