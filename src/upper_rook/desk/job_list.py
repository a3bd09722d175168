"""The list of jobs, and keeping what it shows of each up to date."""

import logging
from datetime import timedelta
from uuid import UUID

from sqlalchemy.exc import SQLAlchemyError
from sqlmodel import Session

from upper_rook.core.common.errors import RookError
from upper_rook.core.run.result.progress import run_of
from upper_rook.core.run.result.summary import summary_of, unreadable
from upper_rook.core.system.search_words import search_words
from upper_rook.desk.job_snapshots import records_now, snapshot_of
from upper_rook.desk.transaction import transaction
from upper_rook.store import job_list, jobs
from upper_rook.store.job_list import JobPage, Wanted

log = logging.getLogger("upper_rook")

PAGE = 30
# A list that is asked for brings up a few itself; many at once (after an update of the app) come in the background.
_AT_ONCE = 10


def page(
    session: Session, wanted: Wanted, after: str | None = None, limit: int = PAGE, *, customers: bool = False
) -> JobPage:
    """
    One page of the list; with `customers` words are looked for in those too.

    Raises BadInput for an `after` that no page gave.
    """
    sum_up(session, _AT_ONCE)
    return job_list.find(session, wanted, after, limit, customers=customers)


def sum_up(session: Session, limit: int, quiet: timedelta = timedelta()) -> int:
    """Works out the summaries of up to `limit` jobs that are behind and `quiet`, the newest first; gives how many."""
    behind = job_list.not_summed_up(session, limit, quiet)
    for job_id in behind:
        with transaction(session):
            _sum_up(session, job_id)
    return len(behind)


def _sum_up(session: Session, job_id: UUID) -> None:
    # Read before the job: what comes in between leaves it behind, never ahead.
    changes = job_list.changes_of(session, job_id)
    words = None
    try:
        job = jobs.get_job(session, job_id)
        words = search_words(job.sheet)
        summary = summary_of(run_of(snapshot_of(session, job, records_now(session, job_id))), job.sheet)
    except RookError as error:
        summary = unreadable(error.sentence)
    except SQLAlchemyError:
        raise
    except Exception:
        # Whatever is wrong with one job must not hide the others.
        log.exception("job %s can’t be summed up", job_id)
        summary = unreadable("This job can’t be worked out: the log says why.")
    job_list.keep_summary(session, job_id, changes, summary, words)
