"""
Many devices at once: two processes behind nginx, everybody signed in, 20 who save and 1 or 200 who look on.

The pages of those who look on also say every ten seconds that they are there.

./rook bench doors
"""

import asyncio
import statistics
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from uuid import uuid4

import httpx2

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.conftest import empty_database
from tests.nginx import Workshop, two_behind_nginx

WRITERS = 20
VIEWERS = 200
JOBS = 10
SECONDS = 20
HANDS = 4
SIGN_EVERY_S = 10
LIMITS_MS = {"save": 60, "live": 150}


def _p95(values: list[float]) -> float:
    return statistics.quantiles(values, n=20)[-1]


class Round:
    """Writers that each save once a second, and viewers who hear of it."""

    def __init__(self, client: httpx2.AsyncClient, jobs: list[str], viewers: int) -> None:
        self._client, self._jobs, self._viewers = client, jobs, viewers
        self._sent: dict[str, list[float]] = {job: [] for job in jobs}
        self.saved: list[float] = []
        self.heard: list[float] = []
        self._ready = 0

    async def work(self) -> None:
        """The whole of it."""
        looking = [asyncio.create_task(self._look(number)) for number in range(self._viewers)]
        while self._ready < self._viewers:
            await asyncio.sleep(0.1)
        await asyncio.gather(*(self._write(number) for number in range(WRITERS)))
        await asyncio.sleep(1)
        for task in looking:
            task.cancel()
        await asyncio.gather(*looking, return_exceptions=True)

    async def _write(self, number: int) -> None:
        job = self._jobs[number % JOBS]
        await asyncio.sleep(number / WRITERS)
        for round_ in range(SECONDS):
            begun = time.perf_counter()
            body = {
                "id": str(uuid4()),
                "step": "ceiling.source.line",
                "value": 1 + round_ / 1000,
                "instrument": "true-rms",
                "circumstances": {"volume": 20 + round_ % 15},
                "seen": "clean",
                "sheet_version": 1,
                "taken_at": datetime.now(UTC).isoformat(),
            }
            self._sent[job].append(begun)
            answer = await self._client.post(f"/api/jobs/{job}/readings", json=body)
            assert answer.status_code == 201, answer.text
            self.saved.append(1000 * (time.perf_counter() - begun))
            await asyncio.sleep(max(0.0, begun + 1 - time.perf_counter()))

    async def _look(self, number: int) -> None:
        job, heard = self._jobs[number % JOBS], 0
        async with self._client.stream("GET", f"/api/live?watch={job}", timeout=None) as stream:
            async for line in stream.aiter_lines():
                if line.startswith("event: beat") and heard == 0 and not self._sent[job]:
                    self._ready += 1
                    heard = -1
                if line.startswith("data:") and '"run"' in line:
                    heard = max(0, heard)
                    # Of a job's records the n-th told is the n-th sent, but for two at the same moment.
                    self.heard.append(1000 * (time.perf_counter() - self._sent[job][heard]))
                    heard += 1


@contextmanager
def signing(workshop: Workshop, cookies: httpx2.Cookies, jobs: list[str], viewers: int) -> Iterator[None]:
    """As many signs that a screen is there as so many pages give; from threads, so that no stream waits for them."""
    over = threading.Event()

    def one(hand: int) -> None:
        with httpx2.Client(base_url=workshop.url, verify=workshop.trusting, cookies=cookies, timeout=30) as client:
            while not over.wait(HANDS * SIGN_EVERY_S / viewers):
                answer = client.put(f"/api/jobs/{jobs[hand % JOBS]}/presence", json={"step": "safe"})
                assert answer.status_code == 200, answer.text

    with ThreadPoolExecutor(HANDS) as hands:
        done = [hands.submit(one, hand) for hand in range(HANDS)]
        yield
        over.set()
    for each in done:
        each.result()


async def measure(workshop: Workshop) -> None:
    """Rounds with one viewer and with many, in turn."""
    limits = httpx2.Limits(max_connections=400, max_keepalive_connections=400)
    async with httpx2.AsyncClient(base_url=workshop.url, verify=workshop.trusting, timeout=30, limits=limits) as client:
        body = {"link": workshop.link, "name": "Mara", "password": "a few words of one’s own", "device": "laptop"}
        assert (await client.post("/api/doors/come-in", json=body)).status_code == 201
        jobs = [str(uuid4()) for _ in range(JOBS)]
        for job in jobs:
            await client.post("/api/jobs", json={"id": job})
        found: dict[int, Round] = {}
        for viewers in (1, VIEWERS):
            found[viewers] = Round(client, jobs, viewers)
            with signing(workshop, client.cookies, jobs, viewers):
                await found[viewers].work()
    for kind, attribute in (("save", "saved"), ("live", "heard")):
        one, many = (getattr(found[viewers], attribute) for viewers in (1, VIEWERS))
        print(
            f"{kind}, {WRITERS} writers: 95th percentile {_p95(many):.1f} ms with {VIEWERS} viewers "
            f"(limit {LIMITS_MS[kind]} ms), {_p95(many) / _p95(one):.2f} × the {_p95(one):.1f} ms with one; "
            f"median {statistics.median(many):.1f} ms, worst {max(many):.1f} ms, {len(many)} of them"
        )


if __name__ == "__main__":
    with (
        empty_database() as url,
        tempfile.TemporaryDirectory() as folder,
        two_behind_nginx(Path(folder), url) as workshop,
    ):
        asyncio.run(measure(workshop))
