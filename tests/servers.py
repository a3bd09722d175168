"""The real server as a process of its own, to be started, killed and started again."""

import os
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path

import httpx2

from tests.forked import Forked

COMMAND = Path(sys.executable).with_name("upper-rook")


def free_port() -> int:
    """A port that nobody uses at the moment."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Server:
    """`upper-rook serve` on a database and a port that stay the same over restarts."""

    def __init__(self, database_url: str, mode: str = "serve", front_end: Path | None = None) -> None:
        self.port = free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        self._environment = os.environ | {"DATABASE_URL": database_url}
        if front_end is not None:
            self._environment["ROOK_FRONT_END"] = str(front_end)
        self._mode = mode
        self._process: Forked | None = None

    def start(self) -> "Server":
        """Starts it and waits until it answers."""
        self._process = Forked((self._mode, "--port", str(self.port)), self._environment)
        wait_until_up(self.url, self._process)
        return self

    def kill(self) -> None:
        """Ends it the hard way."""
        self._end(signal.SIGKILL)

    def stop(self) -> None:
        """Ends it the polite way."""
        self._end(signal.SIGTERM)

    def _end(self, how: signal.Signals) -> None:
        if self._process is None:
            return
        self._process.end(how)
        self._process = None


_TRIES = 900
"""Tenths of a second: on a busy machine the demo takes twenty seconds to be filled."""


def wait_until_up(url: str, process: Forked | subprocess.Popen[bytes] | None = None) -> None:
    """Waits until the server at `url` answers."""
    for _ in range(_TRIES):
        ended = process.ended if isinstance(process, Forked) else process.poll() if process else None
        if ended is not None:
            raise RuntimeError(f"the server ended with {ended} before it answered")
        try:
            httpx2.get(f"{url}/api/health", timeout=1)
        except httpx2.TransportError:
            time.sleep(0.1)
        else:
            return
    raise RuntimeError("the server never answered")
