"""How much a guessed volume number leaves unused."""

from upper_rook.core.common.units import format_db, ratio_db
from upper_rook.core.run.clean_maxima.source_points import source_point_of
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.system.clean_maxima import PointCleanMaximum
from upper_rook.core.system.clean_maximum import Basis
from upper_rook.core.system.source import Source

_NUMBER_DB = 1.0
"""A volume number, where nobody has read further up (common practice, no source)."""


def left_over(snapshot: JobSnapshot, source: Source, governing: PointCleanMaximum | None) -> str:
    """Decibels between a guessed number and the end of the scale, as far as they were read."""
    if governing is None or governing.clean_maximum.basis is not Basis.GUESS:
        return ""
    taken = governing.clean_maximum
    above = [
        reading
        for reading in snapshot.counted
        if reading.struck is None
        and source_point_of(reading) == governing.point
        and (reading.volume or 0) > taken.volume
    ]
    last = max(above, key=lambda reading: reading.volume or 0, default=None)
    read_db = ratio_db(last.value, taken.voltage_v) if last and last.value > 0 else 0.0
    rest = source.top_volume - ((last.volume if last else None) or taken.volume)
    if rest <= 0 and last is not None:
        return f"; the end of the scale gives {format_db(read_db)} more"
    return f"; to the end of the scale it is about {format_db(read_db + rest * _NUMBER_DB, 0)}"
