"""Readings that were only heard: the volts of a source are those of its rating then, within what ears are off."""

from collections.abc import Iterable

from upper_rook.core.common.units import from_db
from upper_rook.core.run.readings.points import OutputPoint
from upper_rook.core.run.readings.records import Quantity, Reading
from upper_rook.core.system.clean_maxima import PointCleanMaximum
from upper_rook.core.system.job_sheet import JobSheet

HEARD_DB = 2.0
"""A source that just turns harsh gives its rated volts within so much (common practice, no source)."""


def was_heard(readings: Iterable[Reading], taken: PointCleanMaximum | None) -> bool:
    """Whether a clean maximum was only heard: its volts are then those of a rating, which nobody measured."""
    records = taken.records if taken else ()
    return any(reading.id in records and reading.quantity is Quantity.VERDICT for reading in readings)


def with_rated_volts(sheet: JobSheet, readings: tuple[Reading, ...]) -> tuple[Reading, ...]:
    """Readings with the rated volts of their output where they were only heard; left out where no rating is known."""
    if not any(reading.quantity is Quantity.VERDICT for reading in readings):
        return readings
    rated = {(source.id, output.id): output.clean_v for source in sheet.chain.sources for output in source.outputs}
    found = []
    for reading in readings:
        point = reading.point
        if reading.quantity is not Quantity.VERDICT or not isinstance(point, OutputPoint):
            found.append(reading)
        elif volts := rated.get((point.source, point.output)):
            doubt = volts * (from_db(HEARD_DB) - 1)
            found.append(reading.model_copy(update={"value": volts, "uncertainty": doubt}))
    return tuple(found)
