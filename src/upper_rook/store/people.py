"""People and their passwords."""

from datetime import UTC, datetime
from uuid import UUID, uuid4

from sqlalchemy import delete
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import Session, col, select

from upper_rook.core.common.errors import Conflict, NotFound
from upper_rook.core.common.folding import folded
from upper_rook.core.common.roles import Role
from upper_rook.core.common.units import Frozen
from upper_rook.store.tables import PasskeyRow, PasswordRow, PersonRow, PinRow, SignedInRow


class Person(Frozen):
    """Somebody who works here."""

    id: UUID
    name: str
    role: Role


def person_of(row: PersonRow) -> Person:
    """Summary of a row."""
    return Person(id=row.id, name=row.name, role=Role(row.role))


def people(session: Session) -> list[Person]:
    """Everybody who is here, by name."""
    rows = select(PersonRow).where(col(PersonRow.gone_at).is_(None)).order_by(col(PersonRow.folded))
    return [person_of(row) for row in session.exec(rows)]


def has_owner(session: Session) -> bool:
    """Whether somebody who can come in can let the others in: after a restore nobody can."""
    keys = select(PasswordRow.person_id).union(select(PasskeyRow.person_id))
    rows = select(PersonRow.id).where(
        PersonRow.role == Role.OWNER, col(PersonRow.gone_at).is_(None), col(PersonRow.id).in_(keys)
    )
    return session.exec(rows.limit(1)).first() is not None


def first_owner(session: Session) -> Person | None:
    """Earliest owner of those who are here, whether they can come in or not."""
    rows = select(PersonRow).where(PersonRow.role == Role.OWNER, col(PersonRow.gone_at).is_(None))
    row = session.exec(rows.order_by(col(PersonRow.created_at))).first()
    return person_of(row) if row else None


def called(session: Session, name: str) -> Person:
    """Somebody who is here, by name. Raises NotFound."""
    rows = select(PersonRow).where(PersonRow.folded == folded(name), col(PersonRow.gone_at).is_(None))
    row = session.exec(rows).first()
    if row is None:
        raise NotFound(f"There is no person called “{name}”.", "name")
    return person_of(row)


def with_password(session: Session, name: str) -> tuple[Person, str] | None:
    """Person of that name, and the hash of their password; None where nobody can sign in by that name."""
    rows = (
        select(PersonRow, PasswordRow.hash)
        .join(PasswordRow)
        .where(PersonRow.folded == folded(name), col(PersonRow.gone_at).is_(None))
    )
    found = session.exec(rows).first()
    return (person_of(found[0]), found[1]) if found else None


def find(session: Session, person: UUID) -> Person | None:
    """Somebody who is here."""
    row = session.get(PersonRow, person)
    return person_of(row) if row and row.gone_at is None else None


def add(session: Session, name: str, role: Role) -> Person:
    """Somebody new. Raises Conflict where the name is taken."""
    key = folded(name)
    taken = select(PersonRow.id).where(PersonRow.folded == key, col(PersonRow.gone_at).is_(None))
    if session.exec(taken).first() is not None:
        raise Conflict("That name is already in use. Add something to it.", "name")
    row = PersonRow(id=uuid4(), name=name, folded=key, role=role.value)
    session.add(row)
    session.flush()
    return person_of(row)


def set_password(session: Session, person: UUID, hashed: str) -> None:
    """Another password; whoever is signed in with the former one is out, and so are the short numbers."""
    row = insert(PasswordRow).values(person_id=person, hash=hashed)
    session.execute(row.on_conflict_do_update(index_elements=["person_id"], set_={"hash": hashed}))
    _shut(session, person)


def let_go(session: Session, person: UUID, *, nameless: str | None = None) -> None:
    """
    Ends somebody's time here: signed out everywhere at once, every key gone. Raises NotFound.

    With `nameless` the name goes as well, and that takes its place.
    """
    row = session.get(PersonRow, person)
    if row is None or row.gone_at is not None:
        raise NotFound("Person not found. Reload the page.", "person")
    row.gone_at = datetime.now(UTC)
    if nameless is not None:
        row.name, row.folded = nameless, folded(nameless)
    _shut(session, person)
    end_passkeys(session, person)
    session.execute(delete(PasswordRow).where(col(PasswordRow.person_id) == person))


def end_passkeys(session: Session, person: UUID) -> None:
    """Does away with every key of somebody."""
    session.execute(delete(PasskeyRow).where(col(PasskeyRow.person_id) == person))


def _shut(session: Session, person: UUID) -> None:
    for table in (SignedInRow, PinRow):
        session.execute(delete(table).where(col(table.person_id) == person))
