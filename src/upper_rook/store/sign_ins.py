"""Sessions: where somebody is signed in, and what was tried at the door in vain."""

from datetime import UTC, datetime, timedelta
from typing import NamedTuple
from uuid import UUID, uuid4

from sqlalchemy import delete, func, or_, update
from sqlmodel import Session, col, select

from upper_rook.store.people import Person, person_of
from upper_rook.store.tables import DeviceRow, KnockRow, PersonRow, SignedInRow

_LOCK = 7_254_003


class SignIn(NamedTuple):
    """A session with whose it is and where."""

    row: SignedInRow
    person: Person
    device: str
    device_token: bytes
    locks_after_min: int | None


def add(session: Session, person: UUID, token: bytes, device: UUID) -> None:
    """Keeps a new session of somebody; whoever was signed in on that device is out."""
    session.execute(delete(SignedInRow).where(col(SignedInRow.device_id) == device))
    session.add(SignedInRow(id=uuid4(), person_id=person, token=token, device_id=device))


def find(session: Session, token: bytes) -> SignIn | None:
    """The session of a token, or of the one that was just replaced by it; None when its person is gone."""
    mine = or_(col(SignedInRow.token) == token, col(SignedInRow.former) == token)
    rows = (
        select(SignedInRow, PersonRow, DeviceRow)
        .join(PersonRow, col(PersonRow.id) == col(SignedInRow.person_id))
        .join(DeviceRow, col(DeviceRow.id) == col(SignedInRow.device_id))
        .where(mine, col(PersonRow.gone_at).is_(None))
    )
    found = session.exec(rows).first()
    if found is None:
        return None
    row, whose, device = found
    return SignIn(row, person_of(whose), device.name, device.token, device.locks_after_min)


def renew(session: Session, signed_in: UUID, former: bytes, token: bytes) -> bool:
    """Gives a session another token; False where another request has done so already."""
    now = datetime.now(UTC)
    done = (
        update(SignedInRow)
        .where(col(SignedInRow.id) == signed_in, col(SignedInRow.token) == former)
        .values(former=former, token=token, renewed_at=now, seen_at=now)
        .returning(col(SignedInRow.id))
    )
    return session.execute(done).scalar() is not None


def seen(session: Session, signed_in: UUID, touched_at: datetime) -> None:
    """Notes that a session is in use, and when its device was last touched."""
    now = datetime.now(UTC)
    mine = update(SignedInRow).where(col(SignedInRow.id) == signed_in)
    session.execute(mine.values(seen_at=now, touched_at=touched_at))


def prove(session: Session, signed_in: UUID) -> None:
    """Notes that its person is there, by password or PIN."""
    now = datetime.now(UTC)
    mine = update(SignedInRow).where(col(SignedInRow.id) == signed_in)
    session.execute(mine.values(proved_at=now, touched_at=now))


def lock(session: Session, signed_in: UUID, *, locked: bool) -> None:
    """Locks a session until its person is there again, or opens it."""
    at = datetime.now(UTC) if locked else None
    session.execute(update(SignedInRow).where(col(SignedInRow.id) == signed_in).values(locked_at=at))


def is_in(session: Session, signed_in: UUID) -> bool:
    """Whether a session still stands, unlocked."""
    row = session.get(SignedInRow, signed_in)
    return row is not None and row.locked_at is None


def end(session: Session, signed_in: UUID) -> None:
    """Signs a device out."""
    session.execute(delete(SignedInRow).where(col(SignedInRow.id) == signed_in))


def end_old(session: Session, idle: timedelta, longest: timedelta) -> None:
    """Does away with sessions that nobody has used for so long, or that are so old."""
    now = datetime.now(UTC)
    old = or_(col(SignedInRow.seen_at) < now - idle, col(SignedInRow.began_at) < now - longest)
    session.execute(delete(SignedInRow).where(old))


def wait_for_turn(session: Session, what: str) -> None:
    """Of several who try by the same name at once each counts those before; within a transaction."""
    session.execute(select(func.pg_advisory_xact_lock(func.hashtextextended(what, _LOCK))))


def knocked(session: Session, what: str, within: timedelta) -> int:
    """How often somebody failed at the door of late."""
    since = datetime.now(UTC) - within
    rows = select(func.count()).select_from(KnockRow).where(KnockRow.what == what, col(KnockRow.at) > since)
    return int(session.exec(rows).one())


def knock(session: Session, *what: str, forget: timedelta) -> tuple[UUID, ...]:
    """Notes a try, a failure until it is forgotten; those of long ago are."""
    tries = [KnockRow(what=text) for text in what]
    session.add_all(tries)
    session.execute(delete(KnockRow).where(col(KnockRow.at) < datetime.now(UTC) - forget))
    return tuple(knock.id for knock in tries)


def forget(session: Session, tries: tuple[UUID, ...]) -> None:
    """That was the right one."""
    session.execute(delete(KnockRow).where(col(KnockRow.id).in_(tries)))
