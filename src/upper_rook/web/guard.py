"""Checks on every request, and headers on every answer."""

import asyncio
import time

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from upper_rook.web import problems

INSTALLATION = "rook-installation"
"""The header that says which installation a request is meant for."""

SECURITY_HEADERS = {
    "Content-Security-Policy": "default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; "
    "frame-ancestors 'none'; form-action 'self'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}


PATIENCE_S = 30.0
"""How long the next piece of a request's body may take."""
LEAST_BYTES_S = 500.0
"""A whole body has PATIENCE_S and as long as it takes at this speed."""


def _in_time(receive: Receive) -> Receive:
    """Has a body that stops coming, or drips, end as a connection that broke off; that end itself may take for ever."""
    done, begun, received = False, time.monotonic(), 0

    async def in_time() -> Message:
        nonlocal done, received
        if done:
            return await receive()
        left = PATIENCE_S + received / LEAST_BYTES_S - (time.monotonic() - begun)
        try:
            message = await asyncio.wait_for(receive(), max(0.0, min(PATIENCE_S, left)))
        except TimeoutError:
            return {"type": "http.disconnect"}
        done = not message.get("more_body", False)
        received += len(message.get("body", b""))
        return message

    return in_time


class _Answer:
    """Answer with the security headers; bare words of the framework become documents of this app."""

    def __init__(self, scope: Scope, receive: Receive, send: Send) -> None:
        self._scope, self._receive, self._send = scope, receive, send
        self.begun = False
        self._replaced = False

    async def send(self, message: Message) -> None:
        if message["type"] == "http.response.start":
            headers = MutableHeaders(scope=message)
            if message["status"] >= 400 and headers.get("content-type", "").startswith("text/plain"):
                await self.instead(problems.in_words(message["status"]))
                self._replaced = True
                return
            self.begun = True
            for name, value in SECURITY_HEADERS.items():
                headers.setdefault(name, value)
            if self._scope["path"].startswith("/api/"):
                # Data of customers: in no cache of a browser that somebody else uses next.
                headers.setdefault("Cache-Control", "no-store")
        if not self._replaced:
            await self._send(message)

    async def instead(self, reply: Response) -> None:
        """Sends a whole answer."""
        await reply(self._scope, self._receive, self.send)


class Guard:
    """Refuses writes from other sites and what is meant for another installation; adds the security headers."""

    def __init__(self, app: ASGIApp) -> None:
        """`app` is what comes next."""
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Handles one request."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        answer = _Answer(scope, receive, send)
        refusal = _refusal(scope)
        if refusal is not None:
            await answer.instead(refusal)
            return
        try:
            await self._app(scope, _in_time(receive), answer.send)
        except Exception as error:
            if answer.begun:
                raise
            # Here, so that this answer too carries what every answer carries.
            await answer.instead(problems.fault(scope["method"], scope["path"], error))


def _refusal(scope: Scope) -> Response | None:
    headers = Headers(scope=scope)
    origin = headers.get("origin", "")
    foreign = bool(origin) and origin != f"{scope['scheme']}://{headers.get('host')}"
    # Browsers say so themselves, even where they send no origin.
    foreign |= headers.get("sec-fetch-site", "none") not in ("same-origin", "none")
    if foreign and scope["method"] not in ("GET", "HEAD", "OPTIONS"):
        return problems.answer(403, "Changes are accepted from this app’s own pages only.")
    own = getattr(scope["app"].state, "installation", None)
    if own and headers.get(INSTALLATION, own) != own:
        return problems.answer(
            421, "This server belongs to another workshop. Entries waiting on this device stay for their own server."
        )
    return None
