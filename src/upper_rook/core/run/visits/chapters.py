"""Visits of a vehicle: each begins when it is back, and divides the records into those before and those since."""

from collections.abc import Iterable
from datetime import date
from uuid import UUID

from upper_rook.core.common.units import Frozen, Name
from upper_rook.core.run.readings.records import Answer, Mark, standing

CHECK_KEY, BACK, STILL_OFF = "check", "back", "speakers-off"
"""The step of a visit's check; its line that begins a visit; its line about the speakers."""


class Visit(Frozen):
    """A day that a finished vehicle came back."""

    id: UUID
    """Of the mark that began it."""
    number: int
    """1 for the first time that it came back."""
    day: date
    by: Name
    note: str
    """Complaint or reason, in the words it was written down with."""
    sheet_version: int
    """Version of the sheet as it came back."""
    arrival: int
    """Place of its beginning among all records."""


def visits_of(marks: Iterable[Mark]) -> tuple[Visit, ...]:
    """Every visit that stands, the first one first."""
    began = [mark for mark in standing(tuple(marks), CHECK_KEY) if mark.item == BACK and mark.answer is Answer.DONE]
    return tuple(
        Visit(
            id=mark.id,
            number=number,
            day=mark.taken_at.date(),
            by=mark.by,
            note=mark.note,
            sheet_version=mark.sheet_version,
            arrival=mark.arrival,
        )
        for number, mark in enumerate(began, 1)
    )
