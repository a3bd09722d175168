"""Behind a proxy: only those that were named or may open a socket ask, and only what reached them over TLS."""

import ipaddress

from starlette.types import ASGIApp, Receive, Scope, Send
from uvicorn.middleware.proxy_headers import ProxyHeadersMiddleware

from upper_rook.web import problems

ON_THE_SOCKET = "127.0.0.1"
"""A peer on a Unix socket has no address: it counts as this machine."""


class FromProxies:
    """Lets requests of named proxies by, as of whoever they say; nobody else's."""

    def __init__(self, app: ASGIApp, proxies: tuple[str, ...], *, on_socket: bool = False) -> None:
        """`app` is what comes next; `proxies` are addresses or networks, or with `on_socket` whoever may open it."""
        trusted = (ON_THE_SOCKET,) if on_socket else proxies
        self._networks = [ipaddress.ip_network(proxy) for proxy in trusted]
        self._on_socket = on_socket
        self._app = ProxyHeadersMiddleware(_OverTls(app), trusted_hosts=list(trusted))  # type: ignore[arg-type]

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Handles one request."""
        if self._on_socket:
            scope = {**scope, "client": (ON_THE_SOCKET, 0)}
        if scope["type"] == "http" and not self._is_proxy((scope.get("client") or ("",))[0]):
            await problems.answer(403, "Only through the workshop’s proxy: open its address.")(scope, receive, send)
            return
        await self._app(scope, receive, send)  # type: ignore[arg-type]

    def _is_proxy(self, peer: str) -> bool:
        try:
            address = ipaddress.ip_address(peer)
        except ValueError:
            return False
        return any(address in network for network in self._networks)


class _OverTls:
    """Refuses what reached the proxy in plain words."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "http" and scope["scheme"] != "https":
            sentence = "Only over TLS: open the address with https, and have the proxy say so (X-Forwarded-Proto)."
            await problems.answer(403, sentence)(scope, receive, send)
            return
        await self._app(scope, receive, send)
