"""The live channel: what changed, and what the meter shows, as server-sent events."""

import asyncio
import time
from collections.abc import AsyncIterator, Callable
from uuid import UUID

from fastapi import APIRouter, Request
from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError
from sqlmodel import Session
from sse_starlette import EventSourceResponse, ServerSentEvent
from starlette.concurrency import run_in_threadpool

from upper_rook.core.common.units import LongKey
from upper_rook.desk.bench import MeterEvent, Watch
from upper_rook.store import jobs
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["live"])

# An idle stream still says that it is there.
BEAT_S = 2.0


@router.get("/meter", responses=responses(404))
def read_meter(request: Request, job_id: UUID, step: LongKey = "none") -> MeterEvent:
    """The meter's present display, held against the target of `step`."""
    return Watch(request.app.state.engine, job_id, step).read()


@router.get(
    "/live",
    response_class=EventSourceResponse,
    responses={200: {"content": {"text/event-stream": {}}}, **responses(404)},
)
def live(request: Request, job_id: UUID, step: LongKey = "none", meter: bool = False) -> EventSourceResponse:
    """Events `changed` (sheet and version, run, bench, all), `beat`, `meter` (a MeterEvent), `trouble` (a sentence)."""
    engine: Engine = request.app.state.engine
    # A session asked for as a dependency would live, and hold its connection, as long as the stream.
    with Session(engine) as session:
        jobs.get_job(session, job_id)
    source = Watch(engine, job_id, step) if meter else None
    return EventSourceResponse(_events(request, job_id, source), ping=3600)


async def _events(request: Request, job_id: UUID, watch: Watch | None) -> AsyncIterator[ServerSentEvent]:
    period = watch.meter.period_s if watch else BEAT_S
    with request.app.state.changes.subscribe(str(job_id)) as queue:
        yield _event("beat", "hello")
        due = time.monotonic()
        while True:
            try:
                what = await asyncio.wait_for(queue.get(), max(0.0, due - time.monotonic()))
            except TimeoutError:
                due = max(due + period, time.monotonic())
                yield await _update(watch) if watch else _event("beat", "still here")
                continue
            if watch and what != "bench":
                yield await _guarded(watch.reload, lambda _, told=what: _event("changed", told))
            else:
                yield _event("changed", what)


async def _update(watch: Watch) -> ServerSentEvent:
    return await _guarded(watch.read, lambda update: _event("meter", update.model_dump_json()))


async def _guarded(work: Callable[[], object], tell: Callable[..., ServerSentEvent]) -> ServerSentEvent:
    """Runs `work` beside the event loop; a database that is gone is told and the stream goes on."""
    try:
        return tell(await run_in_threadpool(work))
    except SQLAlchemyError:
        return _event("trouble", "The database can't be reached.")


def _event(name: str, data: str) -> ServerSentEvent:
    return ServerSentEvent(event=name, data=data)
