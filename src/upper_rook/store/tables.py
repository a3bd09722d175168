"""The tables. They don't validate; everything that reaches them has passed a core model."""

from datetime import UTC, datetime
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import Column, DateTime, Index
from sqlalchemy.dialects.postgresql import JSONB
from sqlmodel import Field, SQLModel


def _now() -> datetime:
    return datetime.now(UTC)


def _moment() -> Any:
    return Field(default_factory=_now, sa_type=DateTime(timezone=True))


def _document() -> Any:
    return Field(sa_column=Column(JSONB, nullable=False))


class JobRow(SQLModel, table=True):
    """A job; its sheet is the newest of its versions."""

    __tablename__ = "job"
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    version: int
    created_at: datetime = _moment()
    changed_at: datetime = _moment()


class SheetRow(SQLModel, table=True):
    """One version of a job's sheet: who, when, what changed."""

    __tablename__ = "sheet"
    job_id: UUID = Field(foreign_key="job.id", primary_key=True)
    version: int = Field(primary_key=True)
    sheet: dict[str, Any] = _document()
    changes: list[dict[str, Any]] = _document()
    by: str
    saved_at: datetime = _moment()


class ReadingRow(SQLModel, table=True):
    """A reading. Only `struck` ever changes."""

    __tablename__ = "reading"
    __table_args__ = (Index("reading_of_job", "job_id", "taken_at"),)
    id: UUID = Field(primary_key=True)
    job_id: UUID = Field(foreign_key="job.id")
    step: str
    quantity: str
    value: float
    uncertainty: float | None
    instrument: str
    point: dict[str, Any] = _document()
    circumstances: dict[str, Any] = _document()
    seen: str
    evidence: str | None = None
    builds_on: list[str] | None = Field(default=None, sa_column=Column(JSONB(none_as_null=True)))
    sheet_version: int
    taken_at: datetime = Field(sa_type=DateTime(timezone=True))
    by: str
    struck: str | None = None
    saved_at: datetime = _moment()


class MarkRow(SQLModel, table=True):
    """A mark. Only `struck` ever changes."""

    __tablename__ = "mark"
    __table_args__ = (Index("mark_of_job", "job_id", "taken_at"),)
    id: UUID = Field(primary_key=True)
    job_id: UUID = Field(foreign_key="job.id")
    step: str
    item: str | None
    answer: str | None
    basis: str | None
    volume: int | None
    outcome: str | None
    skipped: bool
    note: str
    sheet_version: int
    taken_at: datetime = Field(sa_type=DateTime(timezone=True))
    by: str
    struck: str | None = None
    saved_at: datetime = _moment()


class BenchRow(SQLModel, table=True):
    """The simulated bench of a job, as its knobs stand."""

    __tablename__ = "bench"
    job_id: UUID = Field(foreign_key="job.id", primary_key=True)
    state: dict[str, Any] = _document()


class CaptureRow(SQLModel, table=True):
    """A capture and what it came to. Only what it is attached to and `struck` ever change."""

    __tablename__ = "capture"
    __table_args__ = (Index("capture_of_job", "job_id", "taken_at"),)
    id: UUID = Field(primary_key=True)
    job_id: UUID = Field(foreign_key="job.id")
    name: str
    kind: str
    headline: str
    size: int
    digest: str
    full_scale_v: float | None
    expect_hz: float | None
    examination: dict[str, Any] = _document()
    reading_id: UUID | None = Field(default=None, foreign_key="reading.id")
    taken_at: datetime = Field(sa_type=DateTime(timezone=True))
    by: str
    struck: str | None = None
    saved_at: datetime = _moment()


class CapturePartRow(SQLModel, table=True):
    """A piece of a capture's file, unchanged."""

    __tablename__ = "capture_part"
    capture_id: UUID = Field(foreign_key="capture.id", primary_key=True)
    number: int = Field(primary_key=True)
    data: bytes
