"""
The port on the workshop's network: TLS is handed on, plain HTTP gets a page that explains the certificate.

A browser that is given an address without *https* asks in plain HTTP, and would otherwise show an error. Nothing of the
app is answered there. One address may hold so many connections and no more, and strangers together so many, so that
nobody shuts out those who are signed in.
"""

import asyncio
import logging
import socket
import ssl
from collections import Counter
from collections.abc import Callable, Container, Iterable
from contextlib import suppress
from typing import NamedTuple

log = logging.getLogger("upper_rook")

MOST_OF_ONE_ADDRESS = 200
MOST_OF_STRANGERS = 600
"""Connections at which only addresses where somebody is signed in get another one."""
MOST_UNDECIDED = 400
"""Connections of strangers that haven't said yet what they are."""
_PATIENCE_S = 20.0
_TLS_RECORD = b"\x16"
"""First byte of a TLS handshake (RFC 8446, 5.1)."""
_LONGEST_REQUEST = 8192
_WAIT_S = 0.5

Answer = Callable[[str, str], bytes]
"""The whole HTTP answer to a plain request, by its path and host."""


class Peers(NamedTuple):
    """Those who are connected, and those who may be."""

    open_from: Callable[[], Iterable[str]]
    """The addresses of connections that were handed on, each as often as it has one."""
    known: Container[str]
    """Addresses where somebody is signed in: places are kept for them."""


class FrontDoor:
    """Accepts connections on a listening socket until it is closed."""

    def __init__(
        self,
        listener: socket.socket,
        handler: Callable[[], asyncio.Protocol],
        tls: ssl.SSLContext,
        plain: Answer,
        peers: Peers,
    ) -> None:
        """`handler` makes what serves a TLS connection, `plain` an answer to plain HTTP."""
        self._listener, self._handler, self._tls = listener, handler, tls
        self._plain, self._peers = plain, peers
        self._undecided: Counter[str] = Counter()
        self._tasks: set[asyncio.Task[None]] = set()

    async def serve(self) -> None:
        """Accepts until it is cancelled."""
        loop = asyncio.get_running_loop()
        self._listener.setblocking(False)
        while True:
            try:
                connection, peer = await loop.sock_accept(self._listener)
            except OSError as error:
                # Out of descriptors, for instance: those that are open go on.
                log.warning("A connection can’t be accepted: %s", error)
                await asyncio.sleep(_WAIT_S)
                continue
            address = str(peer[0])
            if self._is_full(address):
                connection.close()
                continue
            self._undecided[address] += 1
            task = asyncio.create_task(self._meet(connection, address))
            self._tasks.add(task)
            task.add_done_callback(self._tasks.discard)

    def close(self) -> None:
        """Ends what hasn't been handed on, and the socket."""
        for task in self._tasks:
            task.cancel()
        self._listener.close()

    def _is_full(self, address: str) -> bool:
        held = Counter(self._peers.open_from()) + self._undecided
        if held[address] >= MOST_OF_ONE_ADDRESS:
            return True
        if address in self._peers.known:
            return False
        return held.total() >= MOST_OF_STRANGERS or self._undecided.total() >= MOST_UNDECIDED

    async def _meet(self, connection: socket.socket, address: str) -> None:
        """Hands a connection on by its first byte."""
        handed_on = False
        try:
            connection.setblocking(False)
            connection.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
            async with asyncio.timeout(_PATIENCE_S):
                first = await _first_byte(connection)
                if first and first != _TLS_RECORD:
                    await self._answer(connection)
            if first == _TLS_RECORD:
                handed_on = True
                await asyncio.get_running_loop().connect_accepted_socket(
                    self._handler, connection, ssl=self._tls, ssl_handshake_timeout=_PATIENCE_S
                )
        except (OSError, TimeoutError, ssl.SSLError) as error:
            log.debug("A connection ended before it was served: %s", error)
        finally:
            self._undecided[address] -= 1
            if not self._undecided[address]:
                del self._undecided[address]
            if not handed_on:
                connection.close()

    async def _answer(self, connection: socket.socket) -> None:
        loop = asyncio.get_running_loop()
        request = b""
        while b"\r\n\r\n" not in request and len(request) < _LONGEST_REQUEST:
            piece = await loop.sock_recv(connection, 1024)
            if not piece:
                return
            request += piece
        path, host = _asked(request)
        await loop.sock_sendall(connection, self._plain(path, host))
        with suppress(OSError):
            connection.shutdown(socket.SHUT_WR)


async def _first_byte(connection: socket.socket) -> bytes:
    """The first byte that comes, which stays to be read; nothing where the other side ends it."""
    loop = asyncio.get_running_loop()
    readable = loop.create_future()

    def came() -> None:
        if not readable.done():
            readable.set_result(None)

    loop.add_reader(connection, came)
    try:
        await readable
    finally:
        loop.remove_reader(connection)
    return connection.recv(1, socket.MSG_PEEK)


def _asked(request: bytes) -> tuple[str, str]:
    """Path and host of a request; both empty where it is none."""
    lines = request.partition(b"\r\n\r\n")[0].decode("latin-1").split("\r\n")
    words = lines[0].split(" ")
    hosts = [line.partition(":")[2].strip() for line in lines[1:] if line.lower().startswith("host:")]
    return (words[1] if len(words) > 1 else ""), (hosts[0] if hosts else "")
