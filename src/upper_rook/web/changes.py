"""Changes, sent to every open page: one listening connection per process, fanned out to its streams."""

import asyncio
import json
import logging
from collections import defaultdict
from collections.abc import AsyncIterator, Iterator
from contextlib import asynccontextmanager, contextmanager

import psycopg

from upper_rook.store.announcements import CHANNEL

log = logging.getLogger("upper_rook")
RETRY_S = 0.5
_Queue = asyncio.Queue[tuple[str, str]]


class Changes:
    """Carries the database's notifications to whoever subscribed to a job."""

    def __init__(self, url: str) -> None:
        """`url` is the database's, as SQLAlchemy writes it."""
        self._url = url.replace("postgresql+psycopg://", "postgresql://")
        self._queues: dict[str, set[_Queue]] = defaultdict(set)

    @contextmanager
    def subscribe(self, jobs: set[str]) -> Iterator["_Queue"]:
        """A queue of jobs and what changes in each: "sheet 7" (the version), "run", "bench" …; "all" after a gap."""
        queue: _Queue = asyncio.Queue(maxsize=100)
        for job in jobs:
            self._queues[job].add(queue)
        try:
            yield queue
        finally:
            for job in jobs:
                self._queues[job].discard(queue)
                if not self._queues[job]:
                    del self._queues[job]

    @asynccontextmanager
    async def listening(self) -> AsyncIterator[None]:
        """Listens for as long as the context is open."""
        task = asyncio.create_task(self._listen())
        try:
            yield
        finally:
            task.cancel()
            await asyncio.gather(task, return_exceptions=True)

    async def _listen(self) -> None:
        while True:
            try:
                async with await psycopg.AsyncConnection.connect(
                    self._url, autocommit=True, connect_timeout=3
                ) as connection:
                    await connection.execute(f"listen {CHANNEL}")
                    # Whatever happened while nobody listened is covered by asking everyone to look again.
                    for job in list(self._queues):
                        self._put(job, "all")
                    async for note in connection.notifies():
                        told = json.loads(note.payload)
                        self._put(told["job"], told["what"])
            except psycopg.Error as error:
                log.warning("not listening to the database: %s", error)
            await asyncio.sleep(RETRY_S)

    def _put(self, job: str, what: str) -> None:
        for queue in self._queues.get(job, ()):
            if not queue.full():
                queue.put_nowait((job, what))
