"""The application: routers, errors, the live channel and the built front end."""

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from fastapi import FastAPI
from fastapi.middleware.gzip import GZipMiddleware
from fastapi.openapi.utils import get_openapi
from fastapi.responses import FileResponse, JSONResponse, PlainTextResponse, Response
from sqlalchemy.orm import sessionmaker
from sqlmodel import Session
from starlette.middleware.body_limit import RequestBodyLimitMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware

from upper_rook import __version__
from upper_rook.desk.backups import before_a_purge
from upper_rook.desk.judging import JUDGE
from upper_rook.desk.pdf_drawing import DRAWER
from upper_rook.desk.photo_cleaning import CLEANER
from upper_rook.store.database import make_engine
from upper_rook.store.installation import installation_id
from upper_rook.web import (
    auth,
    background,
    bench,
    calculator,
    captures,
    customers,
    exchange,
    handovers,
    health,
    jobs,
    live,
    logbook,
    passkeys,
    people,
    photos,
    problems,
    run,
    run_sharing,
    shop_parts,
    sign_offs,
    sources,
    tones,
)
from upper_rook.web.acts import Acts
from upper_rook.web.auth_middleware import AuthMiddleware
from upper_rook.web.changes import Changes
from upper_rook.web.guard import Guard
from upper_rook.web.health import Checks
from upper_rook.web.known_addresses import KnownAddresses
from upper_rook.web.settings import THIRD_PARTY, Settings

ROUTERS = (
    health.router,
    auth.router,
    passkeys.router,
    people.router,
    jobs.router,
    jobs.templates_router,
    jobs.methods_router,
    calculator.router,
    run.router,
    sign_offs.router,
    customers.router,
    customers.due_router,
    logbook.router,
    run_sharing.router,
    captures.router,
    photos.router,
    sources.router,
    shop_parts.router,
    exchange.router,
    handovers.router,
    bench.router,
    live.router,
    tones.router,
)


def create_app(settings: Settings) -> FastAPI:
    """The application for `settings`; it connects to nothing until it is started."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        app.state.settings = settings
        app.state.engine = make_engine(settings.database_url)
        app.state.store = sessionmaker(app.state.engine, class_=Session)
        app.state.changes = Changes(settings.database_url)
        app.state.checks = Checks(settings.data)
        app.state.drawing = asyncio.Semaphore(1)
        with app.state.store() as session:
            app.state.installation = str(installation_id(session))

        def back_up() -> None:
            before_a_purge(settings.database_url, settings.data / "backups")

        async with app.state.changes.listening(), background.working(app.state.store, back_up):
            yield
        JUDGE.close()
        DRAWER.close()
        CLEANER.close()
        app.state.engine.dispose()

    app = FastAPI(title="Upper Rook", version=__version__, lifespan=lifespan, docs_url=None, redoc_url=None)
    app.state.known_addresses = KnownAddresses()
    app.add_middleware(GZipMiddleware, minimum_size=800, compresslevel=5)
    app.add_middleware(RequestBodyLimitMiddleware, max_body_size=problems.LARGEST_BODY)
    if settings.doors:
        app.add_middleware(AuthMiddleware, acts=Acts(ROUTERS))
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=list(settings.hosts))
    # The last added is the first that a request passes.
    app.add_middleware(Guard)
    problems.install(app)
    for router in ROUTERS:
        app.include_router(router)

    app.openapi = lambda: _schema(app)  # type: ignore[method-assign]
    _serve_front_end(app, settings)
    return app


def _schema(app: FastAPI) -> dict[str, Any]:
    """The OpenAPI document, with errors under their own media type."""
    if app.openapi_schema is None:
        schema = get_openapi(title=app.title, version=app.version, routes=app.routes)
        for operations in schema["paths"].values():
            for operation in operations.values():
                for status, reply in operation["responses"].items():
                    if status >= "400" and "content" in reply:
                        reply["content"] = {"application/problem+json": reply["content"].pop("application/json")}
        app.openapi_schema = schema
    return app.openapi_schema


def _file(root: Path, place: str) -> Path | None:
    """A built file, or None where there is none of that name; hidden ones are the builder's own."""
    try:
        file = (root / place).resolve()
        if place and file.is_relative_to(root) and file.is_file() and not file.name.startswith("."):
            return file
    except (OSError, ValueError):
        # A name that no file can have: too long, or with a character that isn't allowed.
        return None
    return None


def _serve_front_end(app: FastAPI, settings: Settings) -> None:
    """Serves the built files; every other address outside /api is a view of the app."""
    root = settings.front_end.resolve()

    @app.get("/robots.txt", include_in_schema=False)
    def robots() -> PlainTextResponse:
        return PlainTextResponse("User-agent: *\nDisallow: /\n")

    @app.get("/third-party.txt", include_in_schema=False)
    def third_party() -> Response:
        """Versions and licences of all that ships."""
        if not THIRD_PARTY.is_file():
            return problems.answer(404, "There is nothing at this address.")
        return PlainTextResponse(THIRD_PARTY.read_text("utf-8"))

    @app.get("/{place:path}", include_in_schema=False)
    def front_end(place: str) -> Response:
        file = _file(root, place)
        if place.startswith("api/") or (file is None and place.startswith("assets/")):
            return problems.answer(404, "There is nothing at this address.")
        if file:
            # Names of built assets carry a hash of what is in them.
            lasting = "max-age=31536000, immutable" if place.startswith("assets/") else "no-cache"
            return FileResponse(file, headers={"Cache-Control": lasting})
        page = root / "index.html"
        if not page.is_file():
            return JSONResponse({"detail": "The front end is not built: run ./rook setup."}, 503)
        return FileResponse(page, headers={"Cache-Control": "no-cache"})
