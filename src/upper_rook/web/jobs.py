"""The list of jobs, and the System screen: a job's sheet and its history."""

from typing import Annotated
from urllib.parse import unquote
from uuid import UUID

from fastapi import APIRouter, Header, Query
from pydantic import BaseModel, ConfigDict, Field

from upper_rook.core.common.units import Key, Name, Text
from upper_rook.core.run.readings.records import Version
from upper_rook.core.system.job_sheet import JobSheet, Subject
from upper_rook.core.system.layouts import Template, templates
from upper_rook.core.system.methods import QUESTIONS, Question
from upper_rook.core.system.new_parts import NewParts, new_parts
from upper_rook.desk import job_list
from upper_rook.desk import jobs as desk
from upper_rook.desk.job_list import PAGE
from upper_rook.desk.jobs import FromLibrary
from upper_rook.store import jobs
from upper_rook.store.job_list import LONGEST_SEARCH, JobPage, Wanted
from upper_rook.store.jobs import Job, KeptVersion, SheetVersion
from upper_rook.web import acts
from upper_rook.web.access import Here, Store, by_of, name_of, need_library, practice_of, sees_customers
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api/jobs", tags=["jobs"], dependencies=[acts.WORK])
methods_router = APIRouter(prefix="/api/methods", tags=["jobs"], dependencies=[acts.WORK])
templates_router = APIRouter(prefix="/api/templates", tags=["jobs"], dependencies=[acts.WORK])


class NewJob(BaseModel):
    """A job to begin: its parts start as middling ones, to be edited."""

    model_config = ConfigDict(extra="forbid")
    id: UUID
    subject: Subject = Subject.SYSTEM
    vehicle: Name = ""
    """Of a source on its own: which unit it is."""
    note: Text = ""
    by: Name = ""
    layout: Key | None = None
    """Layout it begins with; a front pair where none is given."""
    source_sheet: UUID | None = None
    """A source of the library: the one that is measured on its own, or what takes the place of the layout's first."""
    unit: Key | None = None
    """Unit whose measurements count; the one measured last where none is given."""
    practice: bool = False
    """To practise on: nothing in it is of a real vehicle."""


class SheetEdit(BaseModel):
    """A job's sheet as it should be, and the version it was edited from."""

    model_config = ConfigDict(extra="forbid")
    base_version: Version
    sheet: JobSheet
    by: Name = ""


class Shelved(BaseModel):
    """Whether a job is to be there."""

    model_config = ConfigDict(extra="forbid")
    there: bool


class Copy(BaseModel):
    """The id of the new job, and whether it is practice; as the other one where nothing is said."""

    model_config = ConfigDict(extra="forbid")
    id: UUID
    by: Name = ""
    practice: bool | None = None


_LONGEST_PRIVATE = 12 * LONGEST_SEARCH
"""Characters of the header: each letter of the longest search may take twelve."""


class PageAsked(Wanted):
    """Jobs to show to list, and which page of them."""

    after: str | None = Field(default=None, max_length=100)
    """Cursor from the page before."""
    limit: int = Field(default=PAGE, ge=1, le=100)


@router.get("", responses=responses())
def list_jobs(
    store: Store,
    who: Here,
    asked: Annotated[PageAsked, Query()],
    private: Annotated[str | None, Header(alias="rook-search", max_length=_LONGEST_PRIVATE)] = None,
) -> JobPage:
    """
    A page of the jobs that are wanted, the last touched first.

    Words in the header `rook-search`, percent-encoded, are looked for in customers too: no log of addresses has them.
    """
    wanted = asked.model_copy(update={"practice": practice_of(who, asked.practice)})
    if private is not None:
        wanted = wanted.model_copy(update={"search": unquote(private)[:LONGEST_SEARCH]})
    with store() as session:
        return job_list.page(
            session, wanted, wanted.after, wanted.limit, customers=private is not None and sees_customers(who)
        )


@router.post("", status_code=201, responses=responses(404, 409))
def create_job(store: Store, who: Here, new: NewJob) -> Job:
    """Begins a job; sending it twice begins it once."""
    by, practice = name_of(who, new.by), bool(practice_of(who, new.practice))
    if new.source_sheet is not None:
        need_library(who)
    with store() as session:
        if new.subject is Subject.SOURCE:
            return desk.begin_alone(session, new.id, new.vehicle, new.source_sheet, by, practice=practice)
        source = FromLibrary(new.source_sheet, new.unit) if new.source_sheet else None
        return desk.begin(
            session, new.id, new.vehicle, new.note, by, layout=new.layout, source=source, practice=practice
        )


@templates_router.get("", responses=responses())
def list_templates() -> list[Template]:
    """Systems to begin with."""
    return list(templates())


@templates_router.get("/new-parts", responses=responses())
def get_new_parts() -> NewParts:
    """Figures that a new part of every kind begins with, and those that nobody has confirmed."""
    return new_parts()


@methods_router.get("", responses=responses())
def list_methods() -> list[Question]:
    """Where practitioners disagree: every method, and what it costs."""
    return list(QUESTIONS)


@router.get("/{job_id}", responses=responses(404))
def get_job(store: Store, job_id: UUID) -> Job:
    """One job with its newest sheet."""
    with store() as session:
        return jobs.get_job(session, job_id)


@router.put("/{job_id}/sheet", responses=responses(404, 409))
def save_sheet(store: Store, who: Here, job_id: UUID, edit: SheetEdit) -> Job:
    """Saves a new version of a job's sheet."""
    with store() as session:
        return desk.save_sheet(session, job_id, edit.base_version, edit.sheet, name_of(who, edit.by))


@router.put("/{job_id}/archived", responses=responses(404))
def archive(store: Store, job_id: UUID, to: Shelved) -> Job:
    """Puts a job among the archived ones, or back."""
    with store() as session:
        return desk.archive(session, job_id, to.there)


@router.put("/{job_id}/deleted", responses=responses(404))
def delete(store: Store, who: Here, job_id: UUID, to: Shelved) -> Job:
    """Puts a job into the bin, from which it can be restored for 30 days on which the app runs, or takes it out."""
    with store() as session:
        return desk.delete(session, job_id, to.there, by_of(who))


@router.post("/{job_id}/copy", status_code=201, responses=responses(404, 409))
def duplicate(store: Store, who: Here, job_id: UUID, new: Copy) -> Job:
    """Begins a job with the sheet of this one; nothing that was measured goes along."""
    with store() as session:
        practice = practice_of(who, new.practice)
        return desk.duplicate(session, job_id, new.id, name_of(who, new.by), practice=practice)


@router.get("/{job_id}/history", responses=responses(404))
def get_history(store: Store, job_id: UUID) -> list[SheetVersion]:
    """Every version of a job's sheet: who, when, what changed."""
    with store() as session:
        jobs.need_job(session, job_id)
        return jobs.history(session, job_id)


@router.get("/{job_id}/history/{version}", responses=responses(404))
def get_version(store: Store, job_id: UUID, version: Version) -> KeptVersion:
    """A job's sheet as it once was, and what going back to it would change."""
    with store() as session:
        return jobs.kept_version(session, job_id, version)
