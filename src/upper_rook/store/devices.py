"""Devices that were let onto the workshop's app, and the short numbers that open on one of them."""

from datetime import UTC, datetime
from uuid import UUID, uuid4

from sqlalchemy import delete, update
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import Session, col, select

from upper_rook.core.common.errors import NotFound
from upper_rook.core.common.units import Frozen
from upper_rook.store.people import Person, person_of
from upper_rook.store.tables import DeviceRow, PersonRow, PinRow, SignedInRow


class Device(Frozen):
    """A phone, tablet or computer of the workshop."""

    id: UUID
    name: str
    locks_after_min: int | None
    """Minutes without a touch after which it locks itself; None where it is one person's own."""
    paired_at: datetime
    seen_at: datetime
    person: Person | None = None
    """Person who is signed in on it."""


def _device(row: DeviceRow, whose: PersonRow | None = None) -> Device:
    return Device(
        id=row.id,
        name=row.name,
        locks_after_min=row.locks_after_min,
        paired_at=row.paired_at,
        seen_at=row.seen_at,
        person=person_of(whose) if whose else None,
    )


def devices(session: Session) -> list[Device]:
    """Every device, the last seen first."""
    rows = (
        select(DeviceRow, PersonRow)
        .join(SignedInRow, col(SignedInRow.device_id) == col(DeviceRow.id), isouter=True)
        .join(PersonRow, col(PersonRow.id) == col(SignedInRow.person_id), isouter=True)
        .order_by(col(DeviceRow.seen_at).desc(), col(SignedInRow.seen_at).desc())
    )
    found: dict[UUID, Device] = {}
    for row, whose in session.exec(rows):
        found.setdefault(row.id, _device(row, whose))
    return list(found.values())


def find(session: Session, token: bytes) -> Device | None:
    """The device that carries a token."""
    row = session.exec(select(DeviceRow).where(DeviceRow.token == token)).first()
    return _device(row) if row else None


def get(session: Session, device: UUID) -> Device:
    """A device by its id. Raises NotFound."""
    row = session.get(DeviceRow, device)
    if row is None:
        raise NotFound("That device was already removed.", "device")
    return _device(row)


def add(session: Session, token: bytes, name: str, locks_after_min: int | None = None) -> Device:
    """A device that was let in."""
    row = DeviceRow(id=uuid4(), token=token, name=name, locks_after_min=locks_after_min)
    session.add(row)
    session.flush()
    return _device(row)


def change(session: Session, device: UUID, name: str, locks_after_min: int | None) -> None:
    """Its name, and the time after which it locks itself. Raises NotFound."""
    row = session.get(DeviceRow, device)
    if row is None:
        raise NotFound("That device was already removed.", "device")
    row.name, row.locks_after_min = name, locks_after_min


def take_away(session: Session, device: UUID) -> str:
    """Ends a device with its sessions and numbers, and says what it was called. Raises NotFound."""
    gone = delete(DeviceRow).where(col(DeviceRow.id) == device).returning(col(DeviceRow.name))
    name = session.execute(gone).scalar()
    if name is None:
        raise NotFound("That device was already removed.", "device")
    return str(name)


def seen(session: Session, device: UUID) -> None:
    """Notes that a device is in use."""
    session.execute(update(DeviceRow).where(col(DeviceRow.id) == device).values(seen_at=datetime.now(UTC)))


def with_pin(session: Session, device: UUID) -> list[Person]:
    """People who come in on a device by a short number, by name."""
    rows = (
        select(PersonRow)
        .join(PinRow)
        .where(PinRow.device_id == device, col(PersonRow.gone_at).is_(None))
        .order_by(col(PersonRow.folded))
    )
    return [person_of(row) for row in session.exec(rows)]


def set_pin(session: Session, person: UUID, device: UUID, hashed: str) -> None:
    """Somebody's short number on a device."""
    row = insert(PinRow).values(person_id=person, device_id=device, hash=hashed, tries=0)
    change = {"hash": hashed, "tries": 0}
    session.execute(row.on_conflict_do_update(index_elements=["person_id", "device_id"], set_=change))


def pin_of(session: Session, person: UUID, device: UUID) -> str | None:
    """The hash of somebody's number on a device."""
    row = session.get(PinRow, (person, device))
    return row.hash if row else None


def try_pin(session: Session, person: UUID, device: UUID) -> int | None:
    """Counts a try before it is looked at, so that many at once don't get more; None where there is no number."""
    mine = (col(PinRow.person_id) == person, col(PinRow.device_id) == device)
    counted = update(PinRow).where(*mine).values(tries=PinRow.tries + 1).returning(col(PinRow.tries))
    return session.execute(counted).scalar()


def pin_was_right(session: Session, person: UUID, device: UUID) -> None:
    """The count begins anew."""
    mine = (col(PinRow.person_id) == person, col(PinRow.device_id) == device)
    session.execute(update(PinRow).where(*mine).values(tries=0))


def end_pin(session: Session, person: UUID, device: UUID) -> None:
    """Does away with somebody's number on a device."""
    mine = (col(PinRow.person_id) == person, col(PinRow.device_id) == device)
    session.execute(delete(PinRow).where(*mine))
