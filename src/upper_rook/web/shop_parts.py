"""The Parts screen: amplifiers, processors and speakers that the shop knows."""

import json
from typing import Annotated
from urllib.parse import quote
from uuid import UUID

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field

from upper_rook.core.common.units import LongKey
from upper_rook.core.parts.shop_part import ShopPart
from upper_rook.core.run.readings.records import Version
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.desk import shop_parts as desk
from upper_rook.desk.shop_parts import PartView
from upper_rook.formats.part_file import part_schema, read_part, write_part
from upper_rook.store import part_library
from upper_rook.store.part_library import KeptPart, PartPage, PartsWanted
from upper_rook.web import acts, bodies
from upper_rook.web.access import Store
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api/parts", tags=["parts"], dependencies=[acts.WORK])

PAGE = 40


class PartsAsked(PartsWanted):
    """Filter and page of the parts to list."""

    after: str | None = Field(default=None, max_length=100)
    limit: int = Field(default=PAGE, ge=1, le=100)


class PartEdit(BaseModel):
    """A part as it should be, and the version it was edited from."""

    model_config = ConfigDict(extra="forbid")
    base_version: Version
    sheet: ShopPart


class PartOfJob(BaseModel):
    """A part of a job, by its place in the system: `amplifiers.front`."""

    model_config = ConfigDict(extra="forbid")
    job_id: UUID
    place: LongKey


class PartIntoJob(BaseModel):
    """A job's sheet, and the place in its system that takes the shop's figures."""

    model_config = ConfigDict(extra="forbid")
    sheet: JobSheet
    place: LongKey


@router.get("", responses=responses())
def list_parts(store: Store, asked: Annotated[PartsAsked, Query()]) -> PartPage:
    """A page of the parts that are wanted, the last touched first."""
    with store() as session:
        return part_library.find(session, asked, asked.after, asked.limit)


@router.get("/schema", response_class=Response, responses={200: {"content": {"application/schema+json": {}}}})
def get_schema() -> Response:
    """The JSON Schema of a part file."""
    return Response(json.dumps(part_schema(), ensure_ascii=False), media_type="application/schema+json")


@router.get("/{part_id}", responses=responses(404))
def get_part(store: Store, part_id: UUID) -> PartView:
    """A part, and stated against measured."""
    with store() as session:
        return desk.view(session, part_id)


@router.get(
    "/{part_id}/file", response_class=Response, responses={200: {"content": {"application/json": {}}}, **responses(404)}
)
def export_part(store: Store, part_id: UUID) -> Response:
    """A part as an open file."""
    with store() as session:
        part = part_library.get_part(session, part_id).sheet
    name = quote(f"{part.name or 'part'}.json", safe="")
    headers = {"Content-Disposition": f"attachment; filename*=UTF-8''{name}"}
    return Response(write_part(part), media_type="application/json", headers=headers)


@router.post("/{part_id}/file", status_code=201, responses=responses(409), openapi_extra=bodies.DOCUMENT)
async def import_part(request: Request, store: Store, part_id: UUID) -> KeptPart:
    """Keeps a part from a file, under an id that its sender chose."""
    part = read_part(await request.body())
    with store() as session:
        return desk.keep_new(session, part_id, part)


@router.put("/{part_id}", responses=responses(404, 409))
def save_part(store: Store, part_id: UUID, edit: PartEdit) -> KeptPart:
    """Keeps a part in place of its former version."""
    with store() as session:
        return desk.save(session, part_id, edit.base_version, edit.sheet)


@router.put("/{part_id}/deleted", responses=responses(404))
def set_in_bin(store: Store, part_id: UUID, wanted: bodies.InBin) -> KeptPart:
    """Puts a part into the bin, or takes it out."""
    with store() as session:
        return desk.set_in_bin(session, part_id, there=wanted.there)


@router.post("/{part_id}/from-job", status_code=201, responses=responses(404, 409))
def from_job(store: Store, part_id: UUID, of: PartOfJob) -> KeptPart:
    """Keeps a part of a job among the shop's, or what was measured of it as another unit."""
    with store() as session:
        return desk.from_job(session, part_id, of.job_id, of.place)


@router.post("/{part_id}/into-job", responses=responses(404), dependencies=[acts.LOOK])
def into_job(store: Store, part_id: UUID, into: PartIntoJob) -> JobSheet:
    """A job's sheet with the shop's figures at a place; nothing is kept."""
    with store() as session:
        return desk.into_job(session, part_id, into.sheet, into.place)
