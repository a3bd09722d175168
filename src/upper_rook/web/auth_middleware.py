"""Check of every request to the app's data: a person who is signed in, in a role that covers it."""

import asyncio
from datetime import timedelta
from http.cookies import CookieError, SimpleCookie
from uuid import UUID
from weakref import WeakKeyDictionary

from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from upper_rook.core.common.roles import may, practises
from upper_rook.desk.auth import sessions
from upper_rook.desk.auth.sessions import Carried, Passing
from upper_rook.store import jobs
from upper_rook.web import problems
from upper_rook.web.access import ONLY_PRACTICE
from upper_rook.web.acts import Acts

SESSION, DEVICE = "__Host-rook", "__Host-rook-device"
"""The prefix has browsers keep them to this host, over TLS only."""
PERSON = "rook-person"
"""The header that says who did what is sent: it waits on its device while somebody else is signed in there."""
UNTOUCHED = "rook-untouched"
"""The header that says for how many seconds nobody touched the device."""
_DIGITS = 7
_SCHEMA = "/openapi.json"
OPEN = frozenset(
    {
        "/api/health",
        "/api/doors",
        "/api/doors/authority",
        "/api/doors/link",
        "/api/doors/come-in",
        "/api/doors/pair",
        "/api/doors/sign-in",
        "/api/doors/pin",
        "/api/doors/passkey",
        "/api/doors/passkey/ask",
    }
)
"""Addresses open to a person at the door; everything else under /api is data."""
UNLOCKING = frozenset({"/api/doors/unlock", "/api/doors/sign-out"})
"""Addresses open while a session is locked."""
_OF_REAL_ONES = ("/api/parts", "/api/sources", "/api/archives", "/api/logbook")
"""Where everything is of real vehicles and units."""
_JOBS = "/api/jobs/"
_STRANGERS_AT_A_TIME = 2
_DEVICE_LASTS_S = 400 * 24 * 3600
"""As long as browsers keep anything."""


def session_cookie(token: str) -> str:
    """Cookie for a browser to carry; empty, to forget it."""
    return _cookie(SESSION, token, int(sessions.LASTS.total_seconds()) if token else 0)


def device_cookie(token: str) -> str:
    """Cookie that identifies a device."""
    return _cookie(DEVICE, token, _DEVICE_LASTS_S)


def _cookie(name: str, value: str, age: int) -> str:
    return f"{name}={value}; Path=/; Secure; HttpOnly; SameSite=Strict; Max-Age={age}"


def token_in(headers: Headers, name: str = SESSION) -> str:
    """The token that a request carries, or nothing."""
    jar: SimpleCookie = SimpleCookie()
    try:
        jar.load(headers.get("cookie", ""))
    except CookieError:
        return ""
    return jar[name].value if name in jar else ""


def _carried(headers: Headers) -> Carried:
    """Proofs of who sends a request; a page says for how many seconds nobody touched its device."""
    said = headers.get(UNTOUCHED, "")
    untouched = timedelta(seconds=int(said)) if said.isascii() and said.isdigit() and len(said) <= _DIGITS else None
    return Carried(token_in(headers), token_in(headers, DEVICE), untouched)


class AuthMiddleware:
    """Lets nobody by who isn't signed in, and nobody do what their role doesn't cover."""

    def __init__(self, app: ASGIApp, acts: Acts) -> None:
        """`app` is what comes next; `acts` says what each of its routes asks for."""
        self._app, self._acts = app, acts
        # One for each loop of events that serves the app: a server has one, its tests have several.
        self._at_the_door: WeakKeyDictionary[asyncio.AbstractEventLoop, asyncio.Semaphore] = WeakKeyDictionary()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Handles one request."""
        path = scope.get("path", "")
        if scope["type"] != "http" or not (path.startswith("/api/") or path == _SCHEMA):
            await self._app(scope, receive, send)
            return
        try:
            carried = _carried(Headers(scope=scope))
            passing = await run_in_threadpool(self._passing, scope, carried) if carried.token else None
        except problems.OF_THE_DATABASE as error:
            await problems.of_the_database(error)(scope, receive, send)
            return
        scope.setdefault("state", {})["passing"] = passing
        if passing is not None and scope.get("client"):
            scope["app"].state.known_addresses.note(scope["client"][0])
        refusal = _refusal(scope, passing, self._acts)
        if refusal is None and passing is not None and practises(passing.person.role):
            try:
                refusal = await run_in_threadpool(self._out_of_practice, scope)
            except problems.OF_THE_DATABASE as error:
                refusal = problems.of_the_database(error)
        if refusal is not None:
            await refusal(scope, receive, send)
            return
        if passing is None:
            await self._answer_stranger(scope, receive, send)
            return
        await self._app(scope, receive, _renewing(send, passing))

    async def _answer_stranger(self, scope: Scope, receive: Receive, send: Send) -> None:
        """At the door, few at a time: those who are signed in don't queue behind a crowd of others."""
        # Read before it takes a place, which somebody who sends slowly would hold.
        receive = await _whole(receive)
        loop = asyncio.get_running_loop()
        async with self._at_the_door.setdefault(loop, asyncio.Semaphore(_STRANGERS_AT_A_TIME)):
            await self._app(scope, receive, send)

    @staticmethod
    def _passing(scope: Scope, carried: Carried) -> Passing | None:
        with scope["app"].state.store() as session:
            return sessions.passing(session, carried)

    @staticmethod
    def _out_of_practice(scope: Scope) -> Response | None:
        """Why somebody who keeps to practice may not pass, or None."""
        path: str = scope["path"]
        if not path.startswith((*_OF_REAL_ONES, _JOBS)):
            return None
        try:
            # What reads as no job's id is shut out as well.
            job = UUID(path.split("/")[3]) if path.startswith(_JOBS) else None
        except ValueError:
            job = None
        if job is not None:
            with scope["app"].state.store() as session:
                if jobs.is_practice(session, job) is not False:
                    return None
        return problems.answer(403, ONLY_PRACTICE)


def _refusal(scope: Scope, passing: Passing | None, acts: Acts) -> Response | None:
    """Why a request may not pass, or None."""
    path = scope["path"]
    if path in OPEN:
        return None
    if passing is None:
        return problems.answer(401, "Sign in first.")
    if passing.locked and path not in UNLOCKING:
        return problems.answer(423, f"Locked until {passing.person.name} is back.")
    meant = Headers(scope=scope).get(PERSON, "")
    if meant and meant != str(passing.person.id):
        return problems.answer(421, "Another person made this change. It will be sent when they sign in.")
    act = acts.of(scope)
    if act is not None and not may(passing.person.role, act):
        return problems.answer(403, "That is not yours to do here: ask the owner.")
    return None


async def _whole(receive: Receive) -> Receive:
    """A body that has arrived, or as much of it as is more than a stranger may send."""
    messages, size = [await receive()], 0
    while messages[-1]["type"] == "http.request" and messages[-1].get("more_body", False):
        size += len(messages[-1].get("body", b""))
        if size > problems.LARGEST_AT_THE_DOOR:
            break
        messages.append(await receive())
    kept = iter(messages)

    async def whole() -> Message:
        return next(kept, None) or await receive()

    return whole


def _renewing(send: Send, passing: Passing | None) -> Send:
    """Hands the new token out with the answer, where there is one."""
    if passing is None or passing.token is None:
        return send
    renewed = passing.token

    async def renewing(message: Message) -> None:
        if message["type"] == "http.response.start":
            MutableHeaders(scope=message).append("set-cookie", session_cookie(renewed))
        await send(message)

    return renewing
