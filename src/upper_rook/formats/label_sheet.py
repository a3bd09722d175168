"""Labels on a sheet of any grid: rows and columns, margins, sizes and gaps in millimetres; as SVG, page by page."""

import textwrap
from collections.abc import Iterator
from typing import Annotated, NamedTuple, Self
from xml.sax.saxutils import escape

from pydantic import Field, model_validator

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import Frozen
from upper_rook.core.handover.labels import Label
from upper_rook.formats.handover_html import Paper, font_faces

_SIZE_MM = {Paper.A4: (210.0, 297.0), Paper.LETTER: (215.9, 279.4)}
"""Width and height: ISO 216; ANSI Y14.1."""
_EDGE_MM = 2.0
"""Left free within a label: printers and scissors are off by so much (common practice, no source)."""
_LETTER_WIDTH = {400: 0.56, 700: 0.62}
"""Mean width of a letter over its size by weight: of a wide sans-serif, so that any fits."""
_LARGEST_MM, _SMALLEST_MM, _SMALLER = 9.0, 1.6, 0.95
_LEADING, _BASELINE = 1.2, 0.8
"""Height of a line over its letters, and where in it they stand."""
_SLACK_MM = 0.05
Millimetres = Annotated[float, Field(ge=0, le=300)]


class LabelGrid(Frozen):
    """A sheet of labels, as its packet states it."""

    paper: Paper = Paper.A4
    columns: Annotated[int, Field(ge=1, le=20)] = 3
    rows: Annotated[int, Field(ge=1, le=60)] = 7
    width_mm: Annotated[float, Field(ge=10, le=300)] = 63.5
    height_mm: Annotated[float, Field(ge=6, le=300)] = 33.9
    left_mm: Millimetres = 7.2
    top_mm: Millimetres = 12.9
    gap_x_mm: Millimetres = 2.5
    gap_y_mm: Millimetres = 0.0
    first: Annotated[int, Field(ge=1, le=1200)] = 1
    """Label of the first sheet that is still there, counted row by row."""

    @model_validator(mode="after")
    def _fits(self) -> Self:
        width, height = _SIZE_MM[self.paper]
        across = self.left_mm + self.columns * self.width_mm + (self.columns - 1) * self.gap_x_mm
        down = self.top_mm + self.rows * self.height_mm + (self.rows - 1) * self.gap_y_mm
        if across > width + _SLACK_MM:
            raise BadInput(
                f"{self.columns} labels with their margin and gaps are {across:.1f} mm wide, the paper {width:g} mm: "
                "correct the width, the margin or the columns.",
                "columns",
            )
        if down > height + _SLACK_MM:
            raise BadInput(
                f"{self.rows} labels with their margin and gaps are {down:.1f} mm high, the paper {height:g} mm: "
                "correct the height, the margin or the rows.",
                "rows",
            )
        if self.first > self.rows * self.columns:
            raise BadInput(f"A sheet has {self.rows * self.columns} labels: begin at one of them.", "first")
        return self

    @property
    def size_mm(self) -> tuple[float, float]:
        """Width and height of the paper."""
        return _SIZE_MM[self.paper]


class _Place(NamedTuple):
    left: float
    top: float


def label_pages(labels: tuple[Label, ...], grid: LabelGrid) -> tuple[str, ...]:
    """The pages as SVG, in millimetres; none without labels."""
    slots = (*((None,) * (grid.first - 1)), *labels) if labels else ()
    count = grid.rows * grid.columns
    return tuple(_page(slots[begin : begin + count], grid) for begin in range(0, len(slots), count))


def label_html(pages: tuple[str, ...], grid: LabelGrid) -> str:
    """The pages as a document to print, edge to edge: the printer has to be told not to scale it."""
    width, height = grid.size_mm
    body = "".join(f'<div class="page">{page}</div>' for page in pages)
    return (
        '<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Labels</title><style>'
        f"{font_faces()}@page{{size:{width}mm {height}mm;margin:0}}body{{margin:0}}"
        f".page{{break-after:page;height:{height}mm}}"
        ".page:last-child{break-after:auto}svg{display:block}</style></head>"
        f"<body>{body}</body></html>"
    )


def _page(slots: tuple[Label | None, ...], grid: LabelGrid) -> str:
    width, height = grid.size_mm
    drawn = "".join(_label(label, _place(number, grid), grid) for number, label in enumerate(slots) if label)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}mm" height="{height}mm" viewBox="0 0 {width} {height}" '
        f'role="img" aria-label="Labels" font-family="Sheet, Atkinson Hyperlegible Next, sans-serif">{drawn}</svg>'
    )


def _place(number: int, grid: LabelGrid) -> _Place:
    row, column = divmod(number, grid.columns)
    return _Place(
        grid.left_mm + column * (grid.width_mm + grid.gap_x_mm), grid.top_mm + row * (grid.height_mm + grid.gap_y_mm)
    )


def _label(label: Label, place: _Place, grid: LabelGrid) -> str:
    return "".join(_lines(label, place, grid))


def _lines(label: Label, place: _Place, grid: LabelGrid) -> Iterator[str]:
    """Three parts that share the height: the name, the figure twice as high, what it holds with."""
    room = grid.height_mm - 2 * _EDGE_MM
    top = place.top + _EDGE_MM
    for words, share, weight in ((label.name, 0.25, 400), (label.figure, 0.5, 700), (label.told, 0.25, 400)):
        high = room * share
        yield from _text(words, _Place(place.left + _EDGE_MM, top), (grid.width_mm - 2 * _EDGE_MM, high), weight)
        top += high


def _text(words: str, place: _Place, room: tuple[float, float], weight: int) -> Iterator[str]:
    """Words as large as their room allows, on several lines where need be; cut where even the smallest don't fit."""
    width, high = room
    size = min(_LARGEST_MM, high / _LEADING)
    while size > _SMALLEST_MM:
        lines = _wrapped(words, width, size, weight)
        if len(lines) * _LEADING * size <= high and max(map(len, lines)) <= _letters(width, size, weight):
            break
        size *= _SMALLER
    size = max(size, _SMALLEST_MM)
    lines = _wrapped(words, width, size, weight)
    shown = lines[: max(1, int(high / (_LEADING * size)))]
    if len(shown) < len(lines):
        shown[-1] = f"{shown[-1][: _letters(width, size, weight) - 1]}…"
    for number, line in enumerate(shown):
        base = place.top + (number + _BASELINE) * _LEADING * size
        yield (
            f'<text x="{place.left:.2f}" y="{base:.2f}" font-size="{size:.2f}" font-weight="{weight}">'
            f"{escape(line)}</text>"
        )


def _wrapped(words: str, width: float, size: float, weight: int) -> list[str]:
    return textwrap.wrap(words, _letters(width, size, weight)) or [""]


def _letters(width: float, size: float, weight: int) -> int:
    """How many letters of a size fit a line."""
    return max(1, int(width / (_LETTER_WIDTH[weight] * size)))
