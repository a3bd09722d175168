"""The handover document: all that was set, measured, skipped and left, for whoever opens the vehicle next."""

from datetime import date
from typing import Literal, NamedTuple
from uuid import UUID

from upper_rook.core.common import cautions
from upper_rook.core.common.units import Frozen, Name
from upper_rook.core.customers.customer import Customer
from upper_rook.core.plan.plan import PathPlan
from upper_rook.core.run.readings.photos import Drawn, Photo
from upper_rook.core.run.readings.records import Mark, Reading, by_whom
from upper_rook.core.run.result.progress import Run
from upper_rook.core.run.result.result import Result, TopVolume
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.kind import Measured
from upper_rook.core.run.steps.plugs import PlugDrawing
from upper_rook.core.system.chain import Chain

FORMAT: Literal[1] = 1


class Number(Frozen):
    """The number never to pass of one source."""

    source: str
    volume: int | None
    """None while nobody knows."""
    voltage_v: float | None
    uncertainty_v: float | None
    """Expanded, at about 95 %."""
    sentence: str
    by_way: tuple[str, ...]
    """Numbers by way of playing, where those differ."""
    further: tuple[str, ...]
    """Numbers by tone, kind of output and output, where those differ."""
    holds_with: tuple[str, ...]
    """Settings without which it doesn't hold."""
    source_settings: tuple[str, ...]
    """Those of them that are the source's own, or the phone's."""
    taken_on: date | None
    """The day that it was measured."""
    sureness: str


class Level(Frozen):
    """A stage of a path, while the gain is set."""

    stage: str
    level_v: float
    clean_maximum_v: float
    headroom_db: float


class Levels(Frozen):
    """A path, stage by stage, the source first."""

    path: str
    stages: tuple[Level, ...]


class HandoverPhoto(Frozen):
    """A photo of the job. Its file isn't in the document."""

    id: UUID
    caption: str
    shows: str
    """Part, and step that it was taken at; empty for a photo of neither."""
    taken_on: date
    by: str
    """Person who took it, marked where a file says so."""
    width: int
    """Pixels."""
    height: int
    drawn: tuple[Drawn, ...]


class Signature(Frozen):
    """Somebody who answered for the job as it stood."""

    by: Name
    day: date
    note: str
    covers: str
    stands: bool
    """Whether nothing has changed since."""


class Handover(Frozen):
    """Everything that leaves with the vehicle. Volts are RMS, of sine tones, without speakers."""

    format: Literal[1] = FORMAT
    vehicle: str
    note: str
    practice: bool
    complete: bool
    day: date
    """The day that the document was written."""
    measured_on: date | None
    """The day of the newest reading that counts."""
    version: int
    """Version of the system that it is of."""
    numbers: tuple[Number, ...]
    outputs: tuple[Measured, ...]
    levels: tuple[Levels, ...]
    left: tuple[str, ...]
    """Knobs, filters and other settings as they were left."""
    plugs: tuple[PlugDrawing, ...]
    parts: tuple[str, ...]
    chosen: tuple[str, ...]
    outdated: tuple[str, ...]
    guessed: tuple[str, ...]
    skipped: tuple[str, ...]
    open: tuple[str, ...]
    done_by: tuple[str, ...]
    customer: str
    """Customer, plate and mileage; empty where the reader may not see them."""
    brought_in: str
    """Where the job came from, if that was a file: what was done before is as the file says."""
    signatures: tuple[Signature, ...]
    photos: tuple[HandoverPhoto, ...]
    cautions: tuple[str, ...]


class Written(NamedTuple):
    """Details of a document that aren't of the run."""

    day: date
    """The day that it is written on."""
    version: int
    """Version of the system that it is of."""
    signatures: tuple[Signature, ...] = ()
    customer: Customer | None = None
    brought_in: str = ""
    from_file: int = 0
    """Arrival of the last record that came with a file."""
    photos: tuple[Photo, ...] = ()


def handover(snapshot: JobSnapshot, run: Run, result: Result, written: Written) -> Handover:
    """The document of a run and its result."""
    sheet = snapshot.sheet
    return Handover(
        vehicle=result.vehicle,
        note=result.note,
        practice=sheet.practice,
        complete=result.complete,
        day=written.day,
        measured_on=max(
            (reading.taken_at.date() for reading in snapshot.readings if reading.struck is None), default=None
        ),
        version=written.version,
        numbers=tuple(_number(top_volume) for top_volume in result.top_volumes),
        outputs=result.outputs,
        levels=tuple(_levels(path) for path in run.plan.paths),
        left=result.left,
        plugs=result.plugs,
        parts=result.parts,
        chosen=result.chosen,
        outdated=result.outdated,
        guessed=result.guessed,
        skipped=result.skipped,
        open=result.open,
        done_by=_done_by((*snapshot.readings, *snapshot.marks), written.from_file),
        customer=written.customer.in_words if written.customer else "",
        brought_in=written.brought_in,
        signatures=written.signatures,
        photos=tuple(_photo(photo, sheet.chain, run, written.from_file) for photo in written.photos),
        cautions=(cautions.MAKERS_FIRST.text,),
    )


def _number(top: TopVolume) -> Number:
    by_tone = [(last_clean.of, last_clean.volume) for last_clean in top.by_tone]
    by_kind = [(limit.words, limit.volume) for limit in top.by_kind]
    by_output = [(f"{last_clean.of} clean to", last_clean.volume) for last_clean in top.by_output]
    return Number(
        source=top.name,
        volume=top.volume,
        voltage_v=top.voltage_v,
        uncertainty_v=top.uncertainty_v,
        sentence=top.sentence,
        by_way=tuple(f"{last_clean.of} {last_clean.volume}" for last_clean in top.by_way),
        further=tuple(f"{of} {volume}" for of, volume in (*by_tone, *by_kind, *by_output)),
        holds_with=top.holds_with,
        source_settings=top.source_settings,
        taken_on=top.taken_on,
        sureness=top.sureness.sentence if top.sureness else "",
    )


def _photo(photo: Photo, chain: Chain, run: Run, from_file: int) -> HandoverPhoto:
    step = next((step.name for step in run.steps if step.key == photo.step), "")
    part = chain.name_at(photo.part) if photo.part else ""
    return HandoverPhoto(
        id=photo.id,
        caption=photo.name,
        shows=", ".join(name for name in (part, step) if name),
        taken_on=photo.taken_at.date(),
        by=by_whom(photo, from_file),
        width=photo.width,
        height=photo.height,
        drawn=photo.drawn,
    )


def _levels(path: PathPlan) -> Levels:
    return Levels(
        path=path.name,
        stages=tuple(
            Level(
                stage=stage.name,
                level_v=stage.level_v,
                clean_maximum_v=stage.clean_maximum_v,
                headroom_db=stage.headroom_db,
            )
            for stage in path.stage_levels
        ),
    )


def _done_by(records: tuple[Reading | Mark, ...], from_file: int) -> tuple[str, ...]:
    """Everybody whose readings and answers count, in the order of their first."""
    counted = (record for record in records if record.by and record.struck is None)
    return tuple(dict.fromkeys(by_whom(record, from_file) for record in counted))
