"""Passkeys: the public halves of what people's devices keep, and what they are to sign."""

from datetime import UTC, datetime
from typing import NamedTuple
from uuid import UUID

from sqlalchemy import delete, update
from sqlmodel import Session, col, select

from upper_rook.core.common.errors import NotFound
from upper_rook.core.common.units import Frozen
from upper_rook.store.people import Person, person_of
from upper_rook.store.tables import ChallengeRow, PasskeyRow, PersonRow


class Passkey(Frozen):
    """A key as its owner sees it."""

    id: str
    """In hexadecimal digits."""
    name: str
    created_at: datetime
    used_at: datetime | None


class Kept(NamedTuple):
    """A key as a signature is compared with it."""

    person: Person
    public_key: bytes
    uses: int


def of_person(session: Session, person: UUID) -> list[Passkey]:
    """Somebody's keys, the newest first."""
    rows = select(PasskeyRow).where(PasskeyRow.person_id == person).order_by(col(PasskeyRow.created_at).desc())
    return [
        Passkey(id=row.id.hex(), name=row.name, created_at=row.created_at, used_at=row.used_at)
        for row in session.exec(rows)
    ]


def find(session: Session, key: bytes) -> Kept | None:
    """A key of somebody who is here."""
    rows = select(PasskeyRow, PersonRow).join(PersonRow).where(PasskeyRow.id == key, col(PersonRow.gone_at).is_(None))
    found = session.exec(rows).first()
    return Kept(person_of(found[1]), found[0].public_key, found[0].uses) if found else None


def add(session: Session, key: bytes, kept: Kept, name: str) -> None:
    """Keeps a key."""
    row = PasskeyRow(id=key, person_id=kept.person.id, public_key=kept.public_key, uses=kept.uses, name=name)
    session.add(row)


def used(session: Session, key: bytes, uses: int) -> None:
    """Notes a use with the key's own counter."""
    change = {"uses": uses, "used_at": datetime.now(UTC)}
    session.execute(update(PasskeyRow).where(col(PasskeyRow.id) == key).values(**change))


def remove(session: Session, person: UUID, key: bytes) -> None:
    """Does away with one of somebody's keys. Raises NotFound."""
    mine = (col(PasskeyRow.id) == key, col(PasskeyRow.person_id) == person)
    if session.execute(delete(PasskeyRow).where(*mine).returning(col(PasskeyRow.id))).first() is None:
        raise NotFound("That key was already removed.", "passkey")


def challenge(session: Session, made: bytes, device: UUID, person: UUID | None, ends_at: datetime) -> None:
    """Keeps what is to be signed; the device's earlier ones end."""
    session.execute(delete(ChallengeRow).where(col(ChallengeRow.device_id) == device))
    session.add(ChallengeRow(challenge=made, device_id=device, person_id=person, ends_at=ends_at))


def take_challenge(session: Session, device: UUID, person: UUID | None) -> bytes | None:
    """Challenge that a device was to sign, once."""
    whose = col(ChallengeRow.person_id).is_(None) if person is None else col(ChallengeRow.person_id) == person
    taken = (
        delete(ChallengeRow)
        .where(col(ChallengeRow.device_id) == device, whose, col(ChallengeRow.ends_at) > datetime.now(UTC))
        .returning(col(ChallengeRow.challenge))
    )
    return session.execute(taken).scalar()
