"""Labels on a sheet of any grid: rows and columns, margins, sizes and gaps in millimetres; as SVG, page by page."""

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
_LARGEST_MM, _SMALLEST_MM = 9.0, 1.6
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
    """Three lines that share the height: the name, the figure twice as high, what it holds with."""
    room = grid.height_mm - 2 * _EDGE_MM
    base = place.top + _EDGE_MM
    for words, share, weight in ((label.name, 0.25, 400), (label.figure, 0.5, 700), (label.told, 0.25, 400)):
        line = room * share
        base += line
        yield _text(
            words, place.left + _EDGE_MM, base - 0.22 * line, (grid.width_mm - 2 * _EDGE_MM, 0.78 * line), weight
        )


def _text(words: str, x: float, y: float, room: tuple[float, float], weight: int) -> str:
    """A line as large as its room allows, cut only where even the smallest letters don't fit."""
    width, highest = room
    each = _LETTER_WIDTH[weight]
    size = max(_SMALLEST_MM, min(_LARGEST_MM, highest, width / (each * max(1, len(words)))))
    longest = max(1, int(width / (each * size)))
    shown = words if len(words) <= longest else f"{words[: longest - 1]}…"
    return f'<text x="{x:.2f}" y="{y:.2f}" font-size="{size:.2f}" font-weight="{weight}">{escape(shown)}</text>'
