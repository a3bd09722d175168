"""
The first look at a page on a phone, beside an empty page of the same stack: headless Chromium, slowed down.

A fresh browser each time, without a cache, at a quarter of the speed and on a slow mobile network (150 ms there and
back, 1.6 Mbit/s). List, run and plan of a system of three paths; medians, and each as a ratio to the empty page.

./rook bench opening; beside another build of the front end: BESIDE=folder ./rook bench opening; TIMES=5
"""

import os
import statistics
import subprocess
import sys
import tempfile
from pathlib import Path
from uuid import uuid4

import httpx2
from playwright.sync_api import Browser, sync_playwright

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.chromium import CHROMIUM, QUIET
from tests.conftest import empty_database
from tests.servers import Server

from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.layouts import templates

TIMES = int(os.environ.get("TIMES", "5"))
SLOWER = 4
NETWORK = {"offline": False, "latency": 150, "downloadThroughput": 200_000, "uploadThroughput": 94_000}
# What the page itself saw: its first letters, its largest part, and how long its tasks kept a finger waiting.
WATCH = """
window.seen = { largest: 0, blocked: 0, shifted: 0 };
new PerformanceObserver(list => list.getEntries().forEach(one => seen.largest = one.startTime))
  .observe({ type: 'largest-contentful-paint', buffered: true });
new PerformanceObserver(list => list.getEntries().forEach(one => seen.blocked += one.duration - 50))
  .observe({ type: 'longtask', buffered: true });
new PerformanceObserver(list => list.getEntries().forEach(one => seen.shifted += one.value))
  .observe({ type: 'layout-shift', buffered: true });
"""
FIRST = "performance.getEntriesByName('first-contentful-paint')[0].startTime"
SENT = "performance.getEntries().reduce((sum, one) => sum + (one.transferSize || 0), 0)"


def opened(browser: Browser, url: str) -> dict[str, float]:
    """Milliseconds of one first look; `sent` in kB."""
    context = browser.new_context(
        viewport={"width": 412, "height": 823}, is_mobile=True, has_touch=True, service_workers="block"
    )
    page = context.new_page()
    page.add_init_script(WATCH)
    devtools = context.new_cdp_session(page)
    devtools.send("Network.enable")
    devtools.send("Network.emulateNetworkConditions", NETWORK)
    devtools.send("Emulation.setCPUThrottlingRate", {"rate": SLOWER})
    devtools.send("Performance.enable")
    page.goto(url)
    page.get_by_role("heading", level=1).wait_for()
    # The live channel stays open, so the network is never idle.
    page.wait_for_timeout(4000)
    cost = {metric["name"]: metric["value"] for metric in devtools.send("Performance.getMetrics")["metrics"]}
    found = {
        "first letters": float(page.evaluate(FIRST)),
        "largest part": float(page.evaluate("seen.largest")),
        "blocked": float(page.evaluate("seen.blocked")),
        "shifted, 1/1000": 1000 * float(page.evaluate("seen.shifted")),
        "script": 1000 * cost["ScriptDuration"],
        "style and layout": 1000 * (cost["RecalcStyleDuration"] + cost["LayoutDuration"]),
        "layouts": cost["LayoutCount"],
        "sent, kB": float(page.evaluate(SENT)) / 1000,
    }
    context.close()
    return found


def job_of_three(url: str) -> str:
    """A job of three paths; its id."""
    chain = next(template.chain for template in templates() if template.key == "front-rear-sub")
    with httpx2.Client(base_url=url) as client:
        job = client.post("/api/jobs", json={"id": str(uuid4())}).json()
        sheet = JobSheet(chain=chain, vehicle="Three paths").model_dump(mode="json")
        body = {"base_version": job["version"], "sheet": sheet, "by": ""}
        client.put(f"/api/jobs/{job['id']}/sheet", json=body).raise_for_status()
    return str(job["id"])


def built_empty(folder: str) -> Path:
    """The empty page, built."""
    command = ["npx", "vite", "build", "--config", "benchmarks/empty/vite.config.ts", "--outDir", folder]
    subprocess.run(
        [*command, "--emptyOutDir"], cwd=Path(__file__).parents[1] / "frontend", check=True, stdout=subprocess.DEVNULL
    )
    return Path(folder)


def report(pages: dict[str, str]) -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=list(QUIET))
        # The first of all is slower than the rest; the pages take turns, so that a slow minute hits each.
        opened(browser, pages["empty"])
        taken = [{name: opened(browser, url) for name, url in pages.items()} for _ in range(TIMES)]
        browser.close()
    for name in pages:
        figures = {what: statistics.median(one[name][what] for one in taken) for what in taken[0][name]}
        ratios = {
            what: statistics.median(one[name][what] / (one["empty"][what] or 1) for one in taken) for what in figures
        }
        print(f"{name}: " + "; ".join(f"{what} {figures[what]:.0f} ({ratios[what]:.1f} ×)" for what in figures))


def main(database: str, folder: str) -> None:
    beside = os.environ.get("BESIDE")
    builds = {"": None, **({"before: ": Path(beside)} if beside else {})}
    servers = {name: Server(database, front_end=build).start() for name, build in builds.items()}
    empty = Server(database, front_end=built_empty(folder)).start()
    job = job_of_three(empty.url)
    pages = {"empty": empty.url}
    for screen, path in (("list", ""), ("run", f"/jobs/{job}/run"), ("plan", f"/jobs/{job}/plan")):
        pages |= {f"{name}{screen}": server.url + path for name, server in servers.items()}
    report(pages)
    for server in (*servers.values(), empty):
        server.stop()


if __name__ == "__main__":
    with empty_database() as url, tempfile.TemporaryDirectory() as folder:
        main(url, folder)
