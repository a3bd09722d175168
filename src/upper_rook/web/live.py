"""The live channel: what changed, and what meters show, as server-sent events."""

import asyncio
import time
from collections.abc import AsyncIterator, Callable
from typing import Annotated, NamedTuple
from uuid import UUID

from fastapi import APIRouter, Query, Request
from pydantic import BaseModel
from sqlalchemy.exc import SQLAlchemyError
from sse_starlette import EventSourceResponse, ServerSentEvent
from starlette.concurrency import run_in_threadpool

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import LongKey
from upper_rook.desk.auth.sessions import Passing
from upper_rook.desk.bench import MeterEvent, Watch
from upper_rook.store import jobs, sign_ins
from upper_rook.web import acts
from upper_rook.web.access import Here, Store, here, practice_of
from upper_rook.web.fair_share import STREAMS
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api", tags=["live"], dependencies=[acts.WORK])

# An idle stream still says that it is there.
BEAT_S = 2.0
MOST_WATCHED = 60


class Changed(BaseModel):
    """Change in a job: "sheet 7" (the version), "run", "bench", "captures"; "all" after a gap."""

    job: UUID
    what: str


class Metered(BaseModel):
    """An update of the meter of a job, compared with the target of a step."""

    job: UUID
    step: str
    row: str = ""
    shows: MeterEvent


@router.get("/jobs/{job_id}/meter", responses=responses(404))
def read_meter(request: Request, job_id: UUID, step: LongKey = "none") -> MeterEvent:
    """The meter's present display, compared with the target of `step`."""
    return Watch(request.app.state.engine, job_id, step).read()


@router.get(
    "/live",
    response_class=EventSourceResponse,
    responses={200: {"content": {"text/event-stream": {}}}, **responses()},
)
async def live(
    request: Request,
    store: Store,
    who: Here,
    watch: Annotated[list[str], Query(min_length=1, max_length=MOST_WATCHED)],
) -> EventSourceResponse:
    """
    One stream for all that a browser watches.

    A job's id, or `id~step` with the meter compared with that step, or `id~step~row` against one of its readings.

    A job that isn't there, or isn't theirs to see, is silent: one page that shows so must not leave the others without
    a stream.

    Events `changed` (a Changed), `meter` (a Metered), `beat`, `trouble` (a sentence).
    """
    asked = [_watched(text) for text in watch]
    STREAMS.check(who)

    def begin() -> tuple[set[UUID], list[Watch]]:
        # A session asked for as a dependency would live, and hold its connection, as long as the stream.
        with store() as session:
            practice = {job: jobs.is_practice(session, job) for job in {watched.job for watched in asked}}
        hidden = {job for job, is_one in practice.items() if is_one is False and practice_of(who, False)}
        there = {job for job, is_one in practice.items() if is_one is not None} - hidden
        engine = request.app.state.engine
        meters = [
            Watch(engine, watched.job, watched.step, watched.row)
            for watched in asked
            if watched.step is not None and watched.job in there
        ]
        return set(practice) - hidden, meters

    watched, meters = await run_in_threadpool(begin)
    return EventSourceResponse(_events(request, who, watched, meters), ping=3600)


class _Watched(NamedTuple):
    """Parts of a job that a browser watches."""

    job: UUID
    step: str | None
    row: str


def _watched(text: str) -> _Watched:
    job, tilde, rest = text.partition("~")
    step, _, row = rest.partition("~")
    try:
        return _Watched(UUID(job), step if tilde else None, row)
    except ValueError:
        raise BadInput("Use a job’s id, optionally with ~step and ~row.", "watch") from None


async def _events(
    request: Request, who: Passing | None, watched: set[UUID], meters: list[Watch]
) -> AsyncIterator[ServerSentEvent]:
    period = min((meter.meter.period_s for meter in meters), default=BEAT_S)
    changes = request.app.state.changes
    with STREAMS.taken(who), changes.subscribe({str(job) for job in watched}) as queue:
        yield _event("beat", "hello")
        # What was saved while the stream was made ready nobody would tell it of any more.
        for watch in meters:
            if trouble := await _trouble_in(watch.reload):
                yield trouble
        due, door = time.monotonic(), _Door(request)
        while not await door.is_shut():
            try:
                job, what = await asyncio.wait_for(queue.get(), max(0.0, due - time.monotonic()))
            except TimeoutError:
                due = max(due + period, time.monotonic())
                for watch in meters:
                    yield await _metered(watch)
                if not meters:
                    yield _event("beat", "still here")
                continue
            for watch in meters:
                if str(watch.job_id) == job and what != "bench" and (trouble := await _trouble_in(watch.reload)):
                    yield trouble
            yield _event("changed", Changed(job=UUID(job), what=what).model_dump_json())


class _Door:
    """Looks now and then whether whoever watches is still signed in: a device that was taken away sees no more."""

    def __init__(self, request: Request) -> None:
        self._who, self._store = here(request), request.app.state.store
        self._looked = time.monotonic()

    async def is_shut(self) -> bool:
        """Whether the stream is to end."""
        if self._who is None or time.monotonic() < self._looked + BEAT_S:
            return False
        self._looked = time.monotonic()
        try:
            return not await run_in_threadpool(self._stands, self._who.session)
        except SQLAlchemyError:
            return False

    def _stands(self, signed_in: UUID) -> bool:
        with self._store() as session:
            return sign_ins.is_in(session, signed_in)


async def _metered(watch: Watch) -> ServerSentEvent:
    shown: list[MeterEvent] = []
    trouble = await _trouble_in(lambda: shown.append(watch.read()))
    return trouble or _event(
        "meter", Metered(job=watch.job_id, step=watch.step, row=watch.row, shows=shown[0]).model_dump_json()
    )


async def _trouble_in(work: Callable[[], None]) -> ServerSentEvent | None:
    """Runs `work` beside the event loop; a database that is gone is reported and the stream goes on."""
    try:
        await run_in_threadpool(work)
    except SQLAlchemyError:
        return _event("trouble", "The database can’t be reached.")
    return None


def _event(name: str, data: str) -> ServerSentEvent:
    return ServerSentEvent(event=name, data=data)
