"""The app on its port: says where it is, closes connections that say nothing, writes a log."""

import asyncio
import logging
import socket
import ssl
import time
from collections.abc import Callable, Container, Iterator
from functools import partial
from pathlib import Path
from typing import Any, NamedTuple

import uvicorn
from fastapi import FastAPI

from upper_rook.web import first_visit
from upper_rook.web.app import create_app
from upper_rook.web.front_door import Answer, FrontDoor, Peers
from upper_rook.web.logs import log_to
from upper_rook.web.proxies import FromProxies
from upper_rook.web.settings import Settings
from upper_rook.web.unix_socket import listening_socket

SILENT_S = 20.0
"""How long a connection may stay open without having asked for anything."""
_LOOK_EVERY_S = 5.0
_RENEW_EVERY_S = 3600.0
_MOST_CONNECTIONS = 1000
log = logging.getLogger("upper_rook")


class Tls(NamedTuple):
    """Settings for serving over TLS."""

    certificate: Path
    key: Path
    renew: Callable[[], None] | None = None
    """Makes both anew where their time is nearly over."""


class Server(uvicorn.Server):
    """Tells once it listens, and looks after idle connections."""

    def __init__(
        self,
        config: uvicorn.Config,
        listening: Callable[[], None],
        tls: Tls | None = None,
        plain: Answer | None = None,
        known: Container[str] = (),
    ) -> None:
        """`plain` answers what comes in plain HTTP to a port with TLS; `known` are addresses to keep places for."""
        super().__init__(config)
        self._listening, self._tls, self._plain, self._known = listening, tls, plain, known
        self._door: FrontDoor | None = None
        self._upkeep: list[asyncio.Task[None]] = []

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        """Opens the port."""
        # A port with a front door has its own way to accept.
        behind = self.config.ssl is not None and self._plain is not None
        await super().startup([] if behind else sockets)
        if self.started:
            if self.config.ssl is not None and self._plain is not None:
                self._door = self._open(self.config.ssl, self._plain)
                self._upkeep.append(asyncio.create_task(self._door.serve()))
            self._upkeep.append(asyncio.create_task(self._close_silent()))
            if self._tls and self._tls.renew:
                self._upkeep.append(asyncio.create_task(self._renew(self._tls, self._tls.renew)))
            self._listening()

    async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
        """Closes it."""
        for task in self._upkeep:
            task.cancel()
        if self._door:
            self._door.close()
        await super().shutdown(sockets)

    def _open(self, tls: ssl.SSLContext, plain: Answer) -> FrontDoor:
        listener = socket.create_server((self.config.host, self.config.port), backlog=self.config.backlog)

        def handler() -> asyncio.Protocol:
            # As uvicorn makes them itself.
            return self.config.http_protocol_class(  # type: ignore[call-arg]
                config=self.config, server_state=self.server_state, app_state=self.lifespan.state
            )

        return FrontDoor(listener, handler, tls, plain, Peers(self._addresses, self._known))

    def _addresses(self) -> Iterator[str]:
        for connection in self.server_state.connections:
            client = getattr(connection, "client", None)
            if client:
                yield client[0]

    async def _renew(self, tls: Tls, renew: Callable[[], None]) -> None:
        """A server that runs for months keeps a certificate that is good: connections begun later get the new one."""
        while True:
            await asyncio.sleep(_RENEW_EVERY_S)
            try:
                await asyncio.to_thread(renew)
                if self.config.ssl:
                    self.config.ssl.load_cert_chain(tls.certificate, tls.key)
            except (OSError, ValueError) as error:
                log.warning("The certificate can’t be renewed: %s", error)

    async def _close_silent(self) -> None:
        since: dict[Any, float] = {}
        while True:
            await asyncio.sleep(_LOOK_EVERY_S)
            now = time.monotonic()
            silent = {
                connection for connection in self.server_state.connections if getattr(connection, "cycle", None) is None
            }
            since = {connection: since.get(connection, now) for connection in silent}
            for item in [connection for connection, begun in since.items() if now - begun > SILENT_S]:
                transport = getattr(item, "transport", None)
                if transport is not None:
                    transport.close()


def run(settings: Settings, say: Callable[[str], None], tls: Tls | None = None) -> None:
    """
    Serves until it is reported to stop; `say` gets the sentence with the address.

    Behind proxies, whom a request comes from is what a named one of them says; of others it is who they are.
    """
    log_to(settings.data / "logs")
    app = create_app(settings)
    config = uvicorn.Config(
        _behind_proxies(app, settings),
        host=settings.host,
        port=settings.port,
        log_level="warning",
        limit_concurrency=_MOST_CONNECTIONS,
        # Streams never end by themselves.
        timeout_graceful_shutdown=2,
        ssl_certfile=tls.certificate if tls else None,
        ssl_keyfile=tls.key if tls else None,
        proxy_headers=False,
    )
    at = settings.addresses[0] if settings.addresses else f"http://{settings.host}:{settings.port}"
    plain = partial(first_visit.answer, settings) if tls else None
    listening = partial(say, f"Upper Rook is at {at}  (Ctrl-C stops it)")
    sockets = [listening_socket(settings.socket)] if settings.socket else None
    Server(config, listening, tls, plain, app.state.known_addresses).run(sockets)
    if settings.socket:
        settings.socket.unlink(missing_ok=True)


def _behind_proxies(app: FastAPI, settings: Settings) -> Any:
    if settings.proxies or settings.socket:
        return FromProxies(app, settings.proxies, on_socket=settings.socket is not None)
    return app
