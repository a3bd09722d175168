"""The papers that leave with a vehicle, from the Result by keyboard: sheet, card and labels as files."""

from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Download, Page, expect
from pypdf import PdfReader

from tests.browser.conftest import SIZES, clean_maximum, press, tab_to, window
from tests.servers import Server

MakeJob = Callable[..., str]


LETTER_PT = 612.0
"""Its width (ANSI Y14.1)."""


def width_of(download: Download) -> float:
    return float(PdfReader(Path(download.path())).pages[0].mediabox.width)


@SIZES
def test_sheet_card_and_labels_are_saved_by_keyboard(
    browser: Browser, server: Server, new_job: MakeJob, size: dict[str, int]
) -> None:
    page: Page = window(browser, viewport=size, locale="en-US").new_page()  # type: ignore[arg-type]
    job = new_job("Paper van")
    clean_maximum(server, job)
    page.goto(f"{server.url}/jobs/{job}/result")
    expect(page.get_by_role("heading", level=1)).to_be_focused()
    for name, ending in (("Customer’s card (PDF)", "card.pdf"), ("Sheet (PDF)", "sheet.pdf")):
        tab_to(page, name)
        with page.expect_download() as begun:
            press(page, "Enter")
        assert begun.value.suggested_filename == f"Paper van {ending}"
        # Where the device is at home they print on Letter.
        assert width_of(begun.value) == pytest.approx(LETTER_PT, abs=1)
    # Without a connection a word on the page says so, and the same key works once it is back.
    page.context.set_offline(True)
    press(page, "Enter")
    expect(page.get_by_role("alert").filter(has_text="can’t be reached")).to_be_visible()
    page.context.set_offline(False)
    with page.expect_download() as begun:
        press(page, "Enter")
    assert width_of(begun.value) == pytest.approx(LETTER_PT, abs=1)
    page.locator("summary", has_text="Labels to stick on").press("Enter")
    page.get_by_label("Columns", exact=True).fill("4")
    press(page, "Enter")
    expect(page.get_by_role("alert")).to_contain_text("4 labels with their margin and gaps are 280.9 mm wide")
    page.get_by_label("Columns", exact=True).fill("2")
    with page.expect_download() as begun:
        press(page, "Enter")
    assert begun.value.suggested_filename == "Paper van labels.pdf"
    assert width_of(begun.value) == pytest.approx(LETTER_PT, abs=1)
    expect(page.get_by_role("alert")).to_have_count(0)
    assert page.evaluate("document.documentElement.scrollWidth") <= size["width"]
    # The grid is kept on this device.
    page.reload()
    page.locator("summary", has_text="Labels to stick on").press("Enter")
    expect(page.get_by_label("Columns", exact=True)).to_have_value("2")
    page.context.close()
