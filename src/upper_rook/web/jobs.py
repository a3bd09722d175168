"""The list of jobs, and the System screen: a job's sheet and its history."""

from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict

from upper_rook.core.common.units import Name, Text
from upper_rook.core.run.records import Version
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.layouts import Template, templates
from upper_rook.core.system.new_parts import NewParts, new_parts
from upper_rook.core.system.schools import QUESTIONS, Question
from upper_rook.desk import jobs as desk
from upper_rook.desk.jobs import JobSummary
from upper_rook.store import jobs
from upper_rook.store.jobs import Job, SheetVersion
from upper_rook.web.access import Database
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api/jobs", tags=["jobs"])
schools_router = APIRouter(prefix="/api/schools", tags=["jobs"])
templates_router = APIRouter(prefix="/api/templates", tags=["jobs"])


class NewJob(BaseModel):
    """A job to begin: its parts start as middling ones, to be edited."""

    model_config = ConfigDict(extra="forbid")
    id: UUID
    vehicle: Name = ""
    note: Text = ""
    by: Name = ""


class SheetEdit(BaseModel):
    """A job's sheet as it should be, and the version it was edited from."""

    model_config = ConfigDict(extra="forbid")
    base_version: Version
    sheet: JobSheet
    by: Name = ""


@router.get("", responses=responses())
def list_jobs(session: Database) -> list[JobSummary]:
    """Every job, the last touched first."""
    return desk.summaries(session)


@router.post("", status_code=201, responses=responses(409))
def create_job(session: Database, new: NewJob) -> Job:
    """Begins a job; sending it twice begins it once."""
    return desk.begin(session, new.id, new.vehicle, new.note, new.by)


@templates_router.get("", responses=responses())
def list_templates() -> list[Template]:
    """Systems to begin with."""
    return list(templates())


@templates_router.get("/new-parts", responses=responses())
def get_new_parts() -> NewParts:
    """What a new part of every kind begins with, and which of its figures nobody has confirmed."""
    return new_parts()


@schools_router.get("", responses=responses())
def list_schools() -> list[Question]:
    """Where practitioners disagree: every school, and what it costs."""
    return list(QUESTIONS)


@router.get("/{job_id}", responses=responses(404))
def get_job(session: Database, job_id: UUID) -> Job:
    """One job with its newest sheet."""
    return jobs.get_job(session, job_id)


@router.put("/{job_id}/sheet", responses=responses(404, 409))
def save_sheet(session: Database, job_id: UUID, edit: SheetEdit) -> Job:
    """Saves a new version of a job's sheet."""
    return desk.save_sheet(session, job_id, edit.base_version, edit.sheet, edit.by)


@router.get("/{job_id}/history", responses=responses(404))
def get_history(session: Database, job_id: UUID) -> list[SheetVersion]:
    """Every version of a job's sheet: who, when, what changed."""
    jobs.get_job(session, job_id)
    return jobs.history(session, job_id)
