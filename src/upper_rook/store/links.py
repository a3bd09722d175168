"""Links that work once: for somebody new, for a new password, for a device."""

from datetime import UTC, datetime
from uuid import UUID

from sqlalchemy import delete, update
from sqlmodel import Session, col, select

from upper_rook.core.common.roles import Role
from upper_rook.core.common.units import Frozen
from upper_rook.store.tables import LinkRow


class Link(Frozen):
    """Purpose of a link; for neither a role nor a person it lets a device in alone."""

    role: Role | None = None
    """As what somebody new comes in."""
    person: UUID | None = None
    """Person who chooses a new password."""


def _link(role: str | None, person: UUID | None) -> Link:
    return Link(role=Role(role) if role else None, person=person)


def add(session: Session, token: bytes, link: Link, ends_at: datetime) -> None:
    """Keeps the digest of a link."""
    role = link.role.value if link.role else None
    session.add(LinkRow(token=token, role=role, person_id=link.person, ends_at=ends_at))


def _open(token: bytes) -> list[object]:
    return [LinkRow.token == token, col(LinkRow.used_at).is_(None), col(LinkRow.ends_at) > datetime.now(UTC)]


def find(session: Session, token: bytes) -> Link | None:
    """Purpose of a link, without using it up; None where it is used, too old or none of ours."""
    row = session.exec(select(LinkRow).where(*_open(token))).first()  # type: ignore[arg-type]
    return _link(row.role, row.person_id) if row else None


def take(session: Session, token: bytes) -> Link | None:
    """Uses a link up; None as for `find`. Two at once: one of them wins."""
    used = (
        update(LinkRow)
        .where(*_open(token))  # type: ignore[arg-type]
        .values(used_at=datetime.now(UTC))
        .returning(col(LinkRow.role), col(LinkRow.person_id))
    )
    row = session.execute(used).first()
    return _link(*row) if row else None


def end_all(session: Session) -> None:
    """Does away with every link that was not used."""
    session.execute(delete(LinkRow).where(col(LinkRow.used_at).is_(None)))
