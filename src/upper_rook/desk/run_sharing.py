"""
One run on several devices: one holds it, the others follow.

The first to come holds it; it is handed over, or taken over where nobody answers. It is an agreement between screens:
a reading that was taken while its device held the run is kept, however late it arrives.
"""

from datetime import UTC, datetime, timedelta
from enum import StrEnum
from typing import NamedTuple
from uuid import UUID

from sqlmodel import Session

from upper_rook.core.common.errors import Conflict
from upper_rook.core.common.units import Frozen
from upper_rook.core.run.readings.records import NewReading, Reading
from upper_rook.desk import records
from upper_rook.desk.transaction import transaction
from upper_rook.store import jobs, run_sharing
from upper_rook.store.people import Person
from upper_rook.store.run_sharing import OfferedReading
from upper_rook.store.tables import PresentRow

UNANSWERED = timedelta(seconds=15)
"""So long whoever holds the run may take to answer one who asks for it."""


class Here(NamedTuple):
    """Whose screen it is, and on which device."""

    person: Person
    device: UUID
    called: str
    """Name of the device."""

    @property
    def who(self) -> str:
        """As the others see it."""
        return f"{self.person.name}, {self.called}" if self.called else self.person.name


class Place(NamedTuple):
    """Where in the run a screen is."""

    step: str
    row: str | None = None


class Wish(StrEnum):
    """Wish of a device about the run."""

    ASK = "ask"
    HAND_OVER = "hand_over"
    """To the one that asked first, else to another that works."""
    KEEP = "keep"
    """Not handed over now."""
    TAKE = "take"


class Present(Frozen):
    """A device on which the run is open."""

    device: UUID
    who: str
    step: str
    row: str | None
    """Reading of the step that is at hand there, where there are several."""
    works: bool
    """Whether it may hold the run."""
    holds: bool
    asks: bool


class Together(Frozen):
    """People at a run, and the offers."""

    present: tuple[Present, ...]
    may_take: bool
    """Whether this device may take the run over: it is the same person's, or nobody answered."""
    offers: tuple[OfferedReading, ...]


def be_there(session: Session, job_id: UUID, me: Here, at: Place, *, works: bool) -> Together:
    """
    A sign that a device is there, at a step and one of its readings; the first that `works` holds the run.

    Raises NotFound without such a job.
    """
    seen = PresentRow(
        job_id=job_id,
        device_id=me.device,
        person_id=me.person.id,
        who=me.who,
        step=at.step,
        row=at.row,
        works=works,
    )
    with transaction(session):
        if not run_sharing.sign(session, seen):
            _arrive(session, seen)
        return _told(session, job_id, me, run_sharing.present(session, job_id))


def look_on(session: Session, job_id: UUID, me: Here, at: Place) -> Together:
    """The same of a page that only shows the run; where its device is at work there too, that counts."""
    rows = run_sharing.present(session, job_id)
    if any(row.device_id == me.device and row.works for row in rows):
        return _told(session, job_id, me, rows)
    return be_there(session, job_id, me, at, works=False)


def _arrive(session: Session, seen: PresentRow) -> None:
    """Changes for the others: a person came, went on to another step, or holds the run now."""
    jobs.need_job(session, seen.job_id)
    run_sharing.lock(session, seen.job_id)
    run_sharing.end_gone(session, seen.job_id)
    mine = session.merge(seen)
    rows = run_sharing.present(session, seen.job_id)
    mine.holds = seen.works and (mine.holds or not any(row.holds for row in rows if row is not mine))
    if mine.holds:
        mine.asked_at = None
    session.flush()
    run_sharing.tell(session, seen.job_id)


def leave(session: Session, job_id: UUID, device: UUID, *, looks_on: bool = False) -> None:
    """A device that looks elsewhere; who follows may hold the run. One that only looked on leaves its work there."""
    with transaction(session):
        run_sharing.leave(session, job_id, device, looks_on=looks_on)
        run_sharing.tell(session, job_id)


def wish(session: Session, job_id: UUID, me: Here, wanted: Wish) -> Together:
    """
    Asks for a run, hands it over, keeps it or takes it over.

    Raises Conflict where that isn't this device's to do, or not yet.
    """
    with transaction(session):
        run_sharing.lock(session, job_id)
        rows = run_sharing.present(session, job_id)
        mine = next((row for row in rows if row.device_id == me.device), None)
        if mine is None:
            raise Conflict("This device isn’t at the run any more: open it again.")
        if wanted in (Wish.HAND_OVER, Wish.KEEP):
            _answer(rows, mine, wanted)
        elif wanted is Wish.ASK:
            mine.asked_at = None if mine.holds else mine.asked_at or datetime.now(UTC)
        elif not _may_take(rows, me):
            raise Conflict("Request the run first. Its holder has a moment to answer.")
        else:
            _give(rows, mine)
        session.flush()
        run_sharing.tell(session, job_id)
        return _told(session, job_id, me, rows)


def _answer(rows: list[PresentRow], mine: PresentRow, wanted: Wish) -> None:
    if not mine.holds:
        raise Conflict("This device doesn’t hold the run.")
    if wanted is Wish.KEEP:
        for row in rows:
            row.asked_at = None
        return
    others = [row for row in rows if row.works and row is not mine]
    if not others:
        raise Conflict("No one else here may hold the run.")
    # Who asked first, before all who didn't ask.
    _give(rows, min(others, key=lambda row: (row.asked_at is None, row.asked_at or row.seen_at)))


def _give(rows: list[PresentRow], to: PresentRow) -> None:
    for row in rows:
        row.holds = row is to
    to.asked_at = None


def _may_take(rows: list[PresentRow], me: Here) -> bool:
    holder = next((row for row in rows if row.holds), None)
    mine = next((row for row in rows if row.device_id == me.device), None)
    if holder is None or mine is None or mine.holds:
        return holder is None
    asked = mine.asked_at
    return holder.person_id == me.person.id or (asked is not None and asked < datetime.now(UTC) - UNANSWERED)


def _told(session: Session, job_id: UUID, me: Here, rows: list[PresentRow]) -> Together:
    present = tuple(
        Present(
            device=row.device_id,
            who=row.who,
            step=row.step,
            row=row.row,
            works=row.works,
            holds=row.holds,
            asks=row.asked_at is not None,
        )
        for row in rows
    )
    offers = tuple(run_sharing.offers(session, job_id))
    return Together(present=present, may_take=_may_take(rows, me), offers=offers)


def offer(session: Session, job_id: UUID, me: Here, reading: NewReading) -> OfferedReading:
    """Keeps a reading for whoever holds the run to take. Raises NotFound."""
    with transaction(session):
        jobs.need_job(session, job_id)
        run_sharing.offer(session, job_id, me.who, reading)
        return OfferedReading(id=reading.id, who=me.who, reading=reading)


def take_offer(session: Session, job_id: UUID, offer_id: UUID) -> Reading:
    """Takes what was offered, under the name of whoever read it. Raises NotFound, BadInput as for any reading."""
    with transaction(session):
        offered = run_sharing.settle_offer(session, job_id, offer_id)
        return records.keep_reading(session, job_id, offered.reading)


def leave_offer(session: Session, job_id: UUID, offer_id: UUID) -> None:
    """Does without what was offered. Raises NotFound."""
    with transaction(session):
        run_sharing.settle_offer(session, job_id, offer_id)
