"""
Takes the pictures of docs/screenshots from a demo that was just begun; those of people and of visits stay as they are.

ROOK_DATA=/tmp/pictures ./rook demo --port 8899    (in another shell)
python scripts/screenshots.py http://127.0.0.1:8899
"""

import json
import sys
from collections.abc import Callable
from pathlib import Path
from urllib.request import urlopen

from playwright.sync_api import Browser, Page, sync_playwright

TO = Path(__file__).parents[1] / "docs" / "screenshots"
CHROMIUM = "/usr/bin/chromium-headless-shell"
LARGE, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}


class Demo:
    """The demo's address, and what it holds by its first word."""

    def __init__(self, url: str) -> None:
        self.url = url
        self.jobs = {job["vehicle"].split()[0]: job["id"] for job in self.read("/api/jobs")["jobs"]}

    def read(self, path: str) -> dict[str, list[dict[str, str]]]:
        """An answer of the demo's own API."""
        with urlopen(self.url + path) as answer:  # noqa: S310 it is the address on the command line
            return dict(json.load(answer))

    def job(self, vehicle: str, page: str) -> str:
        """Address of a page of a job."""
        return f"{self.url}/jobs/{self.jobs[vehicle]}/{page}"

    def first(self, kind: str, name: str) -> str:
        """Address of a source or part by its name."""
        found = next(one for one in self.read(f"/api/{kind}")[kind] if one["name"] == name)
        return f"{self.url}/{kind}/{found['id']}"


def _capture(words: str) -> Callable[[Page], None]:
    def choose(page: Page) -> None:
        page.locator(".list a", has_text=words).first.click()
        page.locator(".open svg").first.wait_for()

    return choose


def _to(selector: str) -> Callable[[Page], None]:
    return lambda page: page.locator(selector).first.evaluate("e => scrollTo(0, e.getBoundingClientRect().top - 90)")


def _bench(page: Page) -> None:
    page.get_by_label("Show the simulated bench").check()
    page.locator("aside svg").first.wait_for()


def _photo(page: Page) -> None:
    page.locator(".photo").first.click()
    page.locator(".canvas img").wait_for()


def take(browser: Browser, name: str, address: str, act: Callable[[Page], None] | None = None) -> None:
    """One picture; a name that ends in dark or begins with run-phone says how."""
    page = browser.new_page(
        viewport=PHONE if "phone" in name else LARGE, color_scheme="dark" if name.endswith("dark") else "light"
    )
    page.goto(address)
    page.wait_for_load_state("networkidle")
    if act:
        act(page)
    page.wait_for_timeout(900)
    page.screenshot(path=TO / f"{name}.png")
    page.close()


def main(url: str) -> None:
    """Every picture that the demo shows as it is begun."""
    demo = Demo(url)
    pictures: list[tuple[str, str, Callable[[Page], None] | None]] = [
        ("jobs", url, None),
        ("system", demo.job("Curlew", "system?part=source"), None),
        ("system-methods-dark", demo.job("Gannet", "system?part=methods"), _to(".part h2")),
        ("plan", demo.job("Skerry", "plan"), None),
        ("plan-crossovers", demo.job("Curlew", "plan"), _to("text=Crossovers")),
        ("run-source", demo.job("Gannet", "run/ceiling.source.line"), None),
        ("run-gain", demo.job("Heron", "run"), _bench),
        ("run-phone", demo.job("Heron", "run"), None),
        ("capture-clipped", demo.job("Heron", "captures"), _capture("clipped by")),
        ("capture-sweep", demo.job("Gannet", "captures"), _capture("sweep")),
        ("photo", demo.job("Heron", "photos"), _photo),
        ("result", demo.job("Gannet", "result"), None),
        ("logbook", f"{url}/logbook", None),
        ("source", demo.first("sources", "Lanthorn R4"), None),
        ("part-dark", demo.first("parts", "Brackwater Twin 75"), None),
    ]
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=["--no-sandbox"])
        for name, address, act in pictures:
            take(browser, name, address, act)
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1].rstrip("/"))
