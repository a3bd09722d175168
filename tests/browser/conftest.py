"""The real interface in headless Chromium, on the real server."""

import re
import time
from collections.abc import Callable, Iterator
from typing import Any
from uuid import uuid4

import httpx2
import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect

from tests.chromium import CHROMIUM, QUIET
from tests.conftest import migrated_database
from tests.servers import Server

WORKER = pytest.mark.browser_context_args(service_workers="allow")
"""Marks tests in which the front end is kept for the time without a server."""
LARGE = {"width": 1280, "height": 800}
PHONE = {"width": 390, "height": 844}
# Most tests have the large window anyway: where both are tried, the phone is the one that tells.
SIZES = pytest.mark.parametrize("size", [pytest.param(LARGE, marks=pytest.mark.deep), PHONE], ids=["large", "phone"])


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args: dict[str, Any]) -> dict[str, Any]:
    """Debian's Chromium, quiet."""
    return {**browser_type_launch_args, "executable_path": CHROMIUM, "args": list(QUIET)}


@pytest.fixture(scope="session")
def browser_context_args(browser_context_args: dict[str, Any]) -> dict[str, Any]:
    """
    A tablet's or laptop's window.

    The app's worker, which takes in every file of the front end for the time without a server, is half of the work of
    opening a page: WORKER brings it where a test is about that.
    """
    return {**browser_context_args, "viewport": LARGE, "service_workers": "block"}


def window(browser: Browser, **more: Any) -> BrowserContext:
    """A window of its own, without the app's worker."""
    return browser.new_context(**{"service_workers": "block", **more})


@pytest.fixture(autouse=True)
def _patience() -> None:
    # Tests don't time: a machine with other work must not fail them.
    expect.set_options(timeout=30_000)


@pytest.fixture
def own_server() -> Iterator[Server]:
    """A server that a test may kill."""
    with migrated_database() as url:
        server = Server(url).start()
        yield server
        server.stop()


@pytest.fixture
def new_job(server: Server) -> Callable[..., str]:
    """Begins a job and gives its id."""

    def make(vehicle: str = "Test van", at: Server = server) -> str:
        body = {"id": str(uuid4()), "vehicle": vehicle}
        return str(httpx2.post(f"{at.url}/api/jobs", json=body).json()["id"])

    return make


def run_of(server: Server, job: str) -> dict[str, Any]:
    """A job's run as the server has it."""
    return dict(httpx2.get(f"{server.url}/api/jobs/{job}/run").json())


def edited(server: Server, job: str, change: Callable[[dict[str, Any]], None]) -> None:
    """Saves a job's sheet with something changed."""
    view = httpx2.get(f"{server.url}/api/jobs/{job}").json()
    change(view["sheet"])
    body = {"base_version": view["version"], "sheet": view["sheet"], "by": ""}
    assert httpx2.put(f"{server.url}/api/jobs/{job}/sheet", json=body).status_code == 200


def eventually(told: Callable[[], object], expected: object) -> None:
    """Waits until the server has what a page, which doesn't wait for it, has sent."""
    for _ in range(300):
        if told() == expected:
            return
        time.sleep(0.1)
    assert told() == expected


# Whether the answers that this device keeps for the time without a server have `what` in them.
KEPT = """what => new Promise(done => {
  const opening = indexedDB.open('rook-answers');
  opening.onsuccess = () => {
    const got = opening.result.transaction('answers').objectStore('answers').get('answers');
    got.onsuccess = () => { opening.result.close(); done(String(got.result).includes(what)); };
  };
})"""


def answers_kept(page: Page, what: str, job: str) -> None:
    """Waits until a page could show `what` of a job without its server: answers are kept now and then, not at once."""
    eventually(lambda: page.evaluate(KEPT, f'["{what}","{job}"'), True)


def press(page: Page, *keys: str) -> None:
    """Presses keys one after the other."""
    for key in keys:
        page.keyboard.press(key)


# What a control is called: its own name, its label's text, or what stands on it.
CALLED = """e => (e.getAttribute('aria-label') || (e.labels && e.labels[0] && e.labels[0].innerText)
    || e.innerText || '').trim()"""


def tab_to(page: Page, name: str) -> None:
    """Waits for what is called `name`, then presses Tab until it has the focus."""
    page.wait_for_function(
        f"""name => [...document.querySelectorAll('a, button, input, select, summary, textarea, [tabindex]')]
            .map({CALLED}).some(found => found === name || found.startsWith(name + '\\n'))""",
        arg=name,
    )
    for _ in range(60):
        page.keyboard.press("Tab")
        found = page.evaluate(f"({CALLED})(document.activeElement)")
        if found == name or found.startswith(name + "\n"):
            return
    raise AssertionError(f"Tab never reached “{name}”")


def choose(page: Page, name: str, letters: str, value: str) -> None:
    """Chooses in a list by its first letters, once what is wanted has come into it."""
    listed = page.get_by_label(name, exact=True)
    expect(listed.locator(f'option[value="{value}"]')).to_have_count(1)
    tab_to(page, name)
    page.keyboard.type(letters)
    expect(listed).to_have_value(value)


def open_part(page: Page, name: str) -> None:
    """Opens one part of the system for editing."""
    page.get_by_role("navigation", name="Parts").get_by_role("button", name=name).click()


def speakers_off_mark(view: dict[str, Any]) -> dict[str, Any]:
    """What says, in the run that `view` shows, that the speakers are off."""
    return {
        "id": str(uuid4()),
        "step": "safe",
        "item": "speakers-off",
        "answer": "done",
        "sheet_version": view["job"]["version"],
        "taken_at": "2026-05-03T09:00:00Z",
    }


def speakers_off(server: Server, job: str) -> None:
    """Says that the speakers are off the amplifier, which every step with a tone asks for first."""
    mark = speakers_off_mark(run_of(server, job))
    assert httpx2.post(f"{server.url}/api/jobs/{job}/marks", json=mark).status_code == 201


def clean_maximum(server: Server, job: str, volume: int = 30, volts: float = 3.0) -> None:
    """Speakers off, and a clean maximum saved at the first output that the job asks for."""
    speakers_off(server, job)
    view = run_of(server, job)
    step = next(step for step in view["run"]["steps"] if step["kind"] == "volume_steps")
    common = {"step": step["key"], "sheet_version": view["job"]["version"], "taken_at": "2026-05-03T09:05:00Z"}
    read = {"value": volts, "seen": "clean", "evidence": "eye", "instrument": "true-rms"}
    at = {"circumstances": {"volume": volume, "tone": step["wants"]["tone"], "way": step["wants"]["way"]}}
    posts = (("readings", read | at), ("marks", {"basis": "marked", "volume": volume}))
    for what, body in posts:
        sent = {"id": str(uuid4()), **common, **body}
        answer = httpx2.post(f"{server.url}/api/jobs/{job}/{what}", json=sent)
        assert answer.status_code == 201, answer.text


def open_settings(page: Page) -> None:
    """Opens the settings from the menu, once the page is there: one that comes later closes it."""
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    page.locator("summary", has_text="Menu").click()
    page.get_by_role("button", name="Settings").click()


def open_volume_steps(page: Page, server: Server, job: str) -> None:
    """Opens the step of the source's clean maximum, speakers off, and waits until it can be typed into."""
    speakers_off(server, job)
    go_to_volume_steps(page, server, job)


def go_to_volume_steps(page: Page, server: Server, job: str) -> None:
    """The step of the source's clean maximum, also without a server; waits until it can be typed into."""
    page.goto(f"{server.url}/jobs/{job}/run/ceiling.source.line")
    expect(page.get_by_label(re.compile("^Volts at "))).to_be_visible()


def turned_until_it_fits(page: Page, turn: Callable[[float], None], *, up_is_more: bool = True) -> None:
    """Halves a knob of the simulated bench, from 0 to 1, until the page says that the volts are in the band."""
    said = page.locator(".how").filter(has_text=re.compile("below|above|In range"))
    # On a busy machine a figure may be read before the display has heard of the knob: then it is halved once more.
    for _ in range(2):
        low, high = 0.0, 1.0
        for _ in range(14):
            middle = round((low + high) / 2, 3)
            turn(middle)
            expect(page.get_by_label("Volts now")).to_have_attribute("aria-busy", "false")
            text = said.inner_text()
            if "In range" in text:
                return
            if ("below" in text) is up_is_more:
                low = middle
            else:
                high = middle
    raise AssertionError(f"It never came into the band: {said.inner_text()}")
