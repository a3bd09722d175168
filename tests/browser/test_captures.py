"""The Captures screen: files and numbers in, what they say, and what breaks on the way."""

import re
from collections.abc import Callable
from pathlib import Path

import httpx2
import numpy as np
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import PHONE, WORKER, answers_kept, open_volume_steps, press, run_of, tab_to
from tests.core.waves import clipped, digitised
from tests.servers import Server
from upper_rook.core.signal.clipped_sine import rms_above_db

MakeJob = Callable[..., str]
DRIVE = np.arange(20, 32) - 27.4
VOLTS = [round(float(one), 3) for one in 3.162 * 10 ** (np.where(DRIVE > 0, rms_above_db(DRIVE), DRIVE) / 20)]


def export(folder: Path, over_db: float, name: str = "scope.csv") -> Path:
    """A scope's export with decimal commas and milliseconds."""
    volts = digitised(clipped(over_db)[0])
    rows = (f"{n / 100:.3f};{v:.4f}".replace(".", ",") for n, v in enumerate(volts))
    file = folder / name
    file.write_text("\n".join(("Time (ms);CH1 (V)", *rows)), "utf-8")
    return file


def test_a_file_is_judged_drawn_and_kept(page: Page, server: Server, new_job: MakeJob, tmp_path: Path) -> None:
    job = new_job()
    page.goto(f"{server.url}/jobs/{job}/captures")
    expect(page.get_by_text("Nothing captured yet")).to_be_visible()
    page.get_by_label("Files to analyse").set_input_files([export(tmp_path, 1.0), export(tmp_path, -1.0, "before.csv")])
    entries = page.get_by_label("Captures of this job").get_by_role("link")
    expect(entries).to_have_count(2)
    entries.filter(has_text="scope.csv").click()
    sheet = page.get_by_role("region", name="CH1")
    expect(sheet.get_by_text("clipped", exact=True)).to_be_visible()
    expect(sheet).to_contain_text(re.compile(r"(0\.9|1\.0)\d dB over"))
    expect(sheet).to_contain_text("Next")
    expect(page.get_by_role("img", name="The wave of CH1").locator("path.lost").first).to_be_visible()
    page.get_by_label("Lay over it, dashed").select_option(label="before.csv: clean")
    expect(page.locator("path.other")).to_be_visible()
    with page.expect_download() as got:
        page.get_by_role("link", name="The file").click()
    assert got.value.path().read_bytes() == (tmp_path / "scope.csv").read_bytes()


def test_a_volume_steps_is_pasted_with_the_keyboard_alone(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    page.goto(f"{server.url}/jobs/{job}/captures")
    expect(page.get_by_text("Nothing captured yet")).to_be_visible()
    tab_to(page, "Type or paste numbers")
    press(page, "Enter")
    tab_to(page, "Volume and volts, one pair a line; or times and volts")
    page.keyboard.insert_text("\n".join(f"{number}\t{volts}" for number, volts in enumerate(VOLTS, 20)))
    tab_to(page, "Judge these")
    press(page, "Enter")
    volume_steps = page.get_by_role("region", name="Volume steps")
    expect(volume_steps).to_contain_text("27 clean maximum")
    expect(volume_steps.get_by_role("img")).to_be_visible()


def test_what_cannot_be_read_says_why_and_is_not_kept(
    page: Page, server: Server, new_job: MakeJob, tmp_path: Path
) -> None:
    job = new_job()
    page.goto(f"{server.url}/jobs/{job}/captures")
    picture = tmp_path / "photo.csv"
    picture.write_bytes(b"\x89PNG\0\0\0" * 50)
    page.get_by_label("Files to analyse").set_input_files(picture)
    expect(page.get_by_text("This is not text")).to_be_visible()
    # It stays, over a reload too, until it is let go.
    page.reload()
    expect(page.get_by_text("This is not text")).to_be_visible()
    page.get_by_role("button", name="1 rejected").click()
    expect(page.get_by_role("dialog")).to_contain_text("capture “photo.csv”")
    page.get_by_role("dialog").get_by_role("button", name="Close").last.click()
    expect(page.get_by_role("dialog")).to_be_hidden()
    page.get_by_role("button", name="Discard").click()
    page.get_by_role("button", name="Really discard").click()
    expect(page.get_by_text("This is not text")).to_be_hidden()
    page.get_by_text("Tone and full scale").click()
    page.get_by_label("Tone that should be playing").fill("a thousand")
    page.get_by_label("Files to analyse").set_input_files(export(tmp_path, 1.0))
    expect(page.get_by_role("alert")).to_contain_text("isn’t a number")
    assert httpx2.get(f"{server.url}/api/jobs/{job}/captures").json() == []


def test_refused_text_stays_in_the_box(page: Page, server: Server, new_job: MakeJob) -> None:
    page.goto(f"{server.url}/jobs/{new_job()}/captures")
    page.get_by_text("Type or paste numbers").click()
    box = page.get_by_label("Volume and volts, one pair a line; or times and volts")
    box.fill("volume;volts\n20;half")
    page.get_by_role("button", name="Judge these").click()
    expect(page.get_by_role("alert").filter(has_text=re.compile("[a-z]"))).to_be_visible()
    expect(box).to_have_value("volume;volts\n20;half")
    expect(page.get_by_text("1 rejected")).to_be_hidden()
    box.fill("\n".join(f"{number};{volts}" for number, volts in enumerate(VOLTS, 20)))
    page.get_by_role("button", name="Judge these").click()
    expect(page.get_by_role("region", name="Volume steps")).to_be_visible()
    expect(box).to_have_value("")


def test_a_capture_is_renamed_and_the_same_file_is_told(
    page: Page, server: Server, new_job: MakeJob, tmp_path: Path
) -> None:
    page.goto(f"{server.url}/jobs/{new_job()}/captures")
    files = page.get_by_label("Files to analyse")
    entries = page.get_by_label("Captures of this job").get_by_role("link")
    files.set_input_files(export(tmp_path, 1.0))
    expect(entries).to_have_count(1)
    page.get_by_role("button", name="Rename").click()
    page.get_by_label("Name of the capture").fill("front left at 31")
    press(page, "Enter")
    expect(entries).to_contain_text(["front left at 31"])
    files.set_input_files(export(tmp_path, 1.0))
    expect(page.get_by_text("The same file came before, as “front left at 31”.")).to_be_visible()
    expect(entries.first.locator(".said-clipped svg")).to_be_visible()


def test_a_file_on_its_way_goes_on_elsewhere_and_can_be_cancelled(
    page: Page, own_server: Server, new_job: MakeJob, tmp_path: Path
) -> None:
    job = new_job(at=own_server)
    page.goto(f"{own_server.url}/jobs/{job}/captures")
    expect(page.get_by_text("Nothing captured yet")).to_be_visible()
    own_server.kill()
    page.get_by_label("Files to analyse").set_input_files(
        [export(tmp_path, 1.0), export(tmp_path, -1.0, "unwanted.csv")]
    )
    page.get_by_role("navigation", name="This job").get_by_role("link", name="Plan").click()
    expect(page.get_by_role("link", name=re.compile("Captures.*2 on the way"))).to_be_visible()
    page.get_by_role("link", name=re.compile("^Captures")).click()
    unwanted = page.get_by_role("listitem").filter(has_text="unwanted.csv")
    unwanted.get_by_role("button", name="Cancel").click()
    unwanted.get_by_role("button", name="Really cancel").click()
    expect(unwanted).to_be_hidden()
    own_server.start()
    expect(page.get_by_label("Captures of this job").get_by_role("link")).to_have_count(1)
    kept = httpx2.get(f"{own_server.url}/api/jobs/{job}/captures").json()
    assert [one["name"] for one in kept] == ["scope.csv"]


@WORKER
def test_a_file_waits_while_the_server_is_away(
    page: Page, own_server: Server, new_job: MakeJob, tmp_path: Path
) -> None:
    job = new_job(at=own_server)
    page.goto(f"{own_server.url}/jobs/{job}/captures")
    expect(page.get_by_text("Nothing captured yet")).to_be_visible()
    page.evaluate("navigator.serviceWorker.ready")
    answers_kept(page, "run", job)
    answers_kept(page, "captures", job)
    own_server.kill()
    page.get_by_label("Files to analyse").set_input_files(export(tmp_path, 1.0))
    expect(page.get_by_text("Waits on this device until the server is there.")).to_be_visible()
    # A page that is loaded again in the middle of it goes on where this one stopped.
    page.reload()
    expect(page.get_by_text("Waits on this device until the server is there.")).to_be_visible()
    own_server.start()
    expect(page.get_by_role("region", name="CH1")).to_be_visible()
    assert len(httpx2.get(f"{own_server.url}/api/jobs/{job}/captures").json()) == 1


def test_the_run_takes_the_clean_maximum_from_the_volts(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    open_volume_steps(page, server, job)
    for number, volts in enumerate(VOLTS, 20):
        page.keyboard.type(str(volts))
        press(page, "Enter")
        expect(page.get_by_role("rowheader", name=str(number), exact=True)).to_be_visible()
    expect(page.get_by_text("By the volts alone the clean maximum is 27.")).to_be_visible()
    page.get_by_text("How the volts bend").click()
    expect(page.get_by_role("img", name="Volts at each volume number")).to_be_visible()
    page.get_by_role("button", name="Save 27, judged from the volts").click()
    expect(page.get_by_text("Saved: 27")).to_be_visible()
    assert [
        state["clean_maximum"]["basis"] for state in run_of(server, job)["run"]["states"] if state["clean_maximum"]
    ] == ["judged"]
    page.goto(f"{server.url}/jobs/{job}/result")
    expect(page.get_by_text("Never pass 27: the clean maximum by the volts alone.")).to_be_visible()


def test_the_simulated_scope_is_captured_from_the_bench(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    open_volume_steps(page, server, job)
    page.get_by_label("Show the simulated bench").check()
    page.get_by_role("button", name="Capture the wave").click()
    expect(page.get_by_text("Saved: clean")).to_be_visible()
    page.get_by_label("Source volume: ").fill("39")
    expect(page.get_by_text("Source volume: 39 of 40")).to_be_visible()
    page.get_by_role("button", name="Capture the wave").click()
    expect(page.get_by_text(re.compile("Saved: clipped by"))).to_be_visible()


def test_captures_by_touch_on_a_phone(browser: Browser, server: Server, new_job: MakeJob, tmp_path: Path) -> None:
    job = new_job()
    page = browser.new_context(viewport=PHONE, has_touch=True).new_page()
    page.goto(f"{server.url}/jobs/{job}/captures")
    page.get_by_label("Files to analyse").set_input_files(export(tmp_path, 6.0))
    expect(page.get_by_role("region", name="CH1")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]
    page.get_by_role("button", name="Strike out").tap()
    expect(page.get_by_text("Struck out: undone", exact=True)).to_be_visible()
    page.context.close()
