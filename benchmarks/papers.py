"""
A sheet of ten paths as PDF, in its child; and saves beside twenty that are asked for at once.

./rook bench papers
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

PATHS = 10
AT_ONCE = 20
SAVES = 100


def ten_paths(client: httpx2.Client) -> str:
    """A job of ten unlike paths."""
    job = client.post("/api/jobs", json={"id": str(uuid4()), "vehicle": "Ten paths", "layout": "front"}).json()
    sheet = job["sheet"]
    chain, first = sheet["chain"], sheet["chain"]["paths"][0]
    amplifier, load = chain["amplifiers"][0], chain["loads"][0]
    chain["amplifiers"] = [amplifier | {"id": f"a{number}"} for number in range(PATHS)]
    chain["loads"] = [load | {"id": f"l{number}", "power_w": 50.0 + number} for number in range(PATHS)]
    chain["paths"] = [
        first | {"id": f"p{number}", "name": f"Path {number}", "amplifier": f"a{number}", "load": f"l{number}"}
        for number in range(PATHS)
    ]
    client.put(f"/api/jobs/{job['id']}/sheet", json={"base_version": 1, "sheet": sheet, "by": ""}).raise_for_status()
    return str(job["id"])


def saved(client: httpx2.Client, job: str) -> float:
    """Milliseconds of one save."""
    body = {
        "id": str(uuid4()),
        "step": "ceiling.source.line",
        "value": 1.5,
        "instrument": "true-rms",
        "circumstances": {"volume": 20},
        "sheet_version": 1,
        "taken_at": datetime.now(UTC).isoformat(),
    }
    start = time.perf_counter()
    client.post(f"/api/jobs/{job}/readings", json=body).raise_for_status()
    return 1000 * (time.perf_counter() - start)


def p95(taken: list[float]) -> float:
    return statistics.quantiles(taken, n=20)[-1]


def main(url: str) -> None:
    server = Server(url).start()
    limits = httpx2.Limits(max_connections=40)
    with httpx2.Client(base_url=server.url, limits=limits, timeout=120) as client:
        job, other = ten_paths(client), str(uuid4())
        client.post("/api/jobs", json={"id": other}).raise_for_status()
        address = f"/api/jobs/{job}/sheet.pdf"
        client.get(address).raise_for_status()
        drawn = []
        for _ in range(5):
            start = time.perf_counter()
            client.get(address).raise_for_status()
            drawn.append(time.perf_counter() - start)
        print(f"a PDF of {PATHS} paths: median {statistics.median(drawn):.2f} s, worst {max(drawn):.2f} s")
        alone = p95([saved(client, other) for _ in range(SAVES)])
        threads = [threading.Thread(target=lambda: client.get(address).raise_for_status()) for _ in range(AT_ONCE)]
        start = time.perf_counter()
        for thread in threads:
            thread.start()
        beside = []
        while any(thread.is_alive() for thread in threads) and len(beside) < 10 * SAVES:
            beside.append(saved(client, other))
            time.sleep(0.02)
        for thread in threads:
            thread.join()
        took = time.perf_counter() - start
        print(f"{AT_ONCE} at once: {took:.1f} s; saves beside them p95 {p95(beside):.1f} ms, alone {alone:.1f} ms")
        print(f"saves: {p95(beside) / alone:.1f} × alone ({len(beside)} saves)")
    server.stop()


if __name__ == "__main__":
    with empty_database() as database:
        main(database)
