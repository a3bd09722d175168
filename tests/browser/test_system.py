"""The System and Plan screens: many paths, what lies between, filters, layouts, job files."""

import re
from collections.abc import Callable
from pathlib import Path

import httpx
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import PHONE, press, tab_to
from tests.servers import Server

MakeJob = Callable[..., str]
EXAMPLES = Path(__file__).parents[2] / "examples"


def opened(page: Page, server: Server, job: str) -> None:
    page.goto(f"{server.url}/jobs/{job}/system")
    expect(page.get_by_text("Everything is saved")).to_be_visible()


def sheet_of(server: Server, job: str) -> dict:  # type: ignore[type-arg]
    return httpx.get(f"{server.url}/api/jobs/{job}").json()["sheet"]


def test_a_system_from_a_layout_is_planned_with_its_crossovers(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    page.get_by_label("Begin from a layout or another job").select_option(label="Front, rear and sub")
    page.get_by_role("button", name="Put it in place of all this").click()
    paths = page.get_by_role("navigation", name="Paths of the system")
    expect(paths.get_by_role("button", name="Sub", exact=True)).to_be_visible()
    paths.get_by_role("button", name="Sub", exact=True).click()
    expect(page.get_by_role("heading", name=re.compile(r"Sub: 34\.6"))).to_be_visible()
    # Without its subsonic filter the ported box is at risk, and that shows at once.
    page.get_by_role("button", name="Remove filter 1").click()
    expect(page.get_by_text("no subsonic filter on a ported box")).to_be_visible()
    expect(page.get_by_text("Everything is saved")).to_be_visible()
    page.get_by_role("link", name="To the plan").click()
    expect(page.get_by_role("heading", name="Crossovers")).to_be_visible()
    expect(page.get_by_role("img", name="Filters and equaliser of every path")).to_be_visible()
    expect(page.get_by_text("× 0.707").first).to_be_visible()


def test_a_boosted_band_moves_the_tone(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    page.get_by_role("button", name="Another converter or processor").click()
    page.get_by_label("Its name").fill("Tidewright 4")
    page.get_by_role("button", name="Add a band").click()
    page.get_by_label("at", exact=True).fill("2,2k")
    page.get_by_label("by", exact=True).fill("6")
    expect(page.get_by_text("its output clips before anything else")).to_be_visible()
    page.get_by_label("Channel gain").fill("-6")
    expect(page.get_by_text("its output clips before anything else")).to_be_hidden()
    page.get_by_role("link", name="To the plan").click()
    expect(page.get_by_text(re.compile(r"highest at 2\.[012]\d? kHz"))).to_be_visible()


def test_paths_are_added_and_removed_with_the_keyboard(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    tab_to(page, "Add a path")
    press(page, "Enter")
    expect(page.get_by_role("button", name="Path 2", exact=True)).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_text("Everything is saved")).to_be_visible()
    assert len(sheet_of(server, job)["chain"]["paths"]) == 2
    tab_to(page, "Remove Path 2")
    press(page, "Enter")
    expect(page.get_by_role("button", name="Path 2", exact=True)).to_be_hidden()
    expect(page.get_by_text("Everything is saved")).to_be_visible()
    chain = sheet_of(server, job)["chain"]
    assert [len(chain[kind]) for kind in ("paths", "amplifiers", "loads")] == [1, 1, 1]


def test_what_cannot_be_is_told_at_its_filter(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    page.get_by_role("button", name="Add a high-pass").click()
    page.get_by_label("Slope").select_option(label="18 dB an octave")
    page.get_by_label("Shape").select_option(label="Linkwitz–Riley")
    expect(page.get_by_text("has an even order")).to_be_visible()
    expect(page.get_by_text("Not saved yet: mend what is marked")).to_be_visible()
    page.get_by_label("Slope").select_option(label="24 dB an octave")
    expect(page.get_by_text("Everything is saved")).to_be_visible()
    page.get_by_label("Corner", exact=True).fill("eighty")
    expect(page.get_by_text("isn't a number")).to_be_visible()


def test_a_corner_is_worked_out_from_readings(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    page.get_by_role("button", name="Add a high-pass").click()
    expect(page.get_by_text("Everything is saved")).to_be_visible()
    page.get_by_role("link", name="To the plan").click()
    page.get_by_text("Where is it really?").click()
    for place, (open_v, filtered) in enumerate((("8", "5,66"), ("8", "1,94"))):
        page.get_by_label("Open", exact=True).nth(place).fill(open_v)
        page.get_by_label("Filter in").nth(place).fill(filtered)
    page.get_by_role("button", name="Work it out").click()
    expect(page.get_by_text(re.compile(r"Really at (79|80)\S* Hz, 12 dB an octave"))).to_be_visible()


def test_a_job_file_is_opened_and_saved(page: Page, server: Server, tmp_path: Path) -> None:
    page.goto(server.url)
    page.get_by_label("Job file to open").set_input_files(EXAMPLES / "active-three-way.json")
    expect(page.get_by_role("button", name="Tweeter", exact=True)).to_be_visible()
    with page.expect_download() as got:
        page.get_by_role("link", name="Job file").click()
    assert got.value.path().read_bytes() == (EXAMPLES / "active-three-way.json").read_bytes()
    page.goto(server.url)
    wrong = tmp_path / "wrong.json"
    wrong.write_text('{"format": 9}', "utf-8")
    page.get_by_label("Job file to open").set_input_files(wrong)
    expect(page.get_by_role("alert")).to_contain_text("format 9")


def test_a_second_path_is_set_on_the_simulated_bench(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    page.get_by_label("Begin from a layout or another job").select_option(label="Front and rear")
    page.get_by_role("button", name="Put it in place of all this").click()
    expect(page.get_by_text("Everything is saved")).to_be_visible()
    page.goto(f"{server.url}/jobs/{job}/run/gain-rear")
    page.get_by_label("Show the simulated bench").check()
    expect(page.get_by_role("heading", name="Simulated bench")).to_be_visible()
    page.wait_for_function(
        f"fetch('/api/jobs/{job}/bench').then(r => r.json()).then(b => b.state.path === 'rear')", timeout=10_000
    )


def test_the_system_by_touch_on_a_phone(browser: Browser, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    page = browser.new_context(viewport=PHONE, has_touch=True).new_page()
    opened(page, server, job)
    page.get_by_role("button", name="Add a low-pass").tap()
    page.get_by_role("button", name="Add a path").tap()
    expect(page.get_by_text("Everything is saved")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]
    page.context.close()
