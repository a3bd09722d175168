"""The live channel: what changed, and what the meter shows, as server-sent events."""

import asyncio
import time
from collections.abc import AsyncIterator, Callable
from uuid import UUID

from fastapi import APIRouter, Request
from pydantic import BaseModel
from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError
from sqlmodel import Session
from sse_starlette import EventSourceResponse, ServerSentEvent
from starlette.concurrency import run_in_threadpool

from upper_rook.core.common.units import Key
from upper_rook.core.metrology.comparison import Comparison, compare
from upper_rook.core.run.progress import progress
from upper_rook.instruments.meter import Meter, Sample
from upper_rook.instruments.simulated import BenchState, SimulatedMeter, bench_for
from upper_rook.store import jobs
from upper_rook.store.records import records_of
from upper_rook.web.access import Database
from upper_rook.web.bench import seed_of, state_of
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["live"])

# An idle stream still says that it is there.
BEAT_S = 2.0


class MeterEvent(BaseModel):
    """One update of a meter, held against the open step's target."""

    sample: Sample
    comparison: Comparison | None
    """None when the step has no target, the display shows zero, or the probe is elsewhere."""
    elsewhere: bool
    """Whether the instrument knows that it is clipped on another point than the step wants."""


@router.get("/meter", responses=responses(404))
def read_meter(request: Request, job_id: UUID, step: Key = "none") -> MeterEvent:
    """The meter's present display, held against the target of `step`."""
    return _Watch(request.app.state.engine, job_id, step).read()


@router.get(
    "/live",
    response_class=EventSourceResponse,
    responses={200: {"content": {"text/event-stream": {}}}, **responses(404)},
)
def live(
    request: Request, session: Database, job_id: UUID, step: Key = "none", meter: bool = False
) -> EventSourceResponse:
    """Events `changed` (sheet, run, bench, all), `beat`, `meter` (a MeterEvent) and `trouble` (a sentence)."""
    jobs.get_job(session, job_id)
    engine: Engine = request.app.state.engine
    source = _Watch(engine, job_id, step) if meter else None
    return EventSourceResponse(_events(request, job_id, source), ping=3600)


class _Watch:
    """A step's target and the meter that watches it."""

    def __init__(self, engine: Engine, job_id: UUID, step: str) -> None:
        self._engine, self._job_id, self._step = engine, job_id, step
        self._load()

    def _load(self) -> None:
        with Session(self._engine) as session:
            self._job = jobs.get_job(session, self._job_id)
            kept = records_of(session, self._job_id)
        run = progress(self._job.sheet, kept.readings, kept.marks)
        step = next((one for one in run.steps if one.key == self._step), None)
        self._target = step.target if step else None
        self._probe_at = step.probe_at if step else None
        self._path = step.path if step else None
        seed = seed_of(self._job_id)
        sheet = self._job.sheet
        self._first_path = sheet.chain.paths[0].id
        self.meter: Meter = SimulatedMeter(
            lambda state: bench_for(sheet, seed, state.path), self._state, time.time, seed
        )

    def _on_another_path(self) -> bool:
        return self._path is not None and (self._state().path or self._first_path) != self._path

    def reload(self) -> None:
        """Looks at the sheet and the run again."""
        self._load()

    def read(self) -> MeterEvent:
        """One update. Blocks."""
        sample = self.meter.read()
        elsewhere = bool(sample.probe and self._probe_at and sample.probe != self._probe_at) or self._on_another_path()
        comparable = self._target is not None and sample.value_v > 0 and not elsewhere
        return MeterEvent(
            sample=sample,
            comparison=compare(sample.value_v, sample.uncertainty_v, self._target.value, self._target.limits)
            if comparable and self._target
            else None,
            elsewhere=elsewhere,
        )

    def _state(self) -> BenchState:
        with Session(self._engine) as session:
            return state_of(session, self._job)


async def _events(request: Request, job_id: UUID, watch: _Watch | None) -> AsyncIterator[ServerSentEvent]:
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


async def _update(watch: _Watch) -> ServerSentEvent:
    return await _guarded(watch.read, lambda update: _event("meter", update.model_dump_json()))


async def _guarded(work: Callable[[], object], tell: Callable[..., ServerSentEvent]) -> ServerSentEvent:
    """Runs `work` beside the event loop; a database that is gone is told and the stream goes on."""
    try:
        return tell(await run_in_threadpool(work))
    except SQLAlchemyError:
        return _event("trouble", "The database can't be reached.")


def _event(name: str, data: str) -> ServerSentEvent:
    return ServerSentEvent(event=name, data=data)
