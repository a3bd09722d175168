"""The number never to pass: where the source is clean, and where what follows it is too."""

import math

from upper_rook.core.common.units import Frozen, format_db, format_hertz, ratio_db
from upper_rook.core.plan.figures import Figures
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.stages.levels import StageLevel
from upper_rook.core.system.clean_maxima import PointCleanMaximum
from upper_rook.core.system.source import Source

_TOLD_DB = 0.05
_NUMBER_DB = 1.0
"""A volume number, where nobody has read what it makes (common practice, no source)."""


class SafeVolume(Frozen):
    """A volume number and what keeps it there."""

    volume: int
    because: str = ""
    """Stage that clips above it before the source does; empty where the source is the first."""
    below_db: float = 0.0
    """How far below the source's own clean maximum that is."""


def safe_volume(snapshot: JobSnapshot, source: Source) -> SafeVolume | None:
    """
    The number to hand over for a source; None while its clean maximum isn't known.

    One that gives numbers alone has nothing to be measured and is clean to its top.
    """
    governing = snapshot.clean_maxima.governing(source.id)
    if governing is None and any(point.source.id == source.id for point in snapshot.asked):
        return None
    top = governing.clean_maximum.volume if governing else source.top_volume
    worst = max(_driven(snapshot, source.id), key=lambda driven: driven[1].overdriven_db, default=None)
    if worst is None or worst[1].overdriven_db < _TOLD_DB:
        return SafeVolume(volume=top, because="" if governing else "numbers are clean to the top of the scale")
    figures, stage = worst
    at = f" at {format_hertz(stage.overdriven_hz)}" if stage.overdriven_hz else ""
    name, path = stage.processor.name or "the processor", figures.path.name or "a path"
    volume, below_db = _below(governing, top, stage.overdriven_db)
    return SafeVolume(
        volume=volume,
        because=(
            f"above it {name}’s output for {path} clips{at}. Its gain {format_db(stage.overdriven_db)} down "
            "there would "
            f"raise it to {top}"
        ),
        below_db=below_db,
    )


def _driven(snapshot: JobSnapshot, source: str) -> list[tuple[Figures, StageLevel]]:
    """Every stage that is driven from the source, with its path."""
    own = [path.id for path in snapshot.sheet.chain.paths if path.source == source]
    found = [figures for path in own if (figures := snapshot.figures(path)) is not None]
    return [(figures, stage) for figures in found for stage in figures.levels.stages]


def _below(governing: PointCleanMaximum | None, top: int, less_db: float) -> tuple[int, float]:
    """The highest number at which the source gives so much less than at `top`, and how much less it gives there."""
    if governing is None:
        numbers = min(top - 1, math.ceil(less_db / _NUMBER_DB))
        return top - numbers, numbers * _NUMBER_DB
    full = governing.volts_at(top)
    volume = next((number for number in range(top, 1, -1) if ratio_db(full, governing.volts_at(number)) >= less_db), 1)
    return volume, ratio_db(full, governing.volts_at(volume))
