"""
Warm start of ./rook demo to the first page, and what the first page weighs.

./rook bench
"""

import gzip
import os
import re
import signal
import statistics
import subprocess
import time
import urllib.error
import urllib.request
from pathlib import Path

ROOT = Path(__file__).parents[1]
PORT = 8797
RUNS = 5
# What a built script imports beside itself, read in any case.
IMPORTS = re.compile(r'(?:from|import) ?"\./([^"]+\.js)"')


def fetch(address: str) -> bytes:
    with urllib.request.urlopen(f"http://127.0.0.1:{PORT}{address}", timeout=1) as answer:
        return bytes(answer.read())


def start_s() -> float:
    """Seconds from the command to a first page and its data, everything set up before."""
    begun = time.perf_counter()
    rook = subprocess.Popen(
        [ROOT / "rook", "demo", "--port", str(PORT)], stdout=subprocess.DEVNULL, start_new_session=True
    )
    while True:
        try:
            fetch("/")
            fetch("/api/jobs")
            break
        except (urllib.error.URLError, ConnectionError):
            time.sleep(0.02)
    taken = time.perf_counter() - begun
    if rook.poll() is None:
        os.killpg(rook.pid, signal.SIGTERM)
        rook.wait(10)
    return taken


def first_page_kb() -> tuple[float, float]:
    """Script and style of the list of jobs, gzipped, in kB: the page's own files and all that its view imports."""
    assets = ROOT / "frontend" / "dist" / "assets"
    page = (assets.parent / "index.html").read_text("utf-8")
    names = set(re.findall(r'(?:src|href)="/assets/([^"]+)"', page))
    waiting = [*names, *(path.name for path in assets.glob("JobsView-*"))]
    while waiting:
        name = waiting.pop()
        names.add(name)
        imported = set(IMPORTS.findall((assets / name).read_text("utf-8"))) if name.endswith(".js") else set()
        waiting += imported - names
    weigh = {name: len(gzip.compress((assets / name).read_bytes(), 9)) / 1000 for name in names}
    script = sum(size for name, size in weigh.items() if name.endswith(".js"))
    return script, sum(size for name, size in weigh.items() if name.endswith(".css"))


if __name__ == "__main__":
    start_s()
    runs = [start_s() for _ in range(RUNS)]
    middle, worst = statistics.median(runs), max(runs)
    print(f"warm start to first page and data: median {middle:.2f} s, worst {worst:.2f} s (limit 6 s)")
    script, style = first_page_kb()
    print(f"first page, gzipped: {script:.1f} kB script (limit 150 kB), {style:.1f} kB style")
