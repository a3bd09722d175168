"""The port with TLS, over real sockets: plain HTTP gets a page, one address so many connections, silence ends."""

import asyncio
import socket
import ssl
import time
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager
from pathlib import Path

import pytest

from tests.own_loop import run
from upper_rook.store.certificates import certificates
from upper_rook.web import first_visit, front_door, known_addresses
from upper_rook.web.front_door import FrontDoor
from upper_rook.web.known_addresses import KnownAddresses
from upper_rook.web.settings import Settings


class Echo(asyncio.Protocol):
    """Answers each piece with itself, and notes where it came from."""

    open_from: list[str] = []  # noqa: RUF012 of every test, emptied at its begin

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        self._transport = transport
        self._address = str(transport.get_extra_info("peername")[0])
        self.open_from.append(self._address)

    def data_received(self, data: bytes) -> None:
        assert isinstance(self._transport, asyncio.Transport)
        self._transport.write(data)

    def connection_lost(self, exc: Exception | None) -> None:  # noqa: ARG002
        self.open_from.remove(self._address)


class Opened:
    """A door on a port of its own."""

    def __init__(self, data: Path, settings: Callable[[int], Settings]) -> None:
        made = certificates(data / "doors", ("localhost", "127.0.0.1"))
        self.known = KnownAddresses()
        self.listener = socket.create_server(("127.0.0.1", 0))
        self.port = self.listener.getsockname()[1]
        told = {"authority": made.authority, "fingerprint": made.fingerprint}
        self.settings = settings(self.port).model_copy(update=told)
        own = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
        own.load_cert_chain(made.certificate, made.key)
        self.trusting = ssl.create_default_context(cafile=str(made.authority))
        self.door = FrontDoor(
            self.listener,
            Echo,
            own,
            lambda path, host: first_visit.answer(self.settings, path, host),
            front_door.Peers(lambda: Echo.open_from, self.known),
        )


@asynccontextmanager
async def opened(data: Path) -> AsyncIterator[Opened]:
    Echo.open_from.clear()
    one = Opened(data, lambda port: Settings(port=port, addresses=(f"https://rook.local:{port}",)))
    serving = asyncio.create_task(one.door.serve())
    try:
        yield one
    finally:
        serving.cancel()
        one.door.close()


async def asked(port: int, request: bytes) -> bytes:
    reader, writer = await asyncio.open_connection("127.0.0.1", port)
    writer.write(request)
    answer = await asyncio.wait_for(reader.read(), 10)
    writer.close()
    return answer


def test_plain_http_gets_the_page_and_the_certificate_and_nothing_of_the_app(tmp_path: Path) -> None:
    async def work() -> None:
        async with opened(tmp_path) as one:
            request = f"GET /api/jobs HTTP/1.1\r\nHost: localhost:{one.port}\r\n\r\n".encode()
            page = (await asked(one.port, request)).decode()
            assert page.startswith("HTTP/1.1 200 OK\r\n")
            assert one.settings.fingerprint in page
            assert f'href="https://localhost:{one.port}/"' in page
            assert "default-src 'none'" in page
            # A name that isn't the app's leads nobody elsewhere.
            foreign = await asked(one.port, b"GET / HTTP/1.1\r\nHost: elsewhere.example\r\n\r\n")
            assert b"elsewhere.example" not in foreign
            assert f"https://rook.local:{one.port}/".encode() in foreign
            head, _, body = (await asked(one.port, b"GET /authority.crt HTTP/1.0\r\n\r\n")).partition(b"\r\n\r\n")
            assert one.settings.authority
            assert body == one.settings.authority.read_bytes()
            assert b"application/x-x509-ca-cert" in head

    run(work())


def test_tls_is_handed_on_by_the_certificate_that_the_authority_signed(tmp_path: Path) -> None:
    async def work() -> None:
        async with opened(tmp_path) as one:
            reader, writer = await asyncio.open_connection("127.0.0.1", one.port, ssl=one.trusting)
            writer.write(b"as it was sent")
            assert await asyncio.wait_for(reader.readexactly(14), 10) == b"as it was sent"
            writer.close()

    run(work())


def test_another_certificate_than_the_workshops_needs_no_page(tmp_path: Path) -> None:
    settings = Settings(port=8765, addresses=("https://rook.example:8765",), data=tmp_path)
    answer = first_visit.answer(settings, "/", "rook.example:8765").decode()
    assert answer.startswith("HTTP/1.1 308 ")
    assert "Location: https://rook.example:8765/\r\n" in answer


def test_one_address_holds_so_many_connections_and_another_still_comes_in(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(front_door, "MOST_OF_ONE_ADDRESS", 3)

    async def work() -> None:
        async with opened(tmp_path) as one:
            held = [await asyncio.open_connection("127.0.0.1", one.port, ssl=one.trusting) for _ in range(3)]
            with pytest.raises(ConnectionError):
                await asyncio.open_connection("127.0.0.1", one.port, ssl=one.trusting)
            # Any address of 127.0.0.0/8 is this machine's.
            there = ("127.0.0.2", 0)
            reader, other = await asyncio.open_connection("127.0.0.1", one.port, ssl=one.trusting, local_addr=there)
            other.write(b"in")
            assert await asyncio.wait_for(reader.readexactly(2), 10) == b"in"
            # A place is free again once one of them ends.
            held[0][1].close()
            await held[0][1].wait_closed()
            for _ in range(100):
                if Echo.open_from.count("127.0.0.1") < 3:
                    break
                await asyncio.sleep(0.02)
            again = await asyncio.open_connection("127.0.0.1", one.port, ssl=one.trusting)
            for _, writer in (*held[1:], again, (reader, other)):
                writer.close()

    run(work())


def test_strangers_together_leave_places_to_addresses_where_somebody_is_signed_in(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(front_door, "MOST_OF_STRANGERS", 4)

    async def work() -> None:
        async with opened(tmp_path) as one:
            one.known.note("127.0.0.9")

            async def come_in(number: int) -> asyncio.StreamWriter:
                reader, writer = await asyncio.open_connection(
                    "127.0.0.1", one.port, ssl=one.trusting, local_addr=(f"127.0.0.{number}", 0)
                )
                writer.write(b"in")
                assert await asyncio.wait_for(reader.readexactly(2), 10) == b"in"
                return writer

            held = [await come_in(number) for number in (2, 3, 4, 5)]
            with pytest.raises(ConnectionError):
                await come_in(6)
            held.append(await come_in(9))
            for writer in held:
                writer.close()

    run(work())


def test_an_address_is_known_as_long_as_a_session_lasts(monkeypatch: pytest.MonkeyPatch) -> None:
    now = [0.0]
    monkeypatch.setattr(time, "monotonic", lambda: now[0])
    known = KnownAddresses()
    known.note("192.168.7.5")
    now[0] = known_addresses.LASTS_S - 1
    assert "192.168.7.5" in known
    now[0] += 2
    assert "192.168.7.5" not in known
    assert "192.168.7.6" not in known


def test_a_connection_that_says_nothing_or_never_ends_its_request_is_closed(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(front_door, "_PATIENCE_S", 0.2)

    async def work() -> None:
        async with opened(tmp_path) as one:
            assert await asked(one.port, b"") == b""
            assert await asked(one.port, b"GET / HTTP/1.1\r\nHost: ") == b""
            assert not one.door._undecided

    run(work())
