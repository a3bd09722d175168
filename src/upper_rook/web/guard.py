"""What every request must pass and every answer carries."""

import re

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from upper_rook.web.problems import answer

LARGEST_BODY = 1_000_000
STREAMED = re.compile(r"/api/jobs/[^/]+/captures")
"""Where files arrive, which the route itself takes piece by piece up to a limit of its own."""

SECURITY_HEADERS = {
    "Content-Security-Policy": "default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; "
    "frame-ancestors 'none'; form-action 'self'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
}


class Guard:
    """Refuses writes from other sites and bodies beyond a size; adds the security headers."""

    def __init__(self, app: ASGIApp) -> None:
        """`app` is what comes next."""
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Handles one request."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return

        async def send_guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in SECURITY_HEADERS.items():
                    headers.setdefault(name, value)
            await send(message)

        headers = Headers(scope=scope)
        origin = headers.get("origin", "")
        foreign = bool(origin) and origin.partition("://")[2] != headers.get("host")
        if foreign and scope["method"] not in ("GET", "HEAD", "OPTIONS"):
            await answer(403, "Changes are only taken from this app's own pages.")(scope, receive, send_guarded)
            return
        try:
            writes = scope["method"] in ("POST", "PUT", "PATCH")
            body = await _whole_body(receive) if writes and not STREAMED.fullmatch(scope["path"]) else None
        except OverflowError:
            await answer(413, f"A request has at most {LARGEST_BODY:,} bytes.")(scope, receive, send_guarded)
            return
        await self._app(scope, receive if body is None else _replay(body, receive), send_guarded)


async def _whole_body(receive: Receive) -> bytes:
    parts, size, more = [], 0, True
    while more:
        message = await receive()
        if message["type"] != "http.request":
            break
        parts.append(message.get("body", b""))
        size += len(parts[-1])
        if size > LARGEST_BODY:
            raise OverflowError
        more = message.get("more_body", False)
    return b"".join(parts)


def _replay(body: bytes, receive: Receive) -> Receive:
    sent = False

    async def again() -> Message:
        nonlocal sent
        if sent:
            return await receive()
        sent = True
        return {"type": "http.request", "body": body, "more_body": False}

    return again
