"""Keeping a capture, attaching it, holding it against its reading, striking it out."""

from collections.abc import Callable
from typing import BinaryIO
from uuid import UUID

from sqlalchemy import Engine
from sqlmodel import Session

from upper_rook.core.judge.agreement import Agreement, Point, Shown, agreement
from upper_rook.core.judge.examination import Examination, examine_ladder, examine_wave
from upper_rook.core.judge.wave_report import Verdict
from upper_rook.core.metrology.meters import profile
from upper_rook.core.run.kept_captures import Capture, CaptureKind, NewCapture, headline
from upper_rook.desk.transaction import transaction
from upper_rook.formats.capture_reader import HEAD_BYTES, kind_of, read_capture
from upper_rook.formats.ladder_csv import read_ladder
from upper_rook.store import captures, jobs, records

_LEAST_V = 1e-4


class CaptureView(Capture):
    """A capture, and whether it agrees with the reading that it belongs to."""

    agreement: Agreement | None = None


def need_job(engine: Engine, job_id: UUID) -> None:
    """Raises NotFound without such a job, before a file is received for it."""
    with Session(engine) as session:
        jobs.get_job(session, job_id)


def keep_capture(session: Session, job_id: UUID, new: NewCapture, digest: str, file: BinaryIO) -> Capture:
    """
    Judges a file and keeps it with the job; sent twice it is kept once.

    Raises:
        NotFound: without such a job.
        BadInput: when the file can't be read.
        Conflict: when another capture has this id.
    """
    with transaction(session):
        kept = captures.known_capture(session, job_id, new.id, digest)
        if kept:
            return kept
        top_volume = max(source.top_volume for source in jobs.get_job(session, job_id).sheet.chain.sources)
        file.seek(0)
        kind = kind_of(file.read(HEAD_BYTES))
        size = file.seek(0, 2)
        file.seek(0)
        examination = _EXAMINE[kind](file, new, top_volume)
        capture = Capture(
            **new.model_dump(),
            kind=kind,
            headline=headline(examination),
            size=size,
            examination=examination,
        )
        file.seek(0)
        return captures.add_capture(session, job_id, capture, digest, file)


def _wave(file: BinaryIO, new: NewCapture, _top_volume: int) -> Examination:
    return examine_wave(read_capture(file, new.full_scale_v), new.expect_hz)


def _ladder(file: BinaryIO, _new: NewCapture, top_volume: int) -> Examination:
    return examine_ladder(read_ladder(file.read()), top_volume)


_EXAMINE: dict[CaptureKind, Callable[[BinaryIO, NewCapture, int], Examination]] = {
    CaptureKind.CSV: _wave,
    CaptureKind.WAV: _wave,
    CaptureKind.LADDER: _ladder,
}


def attach(session: Session, job_id: UUID, capture_id: UUID, reading_id: UUID | None) -> CaptureView:
    """Attaches a capture to a reading of the job, or to none. Raises NotFound."""
    with transaction(session):
        return _view(session, captures.attach(session, job_id, capture_id, reading_id))


def strike(session: Session, job_id: UUID, capture_id: UUID, reason: str) -> Capture:
    """Strikes a capture out; it stays with the job, with the reason. Raises NotFound."""
    with transaction(session):
        return captures.strike_capture(session, job_id, capture_id, reason)


def capture_view(session: Session, job_id: UUID, capture_id: UUID) -> CaptureView:
    """One capture and all that it came to. Raises NotFound."""
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
    return CaptureView(**dict(capture), agreement=held)
