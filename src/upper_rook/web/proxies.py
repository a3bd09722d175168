"""Behind a proxy: only the ones that were named may ask, and only what reached them over TLS."""

import ipaddress

from starlette.types import ASGIApp, Receive, Scope, Send
from uvicorn.middleware.proxy_headers import ProxyHeadersMiddleware

from upper_rook.web import problems


class FromProxies:
    """Lets requests of named proxies by, as of whoever they say; nobody else's."""

    def __init__(self, app: ASGIApp, proxies: tuple[str, ...]) -> None:
        """`app` is what comes next; `proxies` are addresses or networks."""
        self._networks = [ipaddress.ip_network(proxy) for proxy in proxies]
        self._app = ProxyHeadersMiddleware(_OverTls(app), trusted_hosts=list(proxies))  # type: ignore[arg-type]

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Handles one request."""
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
