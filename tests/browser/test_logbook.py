"""The logbook: opened from the menu, by keyboard, large and on a phone."""

from collections.abc import Callable

from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import SIZES, clean_maximum, press, tab_to, window
from tests.servers import Server

MakeJob = Callable[..., str]


@SIZES
def test_the_logbook_of_a_day_by_keyboard(
    browser: Browser, server: Server, new_job: MakeJob, size: dict[str, int]
) -> None:
    page: Page = window(browser, viewport=size).new_page()  # type: ignore[arg-type]
    clean_maximum(server, new_job("Knot, camper"))
    page.goto(server.url)
    expect(page.get_by_role("heading", level=1)).to_have_text("Jobs")
    # Before the list, however long that is.
    page.locator("summary", has_text="Menu").press("Enter")
    page.get_by_role("link", name="Logbook").press("Enter")
    expect(page.get_by_role("heading", level=1)).to_be_focused()
    tab_to(page, "A year")
    press(page, "Enter")
    steps = page.get_by_role("region", name="Steps")
    expect(steps.get_by_role("rowheader", name="Clean maximum")).to_be_visible()
    with page.expect_download() as told:
        steps.get_by_role("link", name="As a table").press("Enter")
    assert told.value.suggested_filename == "logbook-steps.csv"
    page.get_by_label("From").fill("2026-12-31")
    expect(page.get_by_role("alert")).to_contain_text("first day comes before the last")
    page.get_by_label("From").fill("1999-01-01")
    page.get_by_label("To", exact=True).fill("1999-01-02")
    expect(page.get_by_text("Nothing was measured or answered in that time.")).to_be_visible()
