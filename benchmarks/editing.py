"""
A change on the System screen of ten, or of so many, paths with 31-band equalisers: headless Chromium.

Until the next frame, and until its plan shows; and how long System and Result take to open.

./rook bench; alone and with 64 paths: PATHS=64 ./rook bench editing
"""

import json
import os
import statistics
import sys
import time
from pathlib import Path
from uuid import uuid4

import httpx2
from playwright.sync_api import sync_playwright

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.planning import system
from tests.chromium import CHROMIUM, QUIET
from tests.conftest import empty_database
from tests.servers import Server

PATHS = int(os.environ.get("PATHS", "10"))
CHANGES = int(os.environ.get("CHANGES", "30"))
# From the keystroke to the frame after the one in which the target volts differ.
WATCH = """watts => new Promise(done => {
  const title = document.querySelector('.signal-chain h2'), before = title.textContent, begun = performance.now();
  new MutationObserver((_, watching) => {
    if (title.textContent === before) return;
    watching.disconnect();
    requestAnimationFrame(() => done(performance.now() - begun));
  }).observe(title, { childList: true, characterData: true, subtree: true });
  const field = [...document.querySelectorAll('label')].find(
    one => one.innerText.startsWith('Rated power of one')).control;
  Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(field, watts);
  delete window.frame;
  field.dispatchEvent(new Event('input', { bubbles: true }));
  requestAnimationFrame(() => requestAnimationFrame(() => { window.frame = performance.now() - begun; }));
})"""


def main(url: str) -> None:
    server = Server(url).start()
    try:
        measure(server)
    finally:
        # One that goes on keeps this process from ending.
        server.stop()


def measure(server: Server) -> None:
    sheet = json.loads(system(PATHS).model_dump_json())
    with httpx2.Client(base_url=server.url) as client:
        job = client.post("/api/jobs", json={"id": str(uuid4())}).json()
        body = {"base_version": job["version"], "sheet": sheet, "by": ""}
        client.put(f"/api/jobs/{job['id']}/sheet", json=body).raise_for_status()
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=list(QUIET))
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{server.url}/jobs/{job['id']}/result")
        page.get_by_role("heading", level=1).wait_for()
        page.wait_for_timeout(1500)
        begun = time.monotonic()
        page.get_by_role("navigation", name="This job").get_by_role("link", name="System").click()
        page.locator(".signal-chain h2").wait_for()
        opened = 1000 * (time.monotonic() - begun)
        page.get_by_role("navigation", name="Parts").get_by_role("button", name="Speakers").click()
        # Nobody types while the page is still loading.
        page.wait_for_timeout(1500)
        taken, frames = [], []
        for number in range(CHANGES):
            taken.append(float(page.evaluate(WATCH, f"{40 + number % 7} W")))
            frames.append(float(page.wait_for_function("window.frame").json_value()))
            page.wait_for_timeout(600)
        begun = time.monotonic()
        page.get_by_role("navigation", name="This job").get_by_role("link", name="Result").click()
        page.locator("article.sheet h2").first.wait_for()
        result = 1000 * (time.monotonic() - begun)
        browser.close()
    print(
        f"a change on the System screen of {PATHS} paths until its plan shows: "
        f"first {taken[0]:.0f} ms, median {statistics.median(taken):.0f} ms, "
        f"95th percentile {statistics.quantiles(taken, n=20)[-1]:.0f} ms, worst {max(taken):.0f} ms (limit 150 ms); "
        f"until its frame: median {statistics.median(frames):.0f} ms; the screen opens in {opened:.0f} ms, "
        f"the result in {result:.0f} ms"
    )


if __name__ == "__main__":
    with empty_database() as url:
        main(url)
