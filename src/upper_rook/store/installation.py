"""Identity of an installation, and the version of the app that its database needs."""

from uuid import UUID

from sqlalchemy import text
from sqlmodel import Session, select

from upper_rook.store.tables import InstallationRow


def installation_id(session: Session) -> UUID:
    """The id of the installation that the database belongs to."""
    return session.exec(select(InstallationRow.id)).one()


def try_to_write(session: Session) -> None:
    """Writes something of no consequence. Raises SQLAlchemyError where nothing can be written."""
    session.execute(text("update installation set id = id"))
    session.commit()
