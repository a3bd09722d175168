"""A job with everything that belongs to it, as it goes from one installation to another."""

from collections.abc import Sequence
from typing import Any, Literal, Self
from uuid import UUID

from pydantic import Field, model_validator

from upper_rook.core.common.changes import Change
from upper_rook.core.common.moments import Moment
from upper_rook.core.common.units import Frozen, Name
from upper_rook.core.run.readings.kept_captures import Capture
from upper_rook.core.run.readings.photos import MOST_PHOTOS, Photo
from upper_rook.core.run.readings.records import Mark, Reading, Version
from upper_rook.core.system.job_sheet import JobSheet

FORMAT: Literal[1] = 1


class ArchivedSheet(Frozen):
    """One version of the sheet."""

    version: Version
    sheet: JobSheet
    changes: tuple[Change, ...]
    by: Name
    saved_at: Moment


class ArchivedCapture(Capture):
    """A capture and where its file is in the archive."""

    file: str
    digest: str
    """SHA-256 of the file."""


class ArchivedJob(Frozen):
    """A job as it goes from one installation to another. Records are in the order of arrival."""

    format: Literal[1] = FORMAT
    app: str
    """Version of the app that wrote it."""
    id: UUID
    created_at: Moment
    sheets: tuple[ArchivedSheet, ...] = Field(min_length=1)
    readings: tuple[Reading, ...] = ()
    marks: tuple[Mark, ...] = ()
    captures: tuple[ArchivedCapture, ...] = ()
    photos: tuple[Photo, ...] = Field(default=(), max_length=MOST_PHOTOS)
    """Their files stand in `photos/`, by their ids."""
    bench: dict[str, Any] | None = None

    @model_validator(mode="after")
    def _whole(self) -> Self:
        versions = [sheet.version for sheet in self.sheets]
        if versions != list(range(1, len(versions) + 1)):
            raise ValueError("a job’s sheets are its versions from 1 on, each once")
        if any(record.sheet_version > len(versions) for kind in (self.readings, self.marks) for record in kind):
            raise ValueError("a record belongs to a version of the sheet that isn’t here")
        if not {capture.reading_id for capture in self.captures} <= {None, *(reading.id for reading in self.readings)}:
            raise ValueError("a capture belongs to a reading that isn’t here")
        if len(self.record_ids) < sum(len(kind) for kind in self._kinds):
            raise ValueError("an id is there twice")
        return self

    @property
    def record_ids(self) -> set[UUID]:
        """Every id that it brings besides its own."""
        return {record.id for kind in self._kinds for record in kind}

    @property
    def _kinds(self) -> tuple[Sequence[Reading | Mark | ArchivedCapture | Photo], ...]:
        return self.readings, self.marks, self.captures, self.photos


def file_place(capture: Capture) -> str:
    """Where a capture's file stands in the archive; its own name may hold anything."""
    plain = "".join(text if text.isalnum() or text in " .-_" else "_" for text in capture.name).strip(" .")
    return f"files/{capture.id}/{plain or 'capture'}"


def photo_place(photo: UUID, *, small: bool) -> str:
    """Where a photo's file stands in the archive, or that of its small copy."""
    return f"photos/{photo}{'-small' if small else ''}.jpg"
