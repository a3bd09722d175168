"""Errors as RFC 9457 problem details: a sentence, a field, and never a disguise."""

import logging
from typing import Any
from uuid import uuid4

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from sqlalchemy.exc import InterfaceError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from starlette.exceptions import HTTPException

from upper_rook.core.common.changes import Change
from upper_rook.core.common.errors import BadInput, Conflict, NotFound, RookError
from upper_rook.core.common.refusals import refusals
from upper_rook.desk.auth.credentials import NotProven, Shut, TooManyTries
from upper_rook.desk.pdf_drawing import NotDrawn
from upper_rook.formats.capture_reader import LARGEST_BYTES
from upper_rook.formats.document import Unreadable
from upper_rook.store.jobs import Job, SheetConflict

log = logging.getLogger("upper_rook")


class Busy(RookError):
    """Nothing is wrong with what was asked; there is too much to do."""


class NotYours(RookError):
    """The person who is signed in may not do that here."""


STATUS: dict[type[RookError], int] = {
    NotYours: 403,
    NotFound: 404,
    Conflict: 409,
    BadInput: 422,
    Busy: 503,
    NotDrawn: 503,
    Shut: 401,
    NotProven: 428,
    TooManyTries: 429,
}
TITLES = {
    401: "Signed out",
    403: "Not from here",
    404: "Not found",
    405: "Not done like this",
    408: "Too slow",
    409: "Changed in the meantime",
    413: "Too large",
    421: "Another workshop’s server",
    422: "Can’t be used",
    423: "Locked",
    428: "Show that it is you",
    429: "Too many tries",
    500: "A fault in Upper Rook",
    503: "Try again later",
    507: "The disk is full",
}


# PostgreSQL's codes: disk_full; query_canceled, lock_not_available, too_many_connections, cannot_connect_now.
_DISK_FULL = "53100"
_BUSY = ("57014", "55P03", "53300", "57P03")

LARGEST_BODY = 1_000_000
"""Bytes of a request, but for the files that a route takes piece by piece."""
LARGEST_AT_THE_DOOR = 16_000
"""Bytes of a request that a stranger may send."""


class FieldProblem(BaseModel):
    """One value that can't be used."""

    field: str
    sentence: str


class Problem(BaseModel):
    """An error as it is answered (RFC 9457)."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    """The sentence for the user."""
    field: str | None = None
    errors: list[FieldProblem] = []
    newest: Job | None = None
    """On a conflict: the job as it is now."""
    differs: list[Change] = []
    """On a conflict: what the refused write would change in it."""


def responses(*statuses: int) -> dict[int | str, dict[str, Any]]:
    """Answers of a route besides success, for its OpenAPI entry."""
    return {status: {"model": Problem, "description": TITLES[status]} for status in (*statuses, 422, 503)}


def answer(status: int, detail: str, **more: Any) -> JSONResponse:
    """A problem document."""
    problem = Problem(**{"title": TITLES.get(status, "Refused")} | more, status=status, detail=detail)
    return JSONResponse(problem.model_dump(mode="json"), status, media_type="application/problem+json")


def in_words(status: int, otherwise: str = "The request was refused.") -> JSONResponse:
    """A refusal that comes from the framework, in the words of this app."""
    known = {
        400: "This address isn’t one that the app answers to: open it as http://127.0.0.1 with its port.",
        404: "There is nothing at this address.",
        405: "This address doesn’t accept that kind of request.",
        507: "The disk is too full for this file: free some space. The file waits on its device.",
        413: f"A request has at most {LARGEST_BODY:,} bytes, a capture’s file {LARGEST_BYTES // 1_000_000} MB.",
    }
    return answer(status, known.get(status, otherwise))


def status_of(error: RookError) -> int:
    """The HTTP status of an error, by the nearest class that has one. Raises KeyError for an unmapped one."""
    return next((STATUS[kind] for kind in type(error).__mro__ if kind in STATUS), None) or STATUS[type(error)]


def install(app: FastAPI) -> None:
    """Registers a handler for every kind of error."""

    @app.exception_handler(RookError)
    def _rook(_: Request, error: RookError) -> JSONResponse:
        more: dict[str, Any] = {"field": error.field}
        if isinstance(error, SheetConflict):
            more |= {"newest": error.newest, "differs": list(error.differs)}
        if isinstance(error, Unreadable):
            more["errors"] = [
                FieldProblem(field=refusal.place, sentence=refusal.sentence) for refusal in error.refusals
            ]
        return answer(status_of(error), error.sentence, **more)

    @app.exception_handler(RequestValidationError)
    def _invalid(_: Request, error: RequestValidationError) -> JSONResponse:
        refused = refusals(error.errors(), skip=("body", "query", "path"))
        found = [FieldProblem(field=refusal.place, sentence=refusal.sentence) for refusal in refused]
        first = found[0]
        detail = f"{first.field}: {first.sentence}" if first.field else first.sentence
        return answer(422, detail, field=first.field or None, errors=found)

    @app.exception_handler(HTTPException)
    def _http(_: Request, error: HTTPException) -> JSONResponse:
        if error.status_code == 400:
            # The framework's word for a body that isn't text.
            return answer(422, "The request’s body isn’t JSON in UTF-8.")
        reply = in_words(error.status_code, str(error.detail))
        reply.headers.update(error.headers or {})
        return reply

    # A list of kinds is not taken at once.
    for kind in OF_THE_DATABASE:
        app.add_exception_handler(kind, lambda _, error: of_the_database(error))


OF_THE_DATABASE = (OperationalError, InterfaceError, PoolTimeout)
"""Error for when the database can't do it now."""


def of_the_database(error: Exception) -> JSONResponse:
    """A database that can't do it now: which of the reasons it is, is distinguished."""
    state = getattr(getattr(error, "orig", None), "sqlstate", None) or ""
    if state == _DISK_FULL:
        title, sentence = "The disk is full", "The disk is full, so nothing can be saved: free some space."
    elif isinstance(error, PoolTimeout) or state in _BUSY:
        title, sentence = "Busy", "The server is busy and couldn’t do this in time."
    else:
        title, sentence = "The database can’t be reached", "The database can’t be reached."
    log.warning("503: %s (%s %s)", title, type(error).__name__, state)
    reply = answer(503, f"{sentence} Unsaved entries stay on this device and are sent again.", title=title)
    reply.headers["Retry-After"] = "2"
    return reply


def fault(method: str, path: str, error: Exception) -> JSONResponse:
    """Unforeseen fault: logged under a number, answered without a word of its content."""
    number = uuid4().hex[:8]
    log.error("fault %s at %s %s", number, method, path, exc_info=error)
    reply = answer(500, f"Something went wrong inside Upper Rook. The log has it as fault {number}.")
    # Whatever state the connection is in, nothing else is to be read from it.
    reply.headers["Connection"] = "close"
    return reply
