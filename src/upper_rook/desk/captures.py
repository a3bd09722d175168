"""Keeping a capture, attaching it, holding it against its reading, striking it out."""

from pathlib import Path
from uuid import UUID

from sqlmodel import Session

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.moments import Moment
from upper_rook.core.common.units import Frozen, Key, LongKey, Name
from upper_rook.core.judge.agreement import Agreement, Point, Shown, agreement
from upper_rook.core.judge.wave_report import Verdict
from upper_rook.core.metrology.meters import profile
from upper_rook.core.run.readings.circumstances import Volume
from upper_rook.core.run.readings.kept_captures import Capture, CaptureKind, NewCapture, headline
from upper_rook.core.run.readings.records import Evidence, NewReading, Reading, Version
from upper_rook.core.run.steps.readings_from_capture import CaptureReading, reading_id, readings_from_capture
from upper_rook.core.run.steps.step import Step
from upper_rook.desk.judging import JUDGE, Request
from upper_rook.desk.records import keep_reading, step_now
from upper_rook.desk.transaction import transaction
from upper_rook.formats.capture_reader import HEAD_BYTES, kind_of
from upper_rook.store import captures, jobs, records, trail
from upper_rook.store.trail import NOBODY, Act, By

_LEAST_V = 1e-4


class CaptureView(Capture):
    """A capture, and whether it agrees with the reading that it belongs to."""

    agreement: Agreement | None = None
    same_as: Name | None = None
    """Name of the same file when it came the first time."""


def keep_capture(session: Session, job_id: UUID, new: NewCapture, digest: str, file: Path) -> Capture:
    """
    Judges a file and keeps it with the job; sent twice it is kept once. One that can't be judged is kept all the same.

    Raises:
        NotFound: without such a job.
        BadInput: when it isn't a capture at all.
        Conflict: when another capture has this id.
    """
    with transaction(session):
        kept = captures.known_capture(session, job_id, new.id, digest)
        top_volume = max(source.top_volume for source in jobs.get_job(session, job_id).sheet.chain.sources)
    if kept:
        return kept
    with file.open("rb") as head:
        kind = kind_of(head.read(HEAD_BYTES))
    # Between two transactions: judging may take long, and nobody waits for it.
    examination = JUDGE.examine(Request(file=file, kind=kind, new=new, top_volume=top_volume))
    capture = Capture(
        **new.model_dump(),
        kind=kind,
        headline=headline(examination),
        size=file.stat().st_size,
        examination=examination,
    )
    with transaction(session), file.open("rb") as whole:
        return captures.add_capture(session, job_id, capture, digest, whole)


def attach(session: Session, job_id: UUID, capture_id: UUID, reading_id: UUID | None, by: By = NOBODY) -> CaptureView:
    """Attaches a capture to a reading of the job, or to none. Raises NotFound."""
    with transaction(session):
        trail.note(session, by, Act.ATTACHED, f"{job_id} {capture_id}: {reading_id or 'to none'}")
        return _view(session, captures.attach(session, job_id, capture_id, reading_id))


class CaptureUse(Frozen):
    """Use of a recording."""

    step: LongKey
    sheet_version: Version
    taken_at: Moment
    by: Name = ""
    volume: Volume | None = None
    """Where it was recorded; None for where the step wants it."""
    row: Key | None = None
    """The reading that it is for, where a step takes one recording for each."""


def use(session: Session, job_id: UUID, capture_id: UUID, used: CaptureUse) -> tuple[Reading, ...]:
    """
    Takes the readings that a recording answers for a step; used twice they are kept once.

    Raises:
        NotFound: without such a capture.
        BadInput: when it doesn't answer that step, or nobody has said what its full scale means.
    """
    capture = captures.get_capture(session, job_id, capture_id)
    if capture.struck is not None:
        raise BadInput("This recording was struck out: put it back first.", "capture")
    if capture.kind is CaptureKind.WAV and capture.full_scale_v is None:
        raise BadInput("Say what full scale of this recording means in volts: send it again with that.", "capture")
    with transaction(session):
        step = step_now(session, job_id, used.sheet_version, used.step)
        bass_db = jobs.get_job(session, job_id).sheet.choices.cabin_bass_db
        told = readings_from_capture(step, capture.examination, used.row, bass_db)
        return tuple(keep_reading(session, job_id, _as_reading(used, step, reading, capture_id)) for reading in told)


def _as_reading(used: CaptureUse, step: Step, told: CaptureReading, capture_id: UUID) -> NewReading:
    """Readings from a recording, named by it and by the rows they answer."""
    wants = told.row.wants
    volume = used.volume if used.volume is not None else wants.volume
    return NewReading(
        id=reading_id(capture_id, step.key, told.row.key),
        step=step.key,
        quantity=told.row.quantity,
        value=told.value,
        instrument="scope",
        circumstances=wants.model_copy(update={"volume": volume, "row": told.row.key}),
        seen=told.seen,
        evidence=Evidence.CAPTURE,
        builds_on=step.builds_on,
        sheet_version=used.sheet_version,
        taken_at=used.taken_at,
        by=used.by,
    )


def rename(session: Session, job_id: UUID, capture_id: UUID, name: str, by: By = NOBODY) -> Capture:
    """Calls a capture something else; its file stays as it came. Raises NotFound."""
    with transaction(session):
        trail.note(session, by, Act.RENAMED, f"{job_id} {capture_id}: {name}")
        return captures.rename_capture(session, job_id, capture_id, name)


def strike(session: Session, job_id: UUID, capture_id: UUID, reason: str, by: By = NOBODY) -> Capture:
    """Strikes a capture out; it stays with the job, with the reason. Raises NotFound."""
    with transaction(session):
        trail.note(session, by, Act.STRUCK, f"{job_id} {capture_id}: {reason}")
        return captures.strike_capture(session, job_id, capture_id, reason)


def put_back(session: Session, job_id: UUID, capture_id: UUID, by: By = NOBODY) -> Capture:
    """Has a capture count again. Raises NotFound."""
    with transaction(session):
        trail.note(session, by, Act.PUT_BACK, f"{job_id} {capture_id}")
        return captures.put_capture_back(session, job_id, capture_id)


def capture_view(session: Session, job_id: UUID, capture_id: UUID) -> CaptureView:
    """One capture with its verdict. Raises NotFound."""
    return _view(session, captures.get_capture(session, job_id, capture_id))


def _view(session: Session, capture: Capture) -> CaptureView:
    channels = capture.examination.channels
    reading = records.get_reading(session, capture.reading_id) if capture.reading_id else None
    held = None
    if reading and reading.tone and channels and channels[0].report.frequency_hz:
        wave = channels[0].report
        if wave.v_rms >= _LEAST_V:
            meter = Shown(profile=profile(reading.instrument), voltage_v=reading.value)
            scope = Shown(profile=profile("scope"), voltage_v=wave.v_rms)
            over = 0.0 if wave.verdict is Verdict.CLEAN else wave.over_db
            held = agreement(meter, scope, Point(frequency_hz=reading.tone.frequency_hz, over_db=over, dc_v=wave.v_dc))
    return CaptureView(**dict(capture), agreement=held, same_as=captures.same_file(session, capture))
