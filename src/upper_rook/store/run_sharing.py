"""On which devices a run is open, which of them holds it, and what the others offer."""

from datetime import UTC, datetime, timedelta
from uuid import UUID

from sqlalchemy import delete, func, true, update
from sqlalchemy.orm import aliased
from sqlmodel import Session, col, select

from upper_rook.core.common.errors import NotFound
from upper_rook.core.common.units import Frozen
from upper_rook.core.run.readings.records import NewReading
from upper_rook.store.announcements import announce
from upper_rook.store.tables import OfferRow, PresentRow

GONE = timedelta(seconds=30)
"""Without a sign for so long a device isn't there any more."""
_LOCK = 7_254_002


class OfferedReading(Frozen):
    """A reading that the device which holds the run may take."""

    id: UUID
    who: str
    reading: NewReading


def lock(session: Session, job_id: UUID) -> None:
    """Of two acts on who holds a run one comes after the other; within a transaction."""
    key = func.hashtextextended(str(job_id), _LOCK)
    session.execute(select(func.pg_advisory_xact_lock(key)))


def sign(session: Session, seen: PresentRow) -> bool:
    """
    Notes that a device is still there, where nothing else changes by it: a sign is cheap, since all screens give it.

    False where it is new there or elsewhere, or works and nobody holds the run.
    """
    holder = aliased(PresentRow)
    held = (
        select(holder.device_id)
        .where(holder.job_id == seen.job_id, col(holder.holds), col(holder.seen_at) > datetime.now(UTC) - GONE)
        .exists()
    )
    same = (
        getattr(PresentRow, name) == getattr(seen, name)
        for name in ("job_id", "device_id", "person_id", "who", "step", "row", "works")
    )
    done = (
        update(PresentRow)
        .where(*same, held if seen.works else true())
        .values(seen_at=datetime.now(UTC))
        .returning(col(PresentRow.device_id))
    )
    return session.execute(done).scalar() is not None


def present(session: Session, job_id: UUID) -> list[PresentRow]:
    """Devices at a run, in the order of their ids; those without a sign for a while are left out."""
    rows = select(PresentRow).where(PresentRow.job_id == job_id, col(PresentRow.seen_at) > datetime.now(UTC) - GONE)
    return list(session.exec(rows.order_by(col(PresentRow.device_id))))


def end_gone(session: Session, job_id: UUID) -> None:
    """Does away with those who gave no sign for a while."""
    gone = (col(PresentRow.job_id) == job_id, col(PresentRow.seen_at) <= datetime.now(UTC) - GONE)
    session.execute(delete(PresentRow).where(*gone))


def leave(session: Session, job_id: UUID, device: UUID, *, looks_on: bool) -> None:
    """A device that looks elsewhere; with `looks_on` only where it doesn't work there as well."""
    own = [col(PresentRow.job_id) == job_id, col(PresentRow.device_id) == device]
    if looks_on:
        own.append(col(PresentRow.works).is_(False))
    session.execute(delete(PresentRow).where(*own))


def tell(session: Session, job_id: UUID) -> None:
    """Has every device look again."""
    announce(session, job_id, "together")


def offers(session: Session, job_id: UUID) -> list[OfferedReading]:
    """Offers, the oldest first."""
    rows = select(OfferRow).where(OfferRow.job_id == job_id, col(OfferRow.settled_at).is_(None))
    return [_offered(row) for row in session.exec(rows.order_by(col(OfferRow.at)))]


def _offered(row: OfferRow) -> OfferedReading:
    return OfferedReading(id=row.id, who=row.who, reading=NewReading.model_validate(row.reading))


def offer(session: Session, job_id: UUID, who: str, reading: NewReading) -> None:
    """Keeps an offer; the same one twice is once."""
    if session.get(OfferRow, reading.id) is None:
        row = OfferRow(id=reading.id, job_id=job_id, who=who, reading=reading.model_dump(mode="json"))
        session.add(row)
        tell(session, job_id)


def settle_offer(session: Session, job_id: UUID, offer_id: UUID) -> OfferedReading:
    """An offer that is taken or left now, by one of two who try at once. Raises NotFound."""
    mine = (col(OfferRow.id) == offer_id, col(OfferRow.job_id) == job_id, col(OfferRow.settled_at).is_(None))
    settled = update(OfferRow).where(*mine).values(settled_at=datetime.now(UTC)).returning(OfferRow)
    row = session.execute(settled).scalar()
    if row is None:
        raise NotFound("That reading was already saved or ignored.", "offer")
    tell(session, job_id)
    return _offered(row)
