"""Every path of a job side by side, its stages as bars on one scale of dBV, as SVG for the sheet."""

from collections.abc import Callable, Iterator, Sequence
from html import escape
from math import ceil, floor

from upper_rook.core.common.units import ratio_db
from upper_rook.core.handover.document import Level, Levels

_WIDE, _TALL, _LEFT, _BELOW = 680.0, 170.0, 34.0, 20.0
_STEP_DB, _ROOM_DB, _LEAST_PATHS = 10, 6.0, 2
_LETTER, _NARROW = 5.4, 40.0
"""Width of a letter at 10 px; below so wide a column has no name in it."""
_Place = Callable[[float], float]
"""Height in the drawing of a level in dBV."""
_INK, _LIGHT, _LINE = "#111", "#ddd", "#bbb"


def overview_svg(paths: Sequence[Levels]) -> str:
    """
    Bars are levels while the gain is set, the lines above them clean maxima, each path's least headroom filled.

    Empty for less than two paths: the table says as much of one.
    """
    stages = [stage for path in paths for stage in path.stages]
    if len(paths) < _LEAST_PATHS or not stages:
        return ""
    lowest = _STEP_DB * floor(min(_dbv(stage.level_v) for stage in stages) / _STEP_DB) - _ROOM_DB
    highest = _STEP_DB * ceil(max(_dbv(stage.clean_maximum_v) for stage in stages) / _STEP_DB)
    column = (_WIDE - _LEFT) / len(paths)

    def y(dbv: float) -> float:
        return (_TALL - _BELOW) * (highest - dbv) / (highest - lowest) + 6

    drawn = [*_scale(int(lowest + _ROOM_DB), int(highest), y)]
    for number, path in enumerate(paths):
        drawn += _column(path, _LEFT + number * column, column, y)
    words = "; ".join(f"{path.path}: least headroom at {_least(path.stages).stage}" for path in paths if path.stages)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {_WIDE:g} {_TALL + 4:g}" width="100%" role="img" '
        f'font-family="Sheet, sans-serif" font-size="10"><title>Levels in dBV. {escape(words)}</title>'
        f"{''.join(drawn)}</svg>"
    )


def _scale(lowest: int, highest: int, y: _Place) -> Iterator[str]:
    for dbv in range(lowest, highest + 1, _STEP_DB):
        height = f"{y(dbv):.1f}"
        yield f'<line x1="{_LEFT:g}" x2="{_WIDE:g}" y1="{height}" y2="{height}" stroke="{_LINE}" stroke-width="0.6"/>'
        yield f'<text x="{_LEFT - 4:g}" y="{y(dbv) + 3.5:.1f}" text-anchor="end">{str(dbv).replace("-", "−")}</text>'
    yield f'<text x="0" y="{_TALL:g}">dBV</text>'


def _column(path: Levels, x: float, width: float, y: _Place) -> Iterator[str]:
    floor_y, bar = _TALL - _BELOW + 6, 0.84 * width / max(1, len(path.stages))
    least = _least(path.stages) if path.stages else None
    for number, stage in enumerate(path.stages):
        left, top, clean = x + number * bar, y(_dbv(stage.level_v)), y(_dbv(stage.clean_maximum_v))
        fill = _INK if stage is least else _LIGHT
        yield (
            f'<rect x="{left:.1f}" y="{top:.1f}" width="{0.9 * bar:.1f}" height="{floor_y - top:.1f}" fill="{fill}" '
            f'stroke="{_INK}" stroke-width="0.5"/>'
            f'<line x1="{left:.1f}" x2="{left + 0.9 * bar:.1f}" y1="{clean:.1f}" y2="{clean:.1f}" stroke="{_INK}" '
            'stroke-width="1.8"/>'
        )
    if width >= _NARROW:
        letters = int(width / _LETTER)
        name = path.path if len(path.path) <= letters else f"{path.path[: letters - 1]}…"
        yield f'<text x="{x:.1f}" y="{_TALL:g}" font-weight="700">{escape(name)}</text>'


def _least(stages: Sequence[Level]) -> Level:
    return min(stages, key=lambda stage: stage.headroom_db)


def _dbv(volts: float) -> float:
    return ratio_db(volts, 1.0)
