"""The simulated bench: knobs to turn in the app."""

from uuid import UUID

from fastapi import APIRouter, Response

from upper_rook.desk import bench
from upper_rook.instruments.simulated import BenchState, BenchView
from upper_rook.web import acts
from upper_rook.web.access import Store
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api/jobs/{job_id}/bench", tags=["bench"], dependencies=[acts.WORK])


@router.get("", responses=responses(404))
def get_bench(store: Store, job_id: UUID) -> BenchView:
    """The bench's knobs and the wave at its probe."""
    with store() as session:
        return bench.bench_view(session, job_id)


@router.put("", responses=responses(404))
def turn(store: Store, job_id: UUID, state: BenchState) -> BenchView:
    """Sets every knob of the bench."""
    with store() as session:
        return bench.turn(session, job_id, state)


@router.get("/scope.csv", response_class=Response, responses={200: {"content": {"text/csv": {}}}, **responses(404)})
def get_scope(store: Store, job_id: UUID) -> Response:
    """The wave at the probe as the simulated oscilloscope exports it; every export has its own noise."""
    with store() as session:
        return Response(bench.scope_file(session, job_id), media_type="text/csv")
