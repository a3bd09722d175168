"""Demo data: an invented workshop on a coast that does not exist, worked on the simulated bench."""

import hashlib
from collections.abc import Callable
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from tempfile import NamedTemporaryFile
from uuid import UUID, uuid5

from sqlalchemy import Engine
from sqlmodel import Session

from upper_rook.core.customers.customer import Customer, Stay
from upper_rook.core.run.readings.photos import Drawn, DrawnKind, NewPhoto, PhotoChange
from upper_rook.core.sources.for_a_job import source_for_job
from upper_rook.core.system.job_sheet import JobSheet, alone
from upper_rook.demo.demo_operator import BY, DemoOperator, finish, half_do
from upper_rook.demo.photos import jpeg, loom, panel
from upper_rook.demo.shelf import normalised, strong, weak
from upper_rook.demo.systems import (
    ACTIVE,
    BI_AMPLIFIED,
    FACTORY,
    FINISHED,
    HALFWAY,
    PLANNED,
    PRACTICE,
    STRAPPED,
    TOURER,
    boosted,
    from_the_shelf,
)
from upper_rook.desk import customers, jobs, photos, shop_parts, source_sheets
from upper_rook.store import jobs as stored_jobs
from upper_rook.store import source_library
from upper_rook.store.database import make_engine
from upper_rook.store.source_library import SourcesWanted
from upper_rook.store.trail import By

_SPACE = UUID("6f1c5b1e-52a1-4c52-9d6b-8a0f3a3b7a10")


def _measured_on() -> date:
    return datetime.now(UTC).date() - timedelta(days=12)


def _fill_library(session: Session) -> None:
    on = _measured_on()
    for sheet in (normalised(on), weak(on), strong(on)):
        source_sheets.keep_new(session, uuid5(_SPACE, sheet.name), sheet)


def fill(url: str) -> None:
    """Adds the demo's jobs and sources to the database at `url`; what is there already is left alone."""
    engine = make_engine(url)
    try:
        with Session(engine) as session:
            if not source_library.find(session, SourcesWanted(), None, 1).total:
                _fill_library(session)
        known = source_for_job(strong(_measured_on()), "source", uuid5(_SPACE, "Lanthorn R4"))
        for name, sheet, work in (
            ("practice", PRACTICE, None),
            ("alone", alone(known, "the one off the harbour bus"), None),
            ("from the shelf", from_the_shelf(known), None),
            ("strapped", STRAPPED, None),
            ("factory", FACTORY, None),
            ("bi-amplified", BI_AMPLIFIED, None),
            ("active", boosted(ACTIVE), None),
            ("tourer", TOURER, None),
            ("planned", PLANNED, None),
            ("finished", FINISHED, finish),
            ("halfway", HALFWAY, half_do),
        ):
            begun = _begin(engine, uuid5(_SPACE, name), sheet, work)
            if begun and sheet is FINISHED:
                _keep_parts(engine)
            if begun and sheet is HALFWAY:
                _enter_customer(engine, uuid5(_SPACE, name))
                _take_photos(engine, uuid5(_SPACE, name))
    finally:
        engine.dispose()


def _enter_customer(engine: Engine, job_id: UUID) -> None:
    """The minibus is due on Friday, as its note says."""
    today = datetime.now(UTC).date()
    friday = today + timedelta(days=(4 - today.weekday()) % 7)
    stay = Stay(arrived_on=today - timedelta(days=1), due_on=friday, mileage_km=182_400)
    customer = Customer(name="Harbour ferries, night desk", plate="HF 303", consent_on=today, stays=(stay,))
    with Session(engine) as session:
        customers.keep(session, job_id, 0, customer, By(BY))


def _take_photos(engine: Engine, job_id: UUID) -> None:
    """The amplifier's knobs, and the wires at its terminals."""
    ring = Drawn(kind=DrawnKind.CIRCLE, x=0.206, y=0.5, x2=0.29, y2=0.5)
    arrow = Drawn(kind=DrawnKind.ARROW, x=0.35, y=0.2, x2=0.27, y2=0.37)
    word = Drawn(kind=DrawnKind.WORD, x=0.36, y=0.18, text="gain of Saloon, as it came")
    taken_at = datetime.now(UTC) - timedelta(hours=3)
    with Session(engine) as session:
        for shot, caption, drawn in (
            (panel, "Knobs before anything was set", (ring, arrow, word)),
            (loom, "Speaker wires as they came", ()),
        ):
            new = NewPhoto(
                id=uuid5(job_id, caption), name=caption, part="amplifiers.amplifier", taken_at=taken_at, by=BY
            )
            with NamedTemporaryFile() as file:
                data = jpeg(shot)
                file.write(data)
                file.flush()
                kept = photos.keep_photo(session, job_id, new, hashlib.sha256(data).hexdigest(), Path(file.name))
            if drawn:
                wanted = PhotoChange(revision=1, name=kept.name, part=kept.part, step=None, drawn=drawn)
                photos.change(session, job_id, kept.id, wanted)


def _keep_parts(engine: Engine) -> None:
    """The finished job's first amplifier and speakers, as they came and as they were measured."""
    job_id = uuid5(_SPACE, "finished")
    with Session(engine) as session:
        chain = stored_jobs.get_job(session, job_id).sheet.chain
        for place in (f"amplifiers.{chain.amplifiers[0].id}", f"loads.{chain.loads[0].id}"):
            shop_parts.from_job(session, uuid5(_SPACE, place), job_id, place)


def _begin(engine: Engine, job_id: UUID, sheet: JobSheet, work: Callable[[DemoOperator], None] | None) -> bool:
    """Begins a job and says whether it wasn't there."""
    with Session(engine) as session:
        if stored_jobs.has_job(session, job_id):
            return False
        jobs.begin_with(session, job_id, sheet, BY)
        if work:
            work(DemoOperator(session, job_id, sheet))
        return True
