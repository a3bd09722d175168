"""The source point that a reading of volume steps was taken at."""

from upper_rook.core.run.readings.points import OutputPoint
from upper_rook.core.run.readings.records import Reading
from upper_rook.core.run.readings.step_keys import is_of_second_tone
from upper_rook.core.system.clean_maxima import SourcePoint


def source_point_of(reading: Reading) -> SourcePoint | None:
    """Its output, side and way; with the tone where that is the second of two. None for a reading elsewhere."""
    point = reading.point
    if not isinstance(point, OutputPoint):
        return None
    second = is_of_second_tone(reading.step) and reading.tone is not None
    return SourcePoint(
        source=point.source,
        output=point.output,
        side=point.side,
        way=reading.circumstances.way,
        tone_hz=reading.tone.frequency_hz if second and reading.tone else None,
    )
