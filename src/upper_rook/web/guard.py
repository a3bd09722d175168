"""What every request must pass and every answer carries."""

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from upper_rook.web import problems

SECURITY_HEADERS = {
    "Content-Security-Policy": "default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; "
    "frame-ancestors 'none'; form-action 'self'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}


class Guard:
    """Refuses writes from other sites; adds the security headers."""

    def __init__(self, app: ASGIApp) -> None:
        """`app` is what comes next."""
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Handles one request."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return

        plain = False

        async def send_guarded(message: Message) -> None:
            nonlocal plain
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                plain = message["status"] >= 400 and headers.get("content-type", "").startswith("text/plain")
                if plain:
                    # The framework's own refusals come as bare words, where the app speaks in problem documents.
                    await problems.in_words(message["status"])(scope, receive, send_guarded)
                    plain = True
                    return
                for name, value in SECURITY_HEADERS.items():
                    headers.setdefault(name, value)
            if not plain:
                await send(message)

        headers = Headers(scope=scope)
        origin = headers.get("origin", "")
        foreign = bool(origin) and origin.partition("://")[2] != headers.get("host")
        # Browsers say so themselves, even where they send no origin.
        foreign |= headers.get("sec-fetch-site", "none") not in ("same-origin", "none")
        if foreign and scope["method"] not in ("GET", "HEAD", "OPTIONS"):
            await problems.answer(403, "Changes are only taken from this app's own pages.")(
                scope, receive, send_guarded
            )
            return
        await self._app(scope, receive, send_guarded)
