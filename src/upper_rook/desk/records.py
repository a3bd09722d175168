"""Taking a reading, saying something about a step, taking either back, putting it back."""

from dataclasses import replace
from uuid import UUID

from sqlmodel import Session

from upper_rook.core.common.errors import BadInput
from upper_rook.core.metrology.meters import profile
from upper_rook.core.run.readings.circumstances import Circumstances
from upper_rook.core.run.readings.older_records import present_step
from upper_rook.core.run.readings.points import OutputPoint, Point
from upper_rook.core.run.readings.records import Answer, Eye, Mark, NewMark, NewReading, Quantity, Reading
from upper_rook.core.run.readings.tried_setting import TriedSetting, row_key
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import run_sheet
from upper_rook.core.run.steps.step import Step
from upper_rook.core.run.visits.chapters import BACK, CHECK_KEY
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.clean_maximum import Basis
from upper_rook.core.system.job_sheet import JobSheet, Subject
from upper_rook.desk.job_snapshots import Sheeted, records_now, sheeted, snapshot_of
from upper_rook.desk.runs import worked_out
from upper_rook.desk.transaction import transaction
from upper_rook.store import jobs, record_keeping, records, trail
from upper_rook.store.trail import NOBODY, Act, By


def take_reading(session: Session, job_id: UUID, new: NewReading) -> Reading:
    """
    Keeps a reading at the point of its step, under the sheet that it names; sent twice it is kept once.

    Raises:
        NotFound: without such a job, version or instrument.
        BadInput: when the step takes no readings, or the volume is off the scale.
        Conflict: when another record has this id.
    """
    with transaction(session):
        return keep_reading(session, job_id, new)


def keep_reading(session: Session, job_id: UUID, new: NewReading) -> Reading:
    """The same within a transaction that is open."""
    version = sheeted(session, job_id, new.sheet_version)
    step, sheet = _step(session, job_id, version, new.step), version.sheet
    _refuse_off_scale(sheet, step, new.circumstances.volume)
    point, wants = _asked(step, new)
    played, row = new.circumstances.tone or wants.tone, wants.row or new.circumstances.row
    reading = Reading(
        **new.model_dump(exclude={"step", "circumstances", "builds_on"}),
        step=step.key,
        point=point,
        circumstances=new.circumstances.model_copy(
            update={"tone": played, "way": new.circumstances.way or wants.way, "row": row}
        ),
        builds_on=new.builds_on if new.builds_on is not None else _rested_on(session, job_id, sheet, step),
        uncertainty=_uncertainty(new, played),
    )
    return record_keeping.add_reading(session, job_id, reading)


def _asked(step: Step, new: NewReading) -> tuple[Point, Circumstances]:
    """Where a reading is taken and what should be so; of several readings those of the one that it names."""
    if step.wants is None or step.point is None:
        raise BadInput(f"“{step.title}” has no readings: open a step that measures.", "step")
    if new.circumstances.setting is not None:
        return _added(step, new, new.circumstances.setting)
    named = (*step.rows, *step.beside)
    row = next((row for row in named if row.key == new.circumstances.row), None)
    if step.rows and row is None:
        names = ", ".join(row.key for row in step.rows)
        raise BadInput(f"“{step.title}” asks for several readings: say which this is, one of {names}.", "circumstances")
    if row is None and new.circumstances.row is not None:
        raise BadInput(f"“{step.title}” asks for one reading, which has no name.", "circumstances")
    quantity = row.quantity if row else Quantity.AC_VOLTS
    heard = row is None and step.by_ear and new.quantity is Quantity.VERDICT
    if heard and new.seen is Eye.UNSEEN:
        raise BadInput("Say whether it sounded clean or harsh.", "seen")
    if new.quantity is not quantity and not heard:
        raise BadInput(f"“{step.title}” asks for {quantity.value.replace('_', ' ')} here.", "quantity")
    return (row.point, row.wants) if row else (step.point, step.wants)


def _added(step: Step, new: NewReading, setting: TriedSetting) -> tuple[Point, Circumstances]:
    """The same of a row that somebody adds, named by what it is."""
    now, may = new.circumstances, step.own_rows
    if may is None or not isinstance(step.point, OutputPoint):
        raise BadInput(f"“{step.title}” compares no settings: open the step of trims.", "circumstances")
    if setting.output not in {output.id for output in may.outputs}:
        raise BadInput(f"No path is fed from the output “{setting.output}”: choose another.", "circumstances")
    if may.ways and now.way not in (None, *may.ways):
        raise BadInput("The customer doesn’t play that way: choose another, or add it to the source.", "circumstances")
    if now.volume is None or new.quantity is not Quantity.AC_VOLTS:
        raise BadInput("Save the volts of a setting at a volume number: its own clean maximum.", "circumstances")
    tone = now.tone or step.wants.tone if step.wants else now.tone
    point = OutputPoint(source=step.point.source, output=setting.output)
    return point, now.model_copy(update={"row": row_key(setting, now.way, tone), "tone": tone})


def _lines(step: Step) -> set[str]:
    """Rows and lines of a step that can be answered."""
    return {item.key for item in step.items} | {row.key for row in step.rows}


def _uncertainty(new: NewReading, played: Tone | None) -> float | None:
    meter = profile(new.instrument)
    if new.quantity is Quantity.DC_VOLTS:
        return meter.dc_uncertainty_v(new.value)
    if new.quantity is not Quantity.AC_VOLTS or played is None:
        return None
    return meter.uncertainty_v(new.value, played.frequency_hz)


def say(session: Session, job_id: UUID, new: NewMark) -> Mark:
    """
    Keeps an answer, a decision or a skip; said twice it is kept once.

    Raises:
        NotFound: without such a job or version.
        BadInput: when the step has no such line, or nothing was read at the number that is taken.
        Conflict: when another record has this id.
    """
    with transaction(session):
        if (new.step, new.item) == (CHECK_KEY, BACK):
            return _begin_visit(session, job_id, new)
        step = _step(session, job_id, sheeted(session, job_id, new.sheet_version), new.step)
        if new.item is not None and new.item not in _lines(step):
            raise BadInput(f"“{step.title}” has no line “{new.item}”.", "item")
        if new.basis is Basis.FOLLOWS:
            _refuse_unseen(session, job_id, step, new.volume)
        elif new.volume is not None and not records.has_reading_at(session, job_id, step.key, new.volume):
            raise BadInput(f"There is no reading at {new.volume} yet: save one there first.", "volume")
        return record_keeping.add_mark(session, job_id, Mark(**new.model_dump(exclude={"step"}), step=step.key))


def _begin_visit(session: Session, job_id: UUID, new: NewMark) -> Mark:
    """The step of a visit's check is there once a visit began, so that its beginning asks for no step."""
    sheet = sheeted(session, job_id, new.sheet_version).sheet
    if new.answer is not Answer.DONE or sheet.subject is not Subject.SYSTEM:
        raise BadInput("A visit begins with a vehicle that is back: its line is answered with done.", "answer")
    if not any(reading.struck is None for reading in records_now(session, job_id).readings):
        raise BadInput("Nothing was measured yet: a visit begins once something was.", "item")
    return record_keeping.add_mark(session, job_id, Mark(**new.model_dump()))


def strike(session: Session, job_id: UUID, record_id: UUID, reason: str, by: By = NOBODY) -> Reading | Mark:
    """Strikes out a reading or a mark; it stays in the record with the reason. Raises NotFound."""
    with transaction(session):
        trail.note(session, by, Act.STRUCK, f"{job_id} {record_id}: {reason}")
        return record_keeping.strike(session, job_id, record_id, reason)


def put_back(session: Session, job_id: UUID, record_id: UUID, by: By = NOBODY) -> Reading | Mark:
    """Has a reading or a mark count again. Raises NotFound."""
    with transaction(session):
        trail.note(session, by, Act.PUT_BACK, f"{job_id} {record_id}")
        return record_keeping.put_back(session, job_id, record_id)


def step_now(session: Session, job_id: UUID, sheet_version: int, key: str) -> Step:
    """A step as it is with all records. Raises NotFound and BadInput."""
    version = sheeted(session, job_id, sheet_version)
    known = _step(session, job_id, version, key)
    return next((step for step in _steps_now(session, job_id, version.sheet) if step.key == known.key), known)


def _step(session: Session, job_id: UUID, version: Sheeted, key: str) -> Step:
    if key not in version.steps:
        # A device may still hold records of the version before.
        key = present_step(key, version.sheet.chain.model_dump(mode="json"))
    if key in version.steps:
        return version.steps[key]
    # Volume steps that were read before the ways of playing were told apart is there by its records alone.
    found = next((step for step in _steps_now(session, job_id, version.sheet) if step.key == key), None)
    if found is None:
        raise BadInput(f"There is no step “{key}” in this run: reload the page.", "step")
    return found


def _now(session: Session, job_id: UUID, sheet: JobSheet) -> JobSnapshot:
    """A sheet with the job's records as they are."""
    job = jobs.get_job(session, job_id)
    return replace(snapshot_of(session, job, records_now(session, job_id)), sheet=sheet)


def _steps_now(session: Session, job_id: UUID, sheet: JobSheet) -> tuple[Step, ...]:
    if sheet == jobs.get_job(session, job_id).sheet:
        # As a page that shows the run had it worked out.
        return worked_out(session, job_id).run.steps
    return run_sheet(_now(session, job_id, sheet))


def _refuse_unseen(session: Session, job_id: UUID, step: Step, volume: int | None) -> None:
    """Check that a copied reading comes from a point that was seen to agree."""
    snapshot = _now(session, job_id, jobs.get_job(session, job_id).sheet)
    asked = next((point for point in snapshot.asked if point.key == step.key), None)
    followed = snapshot.measured.followed_by(asked.point) if asked else None
    if followed is None or followed.taken.clean_maximum.volume != volume:
        raise BadInput(f"Nothing was seen to give {volume} here as well: measure it.", "volume")


def _refuse_off_scale(sheet: JobSheet, step: Step, volume: int | None) -> None:
    path = next((path for path in sheet.chain.paths if path.id == step.along), None)
    source_id = step.point.source if isinstance(step.point, OutputPoint) else path.source if path else None
    top = next((source.top_volume for source in sheet.chain.sources if source.id == source_id), None)
    if volume is not None and top is not None and volume > top:
        raise BadInput(f"Volume {volume} is outside the scale, which ends at {top}.", "volume")


def _rested_on(session: Session, job_id: UUID, sheet: JobSheet, step: Step) -> tuple[UUID, ...]:
    """Dependencies of the step as the reading arrives, where its sender doesn't say."""
    if not step.after:
        return ()
    return next(other.builds_on for other in _steps_now(session, job_id, sheet) if other.key == step.key)
