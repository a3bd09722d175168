"""The papers of a job: the shop's sheet and the customer's card as PDF, HTML and JSON."""

from enum import StrEnum
from typing import Annotated, Any
from urllib.parse import quote
from uuid import UUID

from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool

from upper_rook.core.common.errors import BadInput
from upper_rook.core.handover.customer_card import customer_card
from upper_rook.core.handover.document import Handover
from upper_rook.core.handover.labels import labels
from upper_rook.desk import handovers
from upper_rook.desk.auth.sessions import Passing
from upper_rook.desk.pdf_drawing import DRAWER
from upper_rook.formats.handover_html import MOST_ON_PAPER, Paper, card_html, sheet_html
from upper_rook.formats.label_sheet import LabelGrid, label_html, label_pages
from upper_rook.store import photos
from upper_rook.web import acts
from upper_rook.web.access import Here, Store, here, sees_customers
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["handover"], dependencies=[acts.WORK])


class Sheet(StrEnum):
    """Reader that a paper is for."""

    SHEET = "sheet"
    """The shop: everything."""
    CARD = "card"
    """The customer: the number, what to leave alone, when to come back."""


def _file(kind: str) -> dict[int | str, dict[str, Any]]:
    return {200: {"content": {kind: {}}}}


@router.get("/handover.json", responses=responses(404))
def get_document(store: Store, who: Here, job_id: UUID) -> Handover:
    """Everything that leaves with the vehicle, as a document."""
    with store() as session:
        return handovers.document_of(session, job_id, shows_customer=sees_customers(who))


@router.get("/labels.svg", response_class=Response, responses=_file("image/svg+xml") | responses(404, 422))
def get_label_page(store: Store, job_id: UUID, grid: Annotated[LabelGrid, Query()]) -> Response:
    """The first sheet of labels as SVG, in millimetres."""
    vehicle, pages = _label_pages(store, job_id, grid)
    return Response(pages[0], media_type="image/svg+xml", headers=_named(vehicle, "labels", "svg"))


@router.get("/labels.pdf", response_class=Response, responses=_file("application/pdf") | responses(404, 422, 503))
async def get_labels(request: Request, store: Store, job_id: UUID, grid: Annotated[LabelGrid, Query()]) -> Response:
    """Every sheet of labels as PDF, to be printed at 100 %."""
    vehicle, pages = await run_in_threadpool(_label_pages, store, job_id, grid)
    drawn = await _drawn(request, label_html(pages, grid))
    return Response(drawn, media_type="application/pdf", headers=_named(vehicle, "labels", "pdf"))


@router.get("/{sheet}.html", response_class=Response, responses=_file("text/html") | responses(404))
def get_html(store: Store, who: Here, job_id: UUID, sheet: Sheet, paper: Paper = Paper.A4) -> Response:
    """A paper as one file that fetches nothing."""
    vehicle, html = _written(store, who, job_id, sheet, paper)
    return Response(html, media_type="text/html; charset=utf-8", headers=_named(vehicle, sheet, "html"))


@router.get("/{sheet}.pdf", response_class=Response, responses=_file("application/pdf") | responses(404, 503))
async def get_pdf(request: Request, store: Store, job_id: UUID, sheet: Sheet, paper: Paper = Paper.A4) -> Response:
    """A paper as PDF, tagged, with its fonts."""
    # The database is let go of before anything is drawn, and who waits for a turn holds no thread.
    vehicle, html = await run_in_threadpool(_written, store, here(request), job_id, sheet, paper)
    drawn = await _drawn(request, html)
    return Response(drawn, media_type="application/pdf", headers=_named(vehicle, sheet, "pdf"))


async def _drawn(request: Request, html: str) -> bytes:
    """The PDF of a page, one at a time: drawing takes a processor to itself, and saves come first."""
    async with request.app.state.drawing:
        return await run_in_threadpool(DRAWER.drawn, html)


def _label_pages(store: Store, job_id: UUID, grid: LabelGrid) -> tuple[str, tuple[str, ...]]:
    with store() as session:
        document = handovers.document_of(session, job_id)
    pages = label_pages(labels(document), grid)
    if not pages:
        raise BadInput("Nothing was measured yet: there is nothing to put on a label.", "job_id")
    return document.vehicle, pages


def _written(store: Store, who: Passing | None, job_id: UUID, sheet: Sheet, paper: Paper) -> tuple[str, str]:
    with store() as session:
        document = handovers.document_of(session, job_id, shows_customer=sees_customers(who))
        if sheet is Sheet.CARD:
            return document.vehicle, card_html(customer_card(document), paper)
        shown = photos.small_files(session, [photo.id for photo in document.photos[:MOST_ON_PAPER]])
    html = sheet_html(document, paper, shown)
    return document.vehicle, html


def _named(vehicle: str, sheet: str, ending: str) -> dict[str, str]:
    name = quote(f"{vehicle or 'job'} {sheet}.{ending}", safe="")
    # The page of a browser that opens it stays the app's own: a file of ours carries no script.
    return {"Content-Disposition": f"attachment; filename*=UTF-8''{name}"}
