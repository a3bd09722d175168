"""The simulated bench of a job: its knobs, its scope and its meter."""

import secrets
import time
from uuid import UUID

from sqlalchemy import Engine
from sqlmodel import Session

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import Frozen
from upper_rook.core.metrology.comparison import Comparison, compare
from upper_rook.core.plan.target import Target
from upper_rook.core.run.freshness.dependencies import FREQUENCY_WITHIN
from upper_rook.core.run.readings.points import Point
from upper_rook.core.run.steps import run_sheet
from upper_rook.core.run.steps.step import Step
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.desk.job_snapshots import records_now, snapshot_of
from upper_rook.desk.transaction import transaction
from upper_rook.instruments.meter import Meter, Sample
from upper_rook.instruments.meter_settling import Steadiness
from upper_rook.instruments.simulated import (
    BenchState,
    BenchView,
    SimulatedMeter,
    bench_for,
    is_at,
    path_on_bench,
    scope_export,
    starting_state,
    swapped,
    view,
)
from upper_rook.store import benches, jobs
from upper_rook.store.jobs import Job


class MeterEvent(Frozen):
    """One update of a meter, compared with the open step's target."""

    sample: Sample
    comparison: Comparison | None
    """None when the step has no target, the display shows zero, or the probe is elsewhere."""
    elsewhere: bool
    """Whether the instrument knows that it is on another point than the step wants."""
    other_tone: str = ""
    """That another tone plays than the step wants, where the instrument knows."""
    steady: bool = False
    """Whether the display has settled; until then it may still show what was before."""
    settles_s: float = 0.0
    """How long a meter of its kind needs after a change."""


def seed_of(job_id: UUID) -> int:
    """Every job's bench differs from its data sheets in its own way."""
    return job_id.int % 2**32


def bench_view(session: Session, job_id: UUID) -> BenchView:
    """The bench's knobs and the wave at its probe. Raises NotFound."""
    job = jobs.get_job(session, job_id)
    return _view(job, _state(session, job))


def turn(session: Session, job_id: UUID, state: BenchState) -> BenchView:
    """Sets every knob of the bench. Raises NotFound, and BadInput for a volume off the scale."""
    with transaction(session):
        job = jobs.get_job(session, job_id)
        top = _top_volume(job.sheet, state)
        if state.volume > top:
            raise BadInput(f"Volume {state.volume} is outside the scale, which ends at {top}.", "volume")
        state = swapped(_state(session, job), state)
        benches.save_bench_state(session, job_id, state.model_dump(mode="json"))
        return _view(job, state)


def scope_file(session: Session, job_id: UUID) -> bytes:
    """The wave at the probe as the simulated oscilloscope exports it; every export has its own noise."""
    job = jobs.get_job(session, job_id)
    state = _state(session, job)
    return scope_export(bench_for(job.sheet, seed_of(job_id), state), state, secrets.randbits(32))


class Watch:
    """A step's target and the meter that watches it."""

    def __init__(self, engine: Engine, job_id: UUID, step: str, row: str = "") -> None:
        """`row` names one of the readings that the step asks for, where those are several."""
        self._engine, self.job_id, self.step, self.row = engine, job_id, step, row
        self._steadiness: Steadiness | None = None
        self.reload()

    def reload(self) -> None:
        """Looks at the sheet and the run again."""
        with Session(self._engine) as session:
            self._job = jobs.get_job(session, self.job_id)
            snapshot = snapshot_of(session, self._job, records_now(session, self.job_id))
            steps: dict[str, Step] = {step.key: step for step in run_sheet(snapshot)}
        step = steps.get(self.step)
        row = next((row for row in step.rows if row.key == self.row), None) if step else None
        asked = row or step
        self._target: Target | None = asked.target if asked else None
        self._point: Point | None = asked.point if asked else None
        self._tone: Tone | None = asked.wants.tone if asked and asked.wants else None
        seed, sheet = seed_of(self.job_id), self._job.sheet
        self.meter: Meter = SimulatedMeter(sheet, seed, self._now, time.time)
        self._steadiness = self._steadiness or Steadiness(self.meter.profile.settles_s)

    def read(self) -> MeterEvent:
        """One update. Blocks."""
        sample = self.meter.read()
        elsewhere = sample.point is not None and self._point is not None and not is_at(sample.point, self._point)
        comparison = None
        if self._target is not None and sample.value_v > 0 and not elsewhere:
            comparison = compare(
                sample.value_v, sample.uncertainty_v, self._target.value, self._target.limits, self._target.turn
            )
        return MeterEvent(
            sample=sample,
            comparison=comparison,
            elsewhere=elsewhere,
            other_tone=self._other_tone(sample),
            steady=self._steadiness is not None and self._steadiness.is_steady(sample, time.monotonic()),
            settles_s=self.meter.profile.settles_s,
        )

    def _other_tone(self, sample: Sample) -> str:
        """The tone that plays, and the one to play, where those differ."""
        played, wanted = sample.tone, self._tone
        if played is None or wanted is None or abs(played.frequency_hz / wanted.frequency_hz - 1) <= FREQUENCY_WITHIN:
            return ""
        return f"{played.label} plays. Play {wanted.label}."

    def _now(self) -> BenchState:
        with Session(self._engine) as session:
            return _state(session, self._job)


def _state(session: Session, job: Job) -> BenchState:
    """The bench of a job as it is now."""
    kept = benches.bench_state(session, job.id)
    if kept is None:
        return starting_state(job.sheet)
    state = BenchState.model_validate(kept)
    return state.model_copy(update={"volume": min(state.volume, _top_volume(job.sheet, state))})


def _view(job: Job, state: BenchState) -> BenchView:
    return view(job.sheet, seed_of(job.id), state)


def _top_volume(sheet: JobSheet, state: BenchState) -> int:
    return sheet.chain.source_of(path_on_bench(sheet, state)).top_volume
