"""The plan, the run and the result of a job, worked out from what is stored."""

from collections import Counter
from typing import NamedTuple
from uuid import UUID

from sqlmodel import Session

from upper_rook.core.common.units import Frozen
from upper_rook.core.plan.plan import Plan
from upper_rook.core.run.readings.records import Mark, Reading, Record
from upper_rook.core.run.result.chapters import Chapter, chapters
from upper_rook.core.run.result.progress import Run, run_of
from upper_rook.core.run.result.result import Result, result
from upper_rook.core.run.result.spectra import Spectra, spectra
from upper_rook.core.run.result.tone_set import NumberedTone, tone_set
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.desk.job_snapshots import records_now, snapshot_of
from upper_rook.desk.remembered import Remembered
from upper_rook.formats.readings_csv import readings_table
from upper_rook.store import archived_jobs, captures, jobs
from upper_rook.store.archived_jobs import Origin
from upper_rook.store.jobs import Job
from upper_rook.store.records import ReadingPage, Records, readings_before, taking_records

# Two databases may hold the same job, so the key says which.
_runs: Remembered[tuple[object, UUID, int, Records], tuple[Run, Result]] = Remembered(8)
_chapters: Remembered[tuple[object, UUID, int, Records], tuple[Chapter, ...]] = Remembered(8)

_latest_readings: Remembered[tuple[object, UUID, Records], tuple[Reading, ...]] = Remembered(8)

LATEST = 40
"""How many records of each step go along with a run: what its screen shows."""


class RunView(Frozen):
    """A job's run with the newest records behind it."""

    job: Job
    run: Run
    readings: tuple[Reading, ...]
    """The newest LATEST of each step, oldest first, struck ones too."""
    marks: tuple[Mark, ...]
    taken: int
    """How many readings there are in all."""
    origin: Origin | None
    """The file that the job came from."""


def run_view(session: Session, job_id: UUID) -> RunView:
    """The plan, every step, its state, and the newest readings and marks. Raises NotFound."""
    job, kept = jobs.get_job(session, job_id), records_now(session, job_id)
    return RunView(
        job=job,
        run=_run_and_result(session, job, kept)[0],
        readings=_latest_readings.once((session.get_bind(), job_id, kept), lambda: _latest(kept.readings)),
        marks=_latest(kept.marks),
        taken=len(kept.readings),
        origin=archived_jobs.origin(session, job_id),
    )


def _latest(records: tuple[Record, ...]) -> tuple[Record, ...]:
    seen: Counter[str] = Counter()
    newest = []
    for record in reversed(records):
        seen[record.step] += 1
        if seen[record.step] <= LATEST:
            newest.append(record)
    return tuple(reversed(newest))


def readings_page(session: Session, job_id: UUID, before: int | None, limit: int) -> ReadingPage:
    """A page of a job's readings, the newest first. Raises NotFound."""
    jobs.need_job(session, job_id)
    return readings_before(session, job_id, before, limit)


def tones_of(session: Session, job_id: UUID) -> tuple[NumberedTone, ...]:
    """The tones that the run plays as it is, numbered in its order. Raises NotFound."""
    return tone_set(_run_and_result(session, jobs.get_job(session, job_id), records_now(session, job_id))[0].steps)


def spectra_of(session: Session, job_id: UUID) -> tuple[Spectra, ...]:
    """The recordings of noise that readings of the run stand on, as third octaves. Raises NotFound."""
    jobs.need_job(session, job_id)
    noises = captures.noises(session, job_id)
    if not noises:
        return ()
    found = worked_out(session, job_id)
    return spectra(found.snapshot, found.run.steps, noises)


def readings_table_of(session: Session, job_id: UUID) -> str:
    """Every reading as a table for people, struck ones with their reason. Raises NotFound."""
    kept = records_now(session, job_id)
    steps = _run_and_result(session, jobs.get_job(session, job_id), kept)[0].steps
    rows = {(step.key, row.key): row.name for step in steps for row in (*step.rows, *step.beside)}
    origin = archived_jobs.origin(session, job_id)
    titles = {step.key: step.title for step in steps}
    return readings_table(kept.readings, titles, rows, origin.records if origin else 0)


class WorkedOut(NamedTuple):
    """A job as it stands, with all that follows from it."""

    job: Job
    snapshot: JobSnapshot
    run: Run
    result: Result


def worked_out(session: Session, job_id: UUID) -> WorkedOut:
    """Everything of a job as it stands. Raises NotFound."""
    job, kept = jobs.get_job(session, job_id), records_now(session, job_id)
    run, found = _run_and_result(session, job, kept)
    return WorkedOut(job, snapshot_of(session, job, kept), run, found)


def chapters_of(session: Session, job_id: UUID) -> tuple[Chapter, ...]:
    """The first work and every visit since, each as it was left. Raises NotFound."""
    job, kept = jobs.get_job(session, job_id), records_now(session, job_id)
    run, found = _run_and_result(session, job, kept)
    key = (session.get_bind(), job.id, job.version, kept)
    return _chapters.once(key, lambda: chapters(snapshot_of(session, job, kept), run, found))


def result_of(session: Session, job_id: UUID) -> Result:
    """The sheet to hand over. Raises NotFound."""
    return _run_and_result(session, jobs.get_job(session, job_id), records_now(session, job_id))[1]


def _run_and_result(session: Session, job: Job, kept: Records) -> tuple[Run, Result]:
    """Both at once: next to its run a result costs nothing, and a page asks for the two side by side."""

    def work_out() -> tuple[Run, Result]:
        snapshot = snapshot_of(session, job, kept)
        run = run_of(snapshot)
        return run, result(snapshot, run)

    return _runs.once((session.get_bind(), job.id, job.version, kept), work_out)


def preview(session: Session, job_id: UUID, sheet: JobSheet) -> Plan:
    """The plan that a sheet would have; nothing is saved. Raises NotFound."""
    jobs.get_job(session, job_id)
    kept = taking_records(session, job_id)
    return JobSnapshot(sheet=sheet, readings=kept.readings, marks=kept.marks).plan
