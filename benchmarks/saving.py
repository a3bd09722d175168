"""
Saving readings at 50 a second over HTTP: the 95th percentile, beside a request that saves nothing.

./rook bench
"""

import statistics
import sys
import threading
import time
from datetime import UTC, datetime
from pathlib import Path
from uuid import uuid4

import httpx2

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.conftest import empty_database
from tests.servers import Server

RATE = 50
SECONDS = 20
JOBS = 10
HANDS = 8
FLAT_OUT_S = 8


def paced(send, count: int) -> list[float]:  # type: ignore[no-untyped-def]
    """Milliseconds of `count` sends started RATE a second, whatever the earlier ones take."""
    taken: list[float] = []
    threads = []
    begun = time.perf_counter()

    def one(number: int) -> None:
        start = time.perf_counter()
        send(number)
        taken.append(1000 * (time.perf_counter() - start))

    for number in range(count):
        time.sleep(max(0.0, begun + number / RATE - time.perf_counter()))
        threads.append(threading.Thread(target=one, args=(number,)))
        threads[-1].start()
    for thread in threads:
        thread.join()
    return taken


def flat_out(send) -> float:  # type: ignore[no-untyped-def]
    """Sends a second, with HANDS sending one after the other for some seconds."""
    until = time.perf_counter() + FLAT_OUT_S
    counts = []

    def one(hand: int) -> None:
        sent = 0
        while time.perf_counter() < until:
            send(hand)
            sent += 1
        counts.append(sent)

    threads = [threading.Thread(target=one, args=(hand,)) for hand in range(HANDS)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return sum(counts) / FLAT_OUT_S


def main(url: str) -> None:
    server = Server(url).start()
    limits = httpx2.Limits(max_connections=20)
    with httpx2.Client(base_url=server.url, limits=limits) as client:
        jobs = [client.post("/api/jobs", json={"id": str(uuid4())}).json()["id"] for _ in range(JOBS)]

        def save(number: int) -> None:
            body = {
                "id": str(uuid4()),
                "step": "ceiling.source.line",
                "value": 1 + number / 1000,
                "instrument": "true-rms",
                "circumstances": {"volume": 20 + number % 15},
                "seen": "clean",
                "sheet_version": 1,
                "taken_at": datetime.now(UTC).isoformat(),
            }
            answer = client.post(f"/api/jobs/{jobs[number % JOBS]}/readings", json=body)
            assert answer.status_code == 201, answer.text

        def look(_: int) -> None:
            assert client.get("/api/health").status_code == 200

        paced(save, RATE)
        saving = paced(save, RATE * SECONDS)
        looking = paced(look, RATE * 5)
        sustained = flat_out(save)
    server.stop()
    p95, floor = (statistics.quantiles(one, n=20)[-1] for one in (saving, looking))
    print(
        f"reading saved at {RATE}/s: median {statistics.median(saving):.1f} ms, 95th percentile {p95:.1f} ms "
        f"(limit 30 ms), worst {max(saving):.1f} ms; {p95 / floor:.1f} × a health check’s {floor:.1f} ms (limit 2)"
    )
    print(f"as many as it takes from {HANDS} at once: {sustained:.0f} a second (limit 90)")


if __name__ == "__main__":
    with empty_database() as url:
        main(url)
