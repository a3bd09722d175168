"""A beginner with a phone and a cheap meter who doesn’t know half of the figures: every tap counted."""

import re
from itertools import count

from playwright.sync_api import Browser, Locator, Page, expect

from tests.browser.conftest import PHONE, eventually, run_of, window
from tests.servers import Server

MOST = 90
"""Taps, and keys that are no digits."""


class Thumb:
    """Taps and types on a phone, and counts what is no digit."""

    def __init__(self, page: Page) -> None:
        self.page, self.spent = page, 0

    def tap(self, what: Locator) -> None:
        what.tap()
        self.spent += 1

    def button(self, name: str) -> None:
        self.tap(self.page.get_by_role("button", name=re.compile(name)).first)

    def choose(self, label: str, text: str) -> None:
        """A list: a tap to open it, a tap on the line."""
        self.page.get_by_label(label, exact=True).select_option(label=text)
        self.spent += 2

    def enter(self, value: str) -> None:
        """A number and the pad's own Enter; the field has the focus from the reading before, or gets it by a tap."""
        field = self.page.get_by_role("main").get_by_role("textbox").first
        if not field.evaluate("e => e === document.activeElement"):
            self.tap(field)
        self.page.keyboard.type(value)
        self.page.keyboard.press("Enter")
        self.spent += 1


def heading(page: Page, text: str) -> None:
    expect(page.get_by_role("heading", level=1)).to_contain_text(text)


def test_a_two_path_job_without_a_sheet_of_figures_in_ninety_taps(browser: Browser, server: Server) -> None:
    context = window(browser, viewport=PHONE, has_touch=True, is_mobile=True)
    page = context.new_page()
    thumb = Thumb(page)
    page.goto(server.url)
    expect(page.get_by_role("heading", level=1)).to_be_focused()
    thumb.button("^Simple multimeter")
    thumb.button("^New job")
    expect(page.get_by_role("textbox", name="Vehicle")).to_be_focused()
    page.keyboard.type("Tern")
    thumb.spent += 4
    thumb.choose("Layout", "Front and sub")
    thumb.button("^Create")
    heading(page, "System")
    job = page.url.split("/jobs/")[1].split("/")[0]
    thumb.tap(page.get_by_role("link", name=re.compile("^To the plan")))
    heading(page, "Plan")
    thumb.tap(page.get_by_role("link", name="To the run"))

    steps = run_of(server, job)["run"]["steps"]
    spent = {}
    for number, step in enumerate(steps):
        heading(page, step["title"])
        before = thumb.spent
        work(thumb, server, job, step["key"])
        thumb.button("^Next step" if number + 1 < len(steps) else "^To the result")
        spent[step["key"]] = thumb.spent - before
    heading(page, "Result")
    # It ends in an honest result: a guess is called one, and so is every figure that nobody has confirmed.
    expect(page.get_by_text("Never pass 30: three quarters of the scale, a guess")).to_be_visible()
    expect(page.get_by_text("Every step is done")).to_be_visible()
    guessed = page.get_by_role("list", name="Guessed")
    expect(guessed).to_contain_text("three quarters of its scale, not measured")
    expect(guessed).to_contain_text("Unchecked defaults in use")
    expect(guessed).to_contain_text("Measured at Front only")
    assert thumb.spent <= MOST, spent
    assert page.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]
    context.close()


def work(thumb: Thumb, server: Server, job: str, key: str) -> None:
    """The open step, as a beginner with a meter would; optional ones are passed over."""
    view = run_of(server, job)["run"]
    step = next(step for step in view["steps"] if step["key"] == key)
    done = len(run_of(server, job)["readings"])
    readings = count(done + 1)

    def read(value: float) -> None:
        thumb.enter(f"{value:.4g}")
        eventually(lambda: len(run_of(server, job)["readings"]), next(readings))

    if step["optional"]:
        return
    if step["kind"] == "checklist":
        for item in step["items"]:
            thumb.tap(thumb.page.get_by_role("button", name=f"Done: {item['text']}", exact=True))
    elif step["kind"] == "volume_steps":
        thumb.button("^Three quarters: 30")
        read(3.0)
        thumb.button("^Save 30: three quarters")
        expect(thumb.page.get_by_text(re.compile("^Saved: 30"))).to_be_visible()
    elif step["rows"]:
        for place, row in enumerate(step["rows"]):
            if not row["optional"]:
                now = next(step for step in run_of(server, job)["run"]["steps"] if step["key"] == key)["rows"][place]
                read(now["target"]["value"] if now["target"] else 8.0)
    else:
        read(step["target"]["value"])
