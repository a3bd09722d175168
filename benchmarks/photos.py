"""
A photo of 12 megapixels from a phone to its answer, and saves beside ten that are sent at once.

./rook bench photos
"""

import io
import statistics
import sys
import threading
import time
from pathlib import Path
from uuid import uuid4

import httpx2
import numpy as np
from PIL import Image

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.papers import p95, saved
from tests.conftest import empty_database
from tests.servers import Server

AT_ONCE = 10
TIMES = 5


def of_a_phone(seed: int) -> bytes:
    """4000 × 3000 pixels with edges and noise, some 5 MB, as a phone's sensor gives."""
    random = np.random.default_rng(seed)
    rough = Image.fromarray(random.integers(0, 256, (60, 80, 3), dtype=np.uint8)).resize((4000, 3000))
    noise = random.normal(0, 7, (3000, 4000, 1))
    pixels = np.clip(np.asarray(rough, dtype=np.float32) + noise, 0, 255).astype(np.uint8)
    file = io.BytesIO()
    Image.fromarray(pixels).save(file, "JPEG", quality=92)
    return file.getvalue()


def sent(client: httpx2.Client, job: str, data: bytes) -> float:
    """Seconds until a photo is kept."""
    start = time.perf_counter()
    query = {"id": str(uuid4()), "taken_at": "2026-05-02T10:00:00Z"}
    while True:
        answer = client.post(f"/api/jobs/{job}/photos", params=query, content=data)
        # Four files are received at a time; the outbox waits and sends again.
        if answer.status_code != 503:
            break
        time.sleep(0.2)
    answer.raise_for_status()
    return time.perf_counter() - start


def main(url: str) -> None:
    server = Server(url).start()
    photos = [of_a_phone(seed) for seed in range(3)]
    with httpx2.Client(base_url=server.url, limits=httpx2.Limits(max_connections=40), timeout=120) as client:
        job, other = str(uuid4()), str(uuid4())
        for each in (job, other):
            client.post("/api/jobs", json={"id": each}).raise_for_status()
        first = sent(client, job, photos[0])
        taken = [sent(client, job, photos[number % 3]) for number in range(TIMES)]
        megabytes = statistics.mean(len(data) for data in photos) / 1e6
        print(
            f"a photo of 12 megapixels ({megabytes:.1f} MB): median {statistics.median(taken):.2f} s, worst "
            f"{max(taken):.2f} s; the first, which starts the child, {first:.2f} s"
        )
        alone = p95([saved(client, other) for _ in range(100)])
        threads = [threading.Thread(target=sent, args=(client, job, photos[number % 3])) for number in range(AT_ONCE)]
        for thread in threads:
            thread.start()
        beside = []
        while any(thread.is_alive() for thread in threads):
            beside.append(saved(client, other))
            time.sleep(0.02)
        for thread in threads:
            thread.join()
        print(
            f"{AT_ONCE} at once: saves beside them p95 {p95(beside):.1f} ms, alone {alone:.1f} ms: "
            f"{p95(beside) / alone:.1f} × ({len(beside)} saves)"
        )
    server.stop()


if __name__ == "__main__":
    with empty_database() as database:
        main(database)
