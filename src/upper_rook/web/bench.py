"""The simulated bench: knobs to turn in the app."""

import secrets
from uuid import UUID

from fastapi import APIRouter, Response
from sqlmodel import Session

from upper_rook.core.common.errors import BadInput
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.instruments.simulated import BenchState, BenchView, bench_for, scope_export, starting_state, view
from upper_rook.store import benches, jobs
from upper_rook.store.jobs import Job
from upper_rook.web.access import Database
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api/jobs/{job_id}/bench", tags=["bench"])


def seed_of(job_id: UUID) -> int:
    """Every job's bench differs from its data sheets in its own way."""
    return job_id.int % 2**32


def state_of(session: Session, job: Job) -> BenchState:
    """The bench of a job as it stands now."""
    kept = benches.bench_state(session, job.id)
    if kept is None:
        return starting_state(job.sheet)
    state = BenchState.model_validate(kept)
    return state.model_copy(update={"volume": min(state.volume, _top(job.sheet))})


@router.get("", responses=responses(404))
def get_bench(session: Database, job_id: UUID) -> BenchView:
    """The bench's knobs and the wave at its probe."""
    job = jobs.get_job(session, job_id)
    state = state_of(session, job)
    return view(bench_for(job.sheet, seed_of(job_id), state.path), state)


@router.put("", responses=responses(404))
def turn(session: Database, job_id: UUID, state: BenchState) -> BenchView:
    """Sets every knob of the bench."""
    job = jobs.get_job(session, job_id)
    top = _top(job.sheet)
    if state.volume > top:
        raise BadInput(f"Volume {state.volume} is outside the scale, which ends at {top}.", "volume")
    benches.save_bench_state(session, job_id, state.model_dump(mode="json"))
    return view(bench_for(job.sheet, seed_of(job_id), state.path), state)


@router.get("/scope.csv", response_class=Response, responses={200: {"content": {"text/csv": {}}}, **responses(404)})
def get_scope(session: Database, job_id: UUID) -> Response:
    """The wave at the probe as the simulated oscilloscope exports it; every export has its own noise."""
    job = jobs.get_job(session, job_id)
    state = state_of(session, job)
    export = scope_export(bench_for(job.sheet, seed_of(job_id), state.path), state, secrets.randbits(32))
    return Response(export, media_type="text/csv")


def _top(sheet: JobSheet) -> int:
    return sheet.chain.source_of(sheet.chain.paths[0]).top_volume
