"""The Sources screen: the shop's library of source sheets."""

import json
from typing import Annotated
from urllib.parse import quote
from uuid import UUID

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field

from upper_rook.core.common.units import Key
from upper_rook.core.run.readings.records import Version
from upper_rook.core.sources.source_report import Beside, beside
from upper_rook.core.sources.source_sheet import SourceSheet
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.desk import source_sheets as desk
from upper_rook.desk.source_sheets import SourceView
from upper_rook.formats.shelf_tag import shelf_tag
from upper_rook.formats.source_file import read_source, source_schema, write_csv, write_source
from upper_rook.store import source_library
from upper_rook.store.source_library import KeptSource, SourcePage, SourcesWanted
from upper_rook.web import acts, bodies
from upper_rook.web.access import Store
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api/sources", tags=["sources"], dependencies=[acts.WORK])

PAGE = 40


class SourcesAsked(SourcesWanted):
    """Filter and page of the sources to list."""

    after: str | None = Field(default=None, max_length=100)
    limit: int = Field(default=PAGE, ge=1, le=100)


class SourceEdit(BaseModel):
    """A sheet as it should be, and the version it was edited from."""

    model_config = ConfigDict(extra="forbid")
    base_version: Version
    sheet: SourceSheet


class FromJob(BaseModel):
    """A source of a job that was measured there."""

    model_config = ConfigDict(extra="forbid")
    job_id: UUID
    source: Key


class IntoJob(BaseModel):
    """A job's sheet, and which of its sources is to come from the library."""

    model_config = ConfigDict(extra="forbid")
    sheet: JobSheet
    source: Key
    unit: Key | None = None


@router.get("", responses=responses())
def list_sources(store: Store, asked: Annotated[SourcesAsked, Query()]) -> SourcePage:
    """A page of the sources that are wanted, the last touched first."""
    with store() as session:
        return source_library.find(session, asked, asked.after, asked.limit)


@router.get("/schema", response_class=Response, responses={200: {"content": {"application/schema+json": {}}}})
def get_schema() -> Response:
    """The JSON Schema of a source file."""
    return Response(json.dumps(source_schema(), ensure_ascii=False), media_type="application/schema+json")


@router.post("/{source_id}/file", status_code=201, responses=responses(409), openapi_extra=bodies.DOCUMENT)
async def import_source(request: Request, store: Store, source_id: UUID) -> KeptSource:
    """Keeps a source file as a sheet; sending it twice keeps it once."""
    sheet = read_source(await request.body())
    with store() as session:
        return desk.keep_new(session, source_id, sheet)


@router.post("/{source_id}/from-job", status_code=201, responses=responses(404, 409))
def from_job(store: Store, source_id: UUID, measured: FromJob) -> KeptSource:
    """A job's measurements of a source, as a new sheet or as another unit of this one."""
    with store() as session:
        return desk.from_job(session, source_id, measured.job_id, measured.source)


@router.post("/{source_id}/into-job", responses=responses(404), dependencies=[acts.LOOK])
def into_job(store: Store, source_id: UUID, wanted: IntoJob) -> JobSheet:
    """A job's sheet with this source in place of one of its own; nothing is saved."""
    with store() as session:
        return desk.into_job(session, source_id, wanted.sheet, wanted.source, wanted.unit)


@router.get("/{source_id}", responses=responses(404))
def get_source(store: Store, source_id: UUID, unit: Key | None = None) -> SourceView:
    """One sheet and the report on a unit of it; without a unit the one measured last."""
    with store() as session:
        return desk.view(session, source_id, unit)


@router.put("/{source_id}", responses=responses(404, 409))
def save_source(store: Store, source_id: UUID, edit: SourceEdit) -> KeptSource:
    """Keeps a sheet in place of its former version."""
    with store() as session:
        return desk.save(session, source_id, edit.base_version, edit.sheet)


@router.put("/{source_id}/deleted", responses=responses(404))
def delete_source(store: Store, source_id: UUID, to: bodies.InBin) -> KeptSource:
    """Puts a sheet into the bin, or takes it out."""
    with store() as session:
        return desk.set_in_bin(session, source_id, to.there)


@router.get("/{source_id}/beside/{other_id}", responses=responses(404))
def compare(store: Store, source_id: UUID, other_id: UUID) -> list[Beside]:
    """Two sheets side by side, by the outputs that both call alike."""
    with store() as session:
        source_sheet, other = (source_library.get_source(session, own_id).sheet for own_id in (source_id, other_id))
        return list(beside(source_sheet, other))


@router.get("/{source_id}/file", response_class=Response, responses=responses(404))
def export_source(store: Store, source_id: UUID) -> Response:
    """The sheet as a source file."""
    with store() as session:
        sheet = source_library.get_source(session, source_id).sheet
    return _attached(write_source(sheet), "application/json", f"{sheet.name}.source.json")


@router.get("/{source_id}/matrix", response_class=Response, responses=responses(404))
def export_matrix(store: Store, source_id: UUID) -> Response:
    """Every clean maximum as CSV."""
    with store() as session:
        sheet = source_library.get_source(session, source_id).sheet
    return _attached(write_csv(sheet), "text/csv; charset=utf-8", f"{sheet.name}.csv")


@router.get("/{source_id}/tag", response_class=Response, responses=responses(404))
def export_tag(store: Store, source_id: UUID, unit: Key | None = None) -> Response:
    """The shelf tag as SVG."""
    with store() as session:
        view = desk.view(session, source_id, unit)
    sheet = view.kept.sheet
    return _attached(shelf_tag(sheet, view.report), "image/svg+xml", f"{sheet.name}.svg")


def _attached(text: str, media_type: str, name: str) -> Response:
    return Response(
        text,
        media_type=media_type,
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name, safe='')}"},
    )
