"""The simulated bench of a job."""

from uuid import UUID

from sqlmodel import Session

from upper_rook.store.announcements import announce
from upper_rook.store.tables import BenchRow


def bench_state(session: Session, job_id: UUID) -> dict[str, object] | None:
    """The bench's knobs as they were left, or None before anyone touched them."""
    row = session.get(BenchRow, job_id)
    return row.state if row else None


def save_bench_state(session: Session, job_id: UUID, state: dict[str, object]) -> None:
    """Keeps the bench's knobs."""
    session.merge(BenchRow(job_id=job_id, state=state))
    announce(session, job_id, "bench")
