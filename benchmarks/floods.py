"""
What the owner notices while others flood the app: the list of jobs, asked once every 50 ms, alone and in each flood.

Slow connections come from ten addresses of this machine; the bombs are archives of 1 MB that unpack to a gigabyte, sent
by a fitter who is signed in. Whoever floods is a process of the lowest priority: on a network it has its own machine.

./rook bench floods
"""

import asyncio
import io
import ssl
import statistics
import sys
import tempfile
import time
import zipfile
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager
from pathlib import Path
from uuid import uuid4

import httpx2

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.browser.workshop import WORDS, Lan, on_the_lan

ROUNDS = 200
EVERY_S = 0.05
ADDRESSES = [f"127.0.0.{number}" for number in range(2, 12)]
OF_EACH = 100
LIMIT = 3.0
Flood = Callable[[Lan], Awaitable[None]]


def _p95(values: list[float]) -> float:
    return statistics.quantiles(values, n=20)[-1]


async def come_in(lan: Lan, link: str, name: str) -> httpx2.AsyncClient:
    """A browser of somebody who came in by a link."""
    client = httpx2.AsyncClient(base_url=lan.url, verify=lan.trusting(), timeout=60)
    body = {"link": link, "name": name, "password": WORDS, "device": f"device of {name}"}
    (await client.post("/api/doors/come-in", json=body)).raise_for_status()
    return client


async def asked(owner: httpx2.AsyncClient) -> list[float]:
    """Milliseconds of each time that the list was asked for."""
    times = []
    for _ in range(ROUNDS):
        begun = time.perf_counter()
        (await owner.get("/api/jobs")).raise_for_status()
        times.append(1000 * (time.perf_counter() - begun))
        await asyncio.sleep(EVERY_S)
    return times


async def slow_connections(lan: Lan) -> None:
    """A thousand connections that send a letter a second."""
    port = int(lan.url.rpartition(":")[2])
    trusting = ssl.create_default_context()
    trusting.check_hostname, trusting.verify_mode = False, ssl.CERT_NONE

    async def drip(address: str) -> None:
        while True:
            try:
                _, writer = await asyncio.open_connection("127.0.0.1", port, ssl=trusting, local_addr=(address, 0))
                for letter in "GET /api/health HTTP/1.1\r\nHost: localhost\r\nX: " + "x" * 60:
                    writer.write(letter.encode())
                    await writer.drain()
                    await asyncio.sleep(1)
            except OSError:
                await asyncio.sleep(1)

    await asyncio.gather(*(drip(address) for address in ADDRESSES for _ in range(OF_EACH)))


async def wrong_passwords(lan: Lan) -> None:
    """Twenty strangers who try names and passwords as fast as they are answered."""

    async def guess() -> None:
        async with httpx2.AsyncClient(base_url=lan.url, verify=lan.trusting(), timeout=60) as client:
            while True:
                await client.post("/api/doors/sign-in", json={"name": "Mara", "password": str(uuid4())})

    await asyncio.gather(*(guess() for _ in range(20)))


def bomb() -> bytes:
    """An archive of 1 MB whose document unpacks to a gigabyte."""
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive, archive.open("archive.json", "w") as entry:
        for _ in range(1024):
            entry.write(b" " * (1 << 20))
    return file.getvalue()


async def bombs(lan: Lan) -> None:
    """Somebody who is signed in and sends eight archives at a time, again and again."""
    data = bomb()
    client = await come_in(lan, lan.link, "Odo")

    async def send() -> None:
        while True:
            answer = await client.post("/api/archives", params={"new_id": str(uuid4())}, content=data)
            assert answer.status_code in (413, 422, 503), answer.text
            await asyncio.sleep(0.05)

    await asyncio.gather(*(send() for _ in range(8)))


async def strangers(lan: Lan) -> None:
    """Ten strangers who ask for data as fast as they are refused."""

    async def ask() -> None:
        async with httpx2.AsyncClient(base_url=lan.url, verify=lan.trusting(), timeout=60) as client:
            while True:
                assert (await client.get("/api/jobs")).status_code == 401
                # As quick as a script on a phone is.
                await asyncio.sleep(0.02)

    await asyncio.gather(*(ask() for _ in range(10)))


FLOODS: dict[str, tuple[str, Flood]] = {
    "slow": ("1,000 slow connections from ten addresses", slow_connections),
    "guesses": ("wrong passwords, twenty at a time", wrong_passwords),
    "bombs": ("archive bombs, eight at a time", bombs),
    "strangers": ("requests of ten strangers", strangers),
}


@asynccontextmanager
async def flooded(lan: Lan, key: str) -> AsyncIterator[None]:
    """With a flood meanwhile."""
    process = await asyncio.create_subprocess_exec("nice", "-n", "19", sys.executable, __file__, key, *map(str, lan))
    await asyncio.sleep(5)
    assert process.returncode is None, "the flood ended"
    yield
    assert process.returncode is None, "the flood ended"
    process.terminate()
    await process.wait()


async def main(lan: Lan) -> None:
    owner = await come_in(lan, lan.link, "Mara")
    for _ in range(20):
        await owner.post("/api/jobs", json={"id": str(uuid4())})
    (await owner.post("/api/doors/prove", json={"password": WORDS})).raise_for_status()
    made = await owner.post("/api/people/invitations", json={"role": "fitter"})
    link = made.json()["link"].partition("#")[2]
    await asked(owner)
    idle = _p95(await asked(owner))
    print(f"alone: 95th percentile {idle:.1f} ms")
    for key, (name, _) in FLOODS.items():
        async with flooded(lan._replace(link=link), key):
            found = _p95(await asked(owner))
        print(f"{name}: {found:.1f} ms, {found / idle:.1f} × alone (limit {LIMIT:.0f})", flush=True)
        await asyncio.sleep(2)


if __name__ == "__main__":
    if len(sys.argv) > 1:
        flood, (url, link, data, database) = FLOODS[sys.argv[1]][1], sys.argv[2:]
        asyncio.run(flood(Lan(url, link, Path(data), database)))
        sys.exit()
    with tempfile.TemporaryDirectory() as folder, on_the_lan(Path(folder)) as lan:
        asyncio.run(main(lan))
