"""The tables. They don't validate; everything that reaches them has passed a core model."""

from datetime import UTC, date, datetime
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import BigInteger, Column, DateTime, ForeignKey, Index, LargeBinary, Sequence, String, text
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


class SigningKeyRow(SQLModel, table=True):
    """A key that archives of this installation were signed with, its public half: it goes along in backups."""

    __tablename__ = "signing_key"
    public: bytes = Field(sa_column=Column(LargeBinary, primary_key=True))
    """Ed25519, 32 bytes."""
    since: datetime = _moment()


class SigningSecretRow(SQLModel, table=True):
    """The private half of the key that signs now. It leaves the installation in no backup."""

    __tablename__ = "signing_secret"
    public: bytes = Field(
        sa_column=Column(LargeBinary, ForeignKey("signing_key.public", ondelete="CASCADE"), primary_key=True)
    )
    private: bytes = Field(sa_column=Column(LargeBinary, nullable=False))


class RunningDayRow(SQLModel, table=True):
    """A day on which the app ran, by the machine's clock."""

    __tablename__ = "running_day"
    day: date = Field(primary_key=True)


class TakenInRow(SQLModel, table=True):
    """The job that an archive became, by the id that its sender gave the sending."""

    __tablename__ = "taken_in"
    sending: UUID = Field(primary_key=True)
    job_id: UUID = Field(foreign_key="job.id", ondelete="CASCADE", index=True)
    at: datetime = _moment()
    by: str = Field(default="", sa_column_kwargs={"server_default": ""})
    """Person who brought it in."""
    records: int = Field(default=0, sa_column=Column(BigInteger, nullable=False, server_default="0"))
    """Arrival of the last record that came with it."""
    versions: int = Field(default=0, sa_column_kwargs={"server_default": "0"})
    """Versions of the sheet that came with it."""
    signer: bytes | None = Field(default=None, sa_column=Column(LargeBinary, nullable=True))
    """Public key that the file was signed with; None for a file without a signature."""


class SheetFormatRow(SQLModel, table=True):
    """The least version of the app that reads sheets of a format."""

    __tablename__ = "sheet_format"
    format: int = Field(primary_key=True)
    least_version: str


class JobRow(SQLModel, table=True):
    """
    A job; its sheet is the newest of its versions.

    Its row in a list is kept beside it: `words` with every edit of the sheet, the rest worked out again while
    `summed_up` isn't `changes`.
    """

    __tablename__ = "job"
    __table_args__ = (
        Index("job_by_change", text("changed_at desc"), text("id desc")),
        Index("job_words", "words", postgresql_using="gin", postgresql_ops={"words": "gin_trgm_ops"}),
        Index("job_due", "due_on", postgresql_where=text("due_on is not null")),
        Index("job_not_summed_up", "changed_at", postgresql_where=text("summed_up <> changes")),
    )
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    version: int
    created_at: datetime = _moment()
    changed_at: datetime = _moment()
    changes: int = Field(default=1, sa_column=Column(BigInteger, nullable=False, server_default="1"))
    """Counts what could change the job's state."""
    vehicle: str = Field(default="", sa_column_kwargs={"server_default": ""})
    note: str = Field(default="", sa_column_kwargs={"server_default": ""})
    words: str = Field(default="", sa_column_kwargs={"server_default": ""})
    """Words it is found by, folded."""
    practice: bool = Field(default=False, sa_column_kwargs={"server_default": "false"})
    summed_up: int = Field(default=0, sa_column=Column(BigInteger, nullable=False, server_default="0"))
    """Value of `changes` when the following was worked out."""
    stands: str = Field(default="", sa_column_kwargs={"server_default": ""})
    summary: dict[str, Any] | None = Field(default=None, sa_column=Column(JSONB(none_as_null=True)))
    archived_at: datetime | None = _when()
    deleted_at: datetime | None = _when()
    due_on: date | None = None
    """The day that the vehicle was promised for, while it is here."""


class CustomerRow(SQLModel, table=True):
    """The customer of a job. Personal: it leaves in backups only, never in an archive."""

    __tablename__ = "customer"
    __table_args__ = (
        Index("customer_words", "words", postgresql_using="gin", postgresql_ops={"words": "gin_trgm_ops"}),
    )
    job_id: UUID = Field(foreign_key="job.id", ondelete="CASCADE", primary_key=True)
    version: int
    customer: dict[str, Any] = _document()
    words: str
    """Words it is found by, folded."""
    by: str
    changed_at: datetime = _moment()


class CustomerTakenOutRow(SQLModel, table=True):
    """A job whose customer was taken out: an older backup that is put back brings none again."""

    __tablename__ = "customer_taken_out"
    job_id: UUID = Field(primary_key=True)
    at: datetime = _moment()


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
    """A capture and its result. Only its name, what it is attached to and `struck` ever change."""

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


class PhotoRow(SQLModel, table=True):
    """A photo. Its caption, its place and what is drawn on it change, each time with its revision."""

    __tablename__ = "photo"
    __table_args__ = (Index("photo_of_job", "job_id", "arrival"),)
    id: UUID = Field(primary_key=True)
    job_id: UUID = Field(foreign_key="job.id")
    name: str
    part: str | None = None
    step: str | None = None
    width: int
    height: int
    size: int
    digest: str
    small_digest: str
    sent_digest: str
    drawn: list[Any] = _document()
    revision: int
    taken_at: datetime = Field(sa_type=DateTime(timezone=True))
    by: str
    device: UUID | None = None
    sequence: int | None = _sequence()
    arrival: int = _arrival()
    saved_at: datetime = _moment()


class PhotoFileRow(SQLModel, table=True):
    """A photo and its small copy, both JPEG."""

    __tablename__ = "photo_file"
    photo_id: UUID = Field(foreign_key="photo.id", primary_key=True)
    full: bytes
    small: bytes


class SourceSheetRow(SQLModel, table=True):
    """A source sheet of the shop's library, with what the list shows of it and finds it by."""

    __tablename__ = "source_sheet"
    __table_args__ = (
        Index("source_sheet_by_change", text("changed_at desc"), text("id desc")),
        Index("source_sheet_words", "words", postgresql_using="gin", postgresql_ops={"words": "gin_trgm_ops"}),
    )
    id: UUID = Field(primary_key=True)
    version: int
    sheet: dict[str, Any] = _document()
    name: str
    kind: str
    words: str
    """Words it is found by, folded."""
    least_v: float | None = None
    """The lowest and the highest clean volts of its line outputs, or of all where it has none."""
    most_v: float | None = None
    units: int
    measured_on: date | None = None
    created_at: datetime = _moment()
    changed_at: datetime = _moment()
    deleted_at: datetime | None = _when()


class ShopPartRow(SQLModel, table=True):
    """A part of the shop's library, with what the list shows of it and finds it by."""

    __tablename__ = "shop_part"
    __table_args__ = (
        Index("shop_part_by_change", text("changed_at desc"), text("id desc")),
        Index("shop_part_words", "words", postgresql_using="gin", postgresql_ops={"words": "gin_trgm_ops"}),
    )
    id: UUID = Field(primary_key=True)
    version: int
    sheet: dict[str, Any] = _document()
    name: str
    kind: str
    words: str
    """Words it is found by, folded."""
    units: int
    measured_on: date | None = None
    created_at: datetime = _moment()
    changed_at: datetime = _moment()
    deleted_at: datetime | None = _when()


class PersonRow(SQLModel, table=True):
    """Somebody who works here, or did."""

    __tablename__ = "person"
    __table_args__ = (Index("person_name", "folded", unique=True, postgresql_where=text("gone_at is null")),)
    id: UUID = Field(primary_key=True)
    name: str
    folded: str
    """The name as it is compared."""
    role: str
    created_at: datetime = _moment()
    gone_at: datetime | None = _when()


class PasswordRow(SQLModel, table=True):
    """Somebody's password, as a hash; apart from the person, so that no backup holds it."""

    __tablename__ = "password"
    person_id: UUID = Field(foreign_key="person.id", ondelete="CASCADE", primary_key=True)
    hash: str


class TrailSeenRow(SQLModel, table=True):
    """How far somebody has seen the acts that opened a way in."""

    __tablename__ = "trail_seen"
    person_id: UUID = Field(foreign_key="person.id", ondelete="CASCADE", primary_key=True)
    number: int = Field(sa_type=BigInteger)


class PasskeyRow(SQLModel, table=True):
    """The public half of a key that somebody's device keeps (WebAuthn)."""

    __tablename__ = "passkey"
    id: bytes = Field(primary_key=True)
    person_id: UUID = Field(foreign_key="person.id", ondelete="CASCADE", index=True)
    public_key: bytes
    uses: int = Field(sa_column=Column(BigInteger, nullable=False))
    """The key's own counter: one that goes back has been copied."""
    name: str
    created_at: datetime = _moment()
    used_at: datetime | None = _when()


class ChallengeRow(SQLModel, table=True):
    """Challenge for a passkey to sign, once, within minutes."""

    __tablename__ = "challenge"
    challenge: bytes = Field(primary_key=True)
    device_id: UUID = Field(foreign_key="device.id", ondelete="CASCADE")
    person_id: UUID | None = Field(default=None, foreign_key="person.id", ondelete="CASCADE")
    """For whom a new key is made; None to sign in with one."""
    ends_at: datetime = Field(sa_type=DateTime(timezone=True))


class DeviceRow(SQLModel, table=True):
    """A phone, tablet or computer that was let onto the workshop's app."""

    __tablename__ = "device"
    id: UUID = Field(primary_key=True)
    token: bytes = Field(unique=True)
    """Its digest."""
    name: str
    locks_after_min: int | None = None
    """Minutes without a touch after which it locks itself; None where it is one person's own."""
    paired_at: datetime = _moment()
    seen_at: datetime = _moment()


class PinRow(SQLModel, table=True):
    """A short number by which somebody comes in on one device only."""

    __tablename__ = "pin"
    person_id: UUID = Field(foreign_key="person.id", ondelete="CASCADE", primary_key=True)
    device_id: UUID = Field(foreign_key="device.id", ondelete="CASCADE", primary_key=True)
    hash: str
    tries: int = 0
    """Wrong ones since the last right one."""


class LinkRow(SQLModel, table=True):
    """A link that works once: for somebody new, for a new password, or for a device alone."""

    __tablename__ = "link"
    token: bytes = Field(primary_key=True)
    """Its digest: what is kept opens nothing."""
    role: str | None = None
    person_id: UUID | None = Field(default=None, foreign_key="person.id", ondelete="CASCADE")
    ends_at: datetime = Field(sa_type=DateTime(timezone=True))
    used_at: datetime | None = _when()


class SignedInRow(SQLModel, table=True):
    """Somebody signed in on a device."""

    __tablename__ = "signed_in"
    id: UUID = Field(primary_key=True)
    token: bytes = Field(unique=True)
    """Its digest."""
    former: bytes | None = Field(default=None, index=True)
    """The one before, which is taken for a moment longer: requests may be under way with it."""
    person_id: UUID = Field(foreign_key="person.id", ondelete="CASCADE", index=True)
    device_id: UUID = Field(foreign_key="device.id", ondelete="CASCADE", index=True)
    began_at: datetime = _moment()
    renewed_at: datetime = _moment()
    seen_at: datetime = _moment()
    proved_at: datetime = _moment()
    """When its person last typed a password or PIN, or signed in."""
    touched_at: datetime = _moment()
    """When the device was last touched, by its page."""
    locked_at: datetime | None = _when()


class KnockRow(SQLModel, table=True):
    """A try at the door that failed: by name, and by address."""

    __tablename__ = "knock"
    __table_args__ = (Index("knock_what", "what", "at"),)
    id: UUID = Field(primary_key=True, default_factory=uuid4)
    what: str
    at: datetime = _moment()


class SignOffRow(SQLModel, table=True):
    """That somebody answered for a job as it stood. Nothing of it ever changes."""

    __tablename__ = "sign_off"
    __table_args__ = (Index("sign_off_of_job", "job_id", "at"),)
    id: UUID = Field(primary_key=True)
    job_id: UUID = Field(foreign_key="job.id")
    by: str
    changes: int = Field(sa_column=Column(BigInteger, nullable=False))
    """The job's `changes` then: with another number it has changed since."""
    note: str = ""
    covers: str = Field(default="", sa_column=Column(String, nullable=False, server_default=""))
    """The version, readings and recordings that counted then, in words."""
    at: datetime = _moment()


class PresentRow(SQLModel, table=True):
    """A device on which a run is open."""

    __tablename__ = "present"
    job_id: UUID = Field(foreign_key="job.id", primary_key=True)
    device_id: UUID = Field(foreign_key="device.id", ondelete="CASCADE", primary_key=True)
    person_id: UUID
    who: str
    step: str
    row: str | None = None
    """Reading of the step that is at hand, where there are several."""
    works: bool
    """Whether its person's role may hold a run."""
    holds: bool = False
    asked_at: datetime | None = _when()
    """Since when it asks for the run."""
    seen_at: datetime = _moment()


class OfferRow(SQLModel, table=True):
    """A reading from a device that doesn't hold the run, until it is taken or left."""

    __tablename__ = "offer"
    __table_args__ = (Index("offer_of_job", "job_id", "at"),)
    id: UUID = Field(primary_key=True)
    job_id: UUID = Field(foreign_key="job.id")
    who: str
    reading: dict[str, Any] = _document()
    at: datetime = _moment()
    settled_at: datetime | None = _when()
    """When it was taken or left; kept, so that one that is sent again isn't offered again."""
