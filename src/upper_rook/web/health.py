"""Whether everything that a save needs is there, and whose data this is."""

import shutil
import time
from datetime import UTC, datetime
from pathlib import Path
from uuid import UUID

from fastapi import APIRouter, Request
from pydantic import BaseModel
from sqlalchemy.exc import SQLAlchemyError
from sqlmodel import Session

from upper_rook import __version__
from upper_rook.desk.judging import JUDGE
from upper_rook.store import installation
from upper_rook.web import acts
from upper_rook.web.access import Here, Store
from upper_rook.web.problems import responses

router = APIRouter(tags=["health"], dependencies=[acts.WORK])

CHECK_EVERY_S = 10.0
LOW_BYTES = 300_000_000
"""Below that much free disk it is reported."""


class Health(BaseModel):
    """How the server does."""

    version: str | None = None
    """Version of the app. Where one has to sign in, a person who has not gets no value here."""
    demo: bool
    installation: UUID
    """Whose data this is: what waits on a device for one installation is never sent to another."""
    now: datetime
    """The server's clock, to hold a device's against."""
    writes: bool
    """Whether the database takes writes; that it can be read this answer shows."""
    disk_free: int | None = None
    """Bytes."""
    judging: int | None = None
    """How many files are being judged or wait for it."""
    warning: str = ""
    """Warning about a coming problem, in a sentence."""


def free_bytes(folder: Path) -> int:
    """Free bytes of the disk that `folder` lies, or will lie, on."""
    while not folder.exists():
        folder = folder.parent
    return shutil.disk_usage(folder).free


class Checks:
    """Figures too costly to look up for every answer, looked up now and then."""

    def __init__(self, data: Path) -> None:
        """`data` is a folder on the disk that the data lies on."""
        self._data = data.resolve()
        self._until = 0.0
        self._writes, self._free = True, 0

    def look(self, session: Session) -> tuple[bool, int]:
        """Whether the database can be written, and the disk's free bytes."""
        if time.monotonic() > self._until:
            try:
                installation.try_to_write(session)
                self._writes = True
            except SQLAlchemyError:
                session.rollback()
                self._writes = False
            self._free = free_bytes(self._data)
            self._until = time.monotonic() + CHECK_EVERY_S
        return self._writes, self._free


@router.get("/api/health", responses=responses())
def health(request: Request, store: Store, who: Here) -> Health:
    """Answers when the server is there and its database can be read."""
    with store() as session:
        known = installation.installation_id(session)
        writes, free = request.app.state.checks.look(session)
    told = Health(
        demo=request.app.state.settings.demo,
        installation=known,
        now=datetime.now(UTC),
        writes=writes,
        warning=_warning(writes, free),
    )
    if request.app.state.settings.doors and who is None:
        return told.model_copy(update={"warning": ""})
    return told.model_copy(update={"version": __version__, "disk_free": free, "judging": JUDGE.waiting})


def _warning(writes: bool, free: int) -> str:
    if free < LOW_BYTES:
        return f"The disk is nearly full ({free / 1e6:.0f} MB left): free some space."
    return "" if writes else "The database is read-only at the moment."
