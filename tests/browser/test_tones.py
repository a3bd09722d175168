"""The Tones screen: chosen by keyboard, played, stopped when it is changed, saved as what it says."""

import io
import urllib.parse

import soundfile
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import SIZES, press, tab_to, window
from tests.servers import Server


@SIZES
def test_a_signal_is_chosen_played_and_saved(browser: Browser, server: Server, size: dict[str, int]) -> None:
    page: Page = window(browser, viewport=size, accept_downloads=True).new_page()  # type: ignore[arg-type]
    page.goto(f"{server.url}/tones")
    tab_to(page, "Play here")
    press(page, "Enter")
    expect(page.get_by_text("Playing: 1 kHz sine at 0 dBFS.")).to_be_visible()
    # Changed it is another signal: nothing sounds that the page doesn't show.
    page.get_by_label("Frequency").fill("50 Hz")
    page.get_by_label("Frequency").blur()
    expect(page.get_by_role("button", name="Play here")).to_be_visible()
    page.get_by_label("Level").select_option(label="−10 dBFS")
    with page.expect_download() as waiting:
        page.get_by_role("link", name="Save as FLAC").click()
    name = urllib.parse.unquote(waiting.value.suggested_filename)
    assert name == "50-Hz-sine-at--10-dBFS.flac"
    data, rate = soundfile.read(io.BytesIO(waiting.value.path().read_bytes()))
    assert (rate, data.shape) == (48_000, (480_000, 2))
    page.get_by_label("Signal", exact=True).select_option(label="Sweep")
    page.get_by_label("From", exact=True).fill("30 kHz")
    page.get_by_label("From", exact=True).blur()
    expect(page.get_by_role("alert")).to_have_text(
        "A file of 48 kHz holds no more than about 21.8 kHz: choose a lower frequency."
    )
    page.get_by_label("From", exact=True).fill("20 kHz")
    page.get_by_label("From", exact=True).blur()
    expect(page.get_by_role("alert")).to_contain_text("A sweep goes up")
    expect(page.get_by_role("button", name="Play here")).to_be_disabled()
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
