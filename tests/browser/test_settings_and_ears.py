"""Settings that somebody adds to the trims, and a run by ear: by keyboard, at both sizes."""

from collections.abc import Callable
from typing import Any

from playwright.sync_api import Browser, expect

from tests.browser.conftest import SIZES, edited, eventually, press, run_of, speakers_off, window
from tests.servers import Server

MakeJob = Callable[..., str]
Body = dict[str, Any]


@SIZES
def test_a_setting_is_added_read_and_read_again(
    browser: Browser, server: Server, new_job: MakeJob, size: dict[str, int]
) -> None:
    job = new_job()
    edited(server, job, lambda sheet: sheet["choices"].update(extent="everything"))
    speakers_off(server, job)
    with window(browser, viewport=size) as context:
        page = context.new_page()
        page.goto(f"{server.url}/jobs/{job}/run/trims.source")
        page.locator("summary", has_text="Compare another setting").press("Enter")
        page.get_by_label("As the source shows it").press("Enter")
        expect(page.get_by_text("Type what the source shows.")).to_be_visible()
        page.get_by_label("Setting", exact=True).select_option("Fader")
        page.get_by_label("As the source shows it").fill("R 3")
        page.get_by_label("Tone", exact=True).select_option("50 Hz")
        page.get_by_role("button", name="Add this row").press("Enter")
        rows = page.get_by_role("list", name="Readings of this step")
        added = rows.get_by_role("button", name="Fader R 3")
        expect(added).to_have_attribute("aria-current", "true")
        # What to type stands far above the form, on a phone out of sight: it is gone to.
        expect(page.get_by_label("Fader R 3", exact=False).first).to_be_focused()
        expect(page.get_by_label("Fader R 3", exact=False).first).to_be_in_viewport()
        field = page.get_by_label("Fader R 3", exact=False).first
        for volts in ("3.1", "3.2"):
            field.fill(volts)
            press(page, "Enter")
            expect(added).to_contain_text(f"{volts} V")
            added.press("Enter")
        # Read twice it is one row, named by the server.
        eventually(
            lambda: [
                row["name"]
                for step in run_of(server, job)["run"]["steps"]
                for row in step["rows"]
                if row["wants"].get("setting")
            ],
            ["Fader R 3, Line out, 50 Hz"],
        )
        expect(rows.get_by_role("button", name="Fader R 3")).to_have_count(1)


@SIZES
def test_a_run_by_ear_keeps_the_time_and_asks_for_no_volts(
    browser: Browser, server: Server, new_job: MakeJob, size: dict[str, int]
) -> None:
    job = new_job()
    edited(server, job, lambda sheet: sheet["choices"].update(meter="ear"))
    speakers_off(server, job)
    with window(browser, viewport=size) as context:
        page = context.new_page()
        page.goto(f"{server.url}/jobs/{job}/run/ceiling.source.line")
        expect(page.get_by_text("Listen to")).to_be_visible()
        expect(page.get_by_text("Reading from")).to_have_count(0)
        press(page, "l")
        expect(page.get_by_text("Listen:")).to_be_visible()
        expect(page.get_by_role("button", name="Tone on")).to_be_disabled()
        expect(page.get_by_text("Tone off now.")).to_be_visible()
        press(page, "c", "ArrowUp", "x")
        page.get_by_role("button", name="Save 20 as the clean maximum").press("Enter")
        expect(page.get_by_text("Saved: 20 by ear")).to_be_visible()
        page.goto(f"{server.url}/jobs/{job}/run/gain.front")
        expect(page.get_by_role("heading", level=1)).to_contain_text("Set the gain")
        expect(page.get_by_role("status").filter(has_text="20")).to_be_visible()
        press(page, "x")
        expect(page.get_by_text("Harsh. Turn the gain down").first).to_be_visible()
        page.wait_for_timeout(500)
        press(page, "c")
        expect(page.get_by_text("Clean by ear, no volts read").first).to_be_visible()
        page.goto(f"{server.url}/jobs/{job}/result")
        expect(page.get_by_text("hears clipping late").first).to_be_visible()
        heard = [reading for reading in run_of(server, job)["readings"] if reading["quantity"] == "verdict"]
        assert {one["evidence"] for one in heard} == {"ear"}
