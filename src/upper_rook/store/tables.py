"""The tables. They don't validate; everything that reaches them has passed a core model."""

from datetime import UTC, datetime
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import BigInteger, Column, DateTime, Index, Sequence, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlmodel import Field, SQLModel


def _now() -> datetime:
    return datetime.now(UTC)


def _moment() -> Any:
    return Field(default_factory=_now, sa_type=DateTime(timezone=True))


def _document() -> Any:
    return Field(sa_column=Column(JSONB, nullable=False))


ARRIVALS = Sequence("arrival", metadata=SQLModel.metadata, data_type=BigInteger)
"""Numbers every record as it comes; the clocks of devices order nothing."""


def _arrival() -> Any:
    return Field(
        default=0, sa_column=Column(BigInteger, ARRIVALS, server_default=ARRIVALS.next_value(), nullable=False)
    )


def _sequence() -> Any:
    return Field(default=None, sa_column=Column(BigInteger, nullable=True))


def _when() -> Any:
    return Field(default=None, sa_type=DateTime(timezone=True))


class InstallationRow(SQLModel, table=True):
    """The one row that says which installation this database is."""

    __tablename__ = "installation"
    id: UUID = Field(primary_key=True)


class SheetFormatRow(SQLModel, table=True):
    """The least version of the app that reads sheets of a format."""

    __tablename__ = "sheet_format"
    format: int = Field(primary_key=True)
    least_version: str


class JobRow(SQLModel, table=True):
    """
    A job; its sheet is the newest of its versions.

    What a list shows of it is kept beside it: `words` with every edit of the sheet, the rest worked out again while
    `summed_up` isn't `changes`.
    """

    __tablename__ = "job"
    __table_args__ = (
        Index("job_by_change", text("changed_at desc"), text("id desc")),
        Index("job_words", "words", postgresql_using="gin", postgresql_ops={"words": "gin_trgm_ops"}),
        Index("job_not_summed_up", "changed_at", postgresql_where=text("summed_up <> changes")),
    )
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    version: int
    created_at: datetime = _moment()
    changed_at: datetime = _moment()
    changes: int = Field(default=1, sa_column=Column(BigInteger, nullable=False, server_default="1"))
    """Counts what could change how the job stands."""
    vehicle: str = Field(default="", sa_column_kwargs={"server_default": ""})
    note: str = Field(default="", sa_column_kwargs={"server_default": ""})
    words: str = Field(default="", sa_column_kwargs={"server_default": ""})
    """What it is found by, folded."""
    summed_up: int = Field(default=0, sa_column=Column(BigInteger, nullable=False, server_default="0"))
    """What `changes` was when the following was worked out."""
    stands: str = Field(default="", sa_column_kwargs={"server_default": ""})
    summary: dict[str, Any] | None = Field(default=None, sa_column=Column(JSONB(none_as_null=True)))
    archived_at: datetime | None = _when()
    deleted_at: datetime | None = _when()


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
    __table_args__ = (
        Index("reading_of_job", "job_id", "arrival"),
        Index("reading_of_device", "job_id", "device", "sequence"),
    )
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
    device: UUID | None = None
    sequence: int | None = _sequence()
    arrival: int = _arrival()
    struck: str | None = None
    saved_at: datetime = _moment()


class MarkRow(SQLModel, table=True):
    """A mark. Only `struck` ever changes."""

    __tablename__ = "mark"
    __table_args__ = (
        Index("mark_of_job", "job_id", "arrival"),
        Index("mark_of_device", "job_id", "device", "sequence"),
    )
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
    device: UUID | None = None
    sequence: int | None = _sequence()
    arrival: int = _arrival()
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
    __table_args__ = (Index("capture_of_job", "job_id", "arrival"),)
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
    device: UUID | None = None
    sequence: int | None = _sequence()
    arrival: int = _arrival()
    struck: str | None = None
    saved_at: datetime = _moment()


class CapturePartRow(SQLModel, table=True):
    """A piece of a capture's file, unchanged."""

    __tablename__ = "capture_part"
    capture_id: UUID = Field(foreign_key="capture.id", primary_key=True)
    number: int = Field(primary_key=True)
    data: bytes
