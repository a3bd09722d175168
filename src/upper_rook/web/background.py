"""Work beside the requests: summaries of jobs that changed, and emptying the bin."""

import asyncio
import logging
import time
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager, suppress
from datetime import timedelta

from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import sessionmaker
from sqlmodel import Session
from starlette.concurrency import run_in_threadpool

from upper_rook.core.common.errors import RookError
from upper_rook.desk import job_list, jobs

log = logging.getLogger("upper_rook")

_REST_S = 2.0
# A job that is being worked at is left alone: a list that is asked for brings it up itself.
_QUIET = timedelta(seconds=5)
_BIN_EVERY_S = 3600.0


@asynccontextmanager
async def working(store: sessionmaker[Session], back_up: Callable[[], object]) -> AsyncIterator[None]:
    """Works for as long as the context is open; `back_up` is called before anything is deleted for good."""
    # Asked to end rather than cancelled: a thread at work holds a connection that it has to give back.
    ending = asyncio.Event()
    task = asyncio.create_task(_work(store, back_up, ending))
    try:
        yield
    finally:
        ending.set()
        await task


async def _work(store: sessionmaker[Session], back_up: Callable[[], object], ending: asyncio.Event) -> None:
    bin_due = 0.0
    while not ending.is_set():
        try:
            done = await run_in_threadpool(_sum_up, store)
            if time.monotonic() >= bin_due:
                await run_in_threadpool(_empty_bin, store, back_up)
                bin_due = time.monotonic() + _BIN_EVERY_S
        except SQLAlchemyError as error:
            log.warning("summaries wait for the database: %s", type(error).__name__)
            done = 0
        except RookError as error:
            log.warning("the bin stays as it is without a backup: %s", error.sentence)
            bin_due, done = time.monotonic() + _BIN_EVERY_S, 0
        # One at a time with rests between, so that nobody who saves has to wait.
        with suppress(TimeoutError):
            await asyncio.wait_for(ending.wait(), 0.1 if done else _REST_S)


def _sum_up(store: sessionmaker[Session]) -> int:
    with store() as session:
        return job_list.sum_up(session, 1, _QUIET)


def _empty_bin(store: sessionmaker[Session], back_up: Callable[[], object]) -> None:
    with store() as session:
        jobs.empty_bin(session, back_up)
