"""Telling every process what changed, once the transaction commits."""

import json
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

from sqlalchemy import func, update
from sqlalchemy.sql.functions import Function
from sqlmodel import Session, col, select

from upper_rook.store.tables import JobRow

CHANNEL = "rook"


def announce(session: Session, job_id: UUID, what: str) -> None:
    """Tells that `what` (sheet and its version, run, bench, captures or photos) of a job changed."""
    session.execute(select(_telling(job_id, what)))


def touch(session: Session, job_id: UUID, what: str) -> None:
    """The same, and the job counts as changed now; its state is to be worked out again."""
    # One statement for both: what a save waits for are the ways there and back.
    changed = (
        update(JobRow)
        .where(col(JobRow.id) == job_id)
        .values(changed_at=datetime.now(UTC), changes=col(JobRow.changes) + 1)
        .returning(_telling(job_id, what))
    )
    session.execute(changed.execution_options(synchronize_session=False))


def told(job_id: UUID, what: str) -> str:
    """Message to every process."""
    return json.dumps({"job": str(job_id), "what": what})


def _telling(job_id: UUID, what: str) -> Function[Any]:
    return func.pg_notify(CHANNEL, told(job_id, what))
