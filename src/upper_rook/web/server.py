"""The app on its port: says where it is, closes connections that say nothing, writes a log."""

import asyncio
import socket
import time
from collections.abc import Callable
from typing import Any

import uvicorn

from upper_rook.web.app import create_app
from upper_rook.web.logs import log_to
from upper_rook.web.settings import Settings

SILENT_S = 20.0
"""How long a connection may stay open without having asked for anything."""
_LOOK_EVERY_S = 5.0
_MOST_CONNECTIONS = 1000


class Server(uvicorn.Server):
    """Tells once it listens, and looks after idle connections."""

    def __init__(self, config: uvicorn.Config, listening: Callable[[], None]) -> None:
        super().__init__(config)
        self._listening = listening
        self._looking: asyncio.Task[None] | None = None

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        """Opens the port."""
        await super().startup(sockets)
        if self.started:
            self._looking = asyncio.create_task(self._close_silent())
            self._listening()

    async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
        """Closes it."""
        if self._looking:
            self._looking.cancel()
        await super().shutdown(sockets)

    async def _close_silent(self) -> None:
        since: dict[Any, float] = {}
        while True:
            await asyncio.sleep(_LOOK_EVERY_S)
            now = time.monotonic()
            silent = {one for one in self.server_state.connections if getattr(one, "cycle", None) is None}
            since = {one: since.get(one, now) for one in silent}
            for one in [one for one, begun in since.items() if now - begun > SILENT_S]:
                transport = getattr(one, "transport", None)
                if transport is not None:
                    transport.close()


def run(settings: Settings, say: Callable[[str], None]) -> None:
    """Serves until it is told to stop; `say` gets the sentence with the address."""
    log_to(settings.data / "logs")
    config = uvicorn.Config(
        create_app(settings),
        host=settings.host,
        port=settings.port,
        log_level="warning",
        limit_concurrency=_MOST_CONNECTIONS,
        # Streams never end by themselves.
        timeout_graceful_shutdown=2,
    )
    Server(config, lambda: say(f"Upper Rook is at http://{settings.host}:{settings.port}  (Ctrl-C stops it)")).run()
