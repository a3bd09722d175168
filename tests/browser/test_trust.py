"""Nothing is lost and nobody locked out: refusals, undo, drafts of two tabs, many pages, pages without a server."""

import re
import shutil
from collections.abc import Callable
from pathlib import Path
from uuid import uuid4

import httpx2
import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect

from tests.browser.conftest import (
    PHONE,
    WORKER,
    answers_kept,
    eventually,
    go_to_volume_steps,
    open_part,
    open_volume_steps,
    press,
    run_of,
)
from tests.servers import Server
from upper_rook.web.settings import FRONT_END

pytestmark = WORKER
MakeJob = Callable[..., str]


def type_reading(page: Page, volts: str) -> None:
    page.keyboard.type(volts)
    press(page, "c")


def values(server: Server, job: str) -> list[float]:
    return [reading["value"] for reading in run_of(server, job)["readings"] if not reading["struck"]]


def save_reading(server: Server, job: str, **more: object) -> None:
    """Saves a reading that was taken somewhere else."""
    body = {
        "id": str(uuid4()),
        "step": "ceiling.source.line",
        "value": 1.5,
        "instrument": "true-rms",
        "circumstances": {"volume": 20},
        "sheet_version": 1,
        "taken_at": "2026-05-01T09:00:00Z",
    }
    assert httpx2.post(f"{server.url}/api/jobs/{job}/readings", json=body | more).status_code == 201


def controlled(page: Page, server: Server) -> None:
    """Opens the app and waits until it could be opened without its server."""
    page.goto(server.url)
    page.evaluate("navigator.serviceWorker.ready")


def test_the_app_opens_without_its_server_and_shows_what_waits(
    context: BrowserContext, own_server: Server, new_job: MakeJob
) -> None:
    job = new_job(at=own_server)
    page = context.new_page()
    controlled(page, own_server)
    open_volume_steps(page, own_server, job)
    type_reading(page, "1.5")
    expect(page.get_by_text("Still clean at 20")).to_be_visible()
    page.get_by_role("link", name="Plan").click()
    expect(page.get_by_role("heading", level=1, name="Plan")).to_be_visible()
    answers_kept(page, "run", job)
    own_server.kill()
    go_to_volume_steps(page, own_server, job)
    type_reading(page, "1.7")
    expect(page.get_by_text("1 kept on this device, waiting to be sent.")).to_be_visible()
    page.reload()
    expect(page.get_by_role("row", name=re.compile("1.7 V waiting to be sent"))).to_be_visible()
    expect(page.get_by_text("No connection: kept on this device")).to_be_visible()
    # Long enough for what could not be asked for again to be put away: a third look finds it still.
    page.wait_for_timeout(5000)
    page.reload()
    expect(page.get_by_role("row", name=re.compile("1.7 V waiting to be sent"))).to_be_visible()
    # Every view, by its address.
    for view, heading in (("plan", "Plan"), ("system", "System"), ("captures", "Captures")):
        page.goto(f"{own_server.url}/jobs/{job}/{view}")
        expect(page.get_by_role("heading", level=1, name=heading)).to_be_visible()
    page.goto(own_server.url)
    expect(page.get_by_role("button", name="1 waiting")).to_be_visible()
    own_server.start()
    expect(page.get_by_role("button", name="1 waiting")).to_have_count(0)
    assert values(own_server, job) == [1.5, 1.7]


def test_what_was_refused_is_listed_on_every_page_and_can_be_corrected(
    page: Page, server: Server, new_job: MakeJob
) -> None:
    job = new_job()
    open_volume_steps(page, server, job)
    place = f"{server.url}/api/jobs/{job}/readings"
    page.route(
        "**/readings",
        lambda route: route.fulfill(
            status=422,
            content_type="application/problem+json",
            json={"status": 422, "title": "Can’t be used", "detail": "Volume 20 is outside the scale."},
        ),
    )
    type_reading(page, "1.5")
    expect(page.get_by_role("button", name="1 rejected")).to_be_visible()
    page.unroute_all()
    page.goto(server.url)
    page.get_by_role("button", name="1 rejected").click()
    dialog = page.get_by_role("dialog")
    for told in ("1.5 V at 20", "Find the source’s clean maximum", "outside the scale"):
        expect(dialog).to_contain_text(told)
    with page.expect_download() as download:
        dialog.get_by_role("button", name="All of it as a table (CSV)").click()
    table = download.value.path().read_text("utf-8-sig")
    assert "1.5,ac_volts,20,clean" in table
    dialog.get_by_role("button", name="Correct it").click()
    dialog.get_by_label("Volts").fill("1.6")
    dialog.get_by_label("Volume number").fill("21")
    dialog.get_by_role("button", name="Send it like this").click()
    expect(dialog).to_contain_text("Nothing: the server has everything.")
    assert [reading["value"] for reading in httpx2.get(place).json()["readings"]] == [1.6]


@pytest.mark.parametrize(
    "status", [413, 500, *(pytest.param(number, marks=pytest.mark.deep) for number in (403, 429, 504))]
)
def test_no_answer_of_a_server_makes_a_reading_vanish(
    page: Page, server: Server, new_job: MakeJob, status: int
) -> None:
    job = new_job()
    open_volume_steps(page, server, job)
    page.route("**/readings", lambda route: route.fulfill(status=status, body="<h1>proxy</h1>"))
    type_reading(page, "1.5")
    expect(page.get_by_text("1 kept on this device, waiting to be sent.")).to_be_visible()
    page.reload()
    expect(page.get_by_role("row", name=re.compile("1.5 V waiting to be sent"))).to_be_visible()
    page.unroute_all()
    expect(page.get_by_text("waiting to be sent")).to_have_count(0)
    assert values(server, job) == [1.5]


def test_undo_takes_back_only_what_was_taken_here_and_gives_it_back(
    browser: Browser, server: Server, new_job: MakeJob
) -> None:
    job = new_job()
    first, second = (browser.new_context().new_page() for _ in range(2))
    for page in (first, second):
        open_volume_steps(page, server, job)
    type_reading(first, "1.5")
    expect(second.get_by_role("row", name=re.compile("1.5 V"))).to_be_visible()
    press(second, "u")
    second.wait_for_timeout(300)
    assert values(server, job) == [1.5]
    type_reading(second, "1.7")
    expect(first.get_by_role("row", name=re.compile("1.7 V"))).to_be_visible()
    # The newest is the other's: here it is the one before.
    press(first, "u")
    expect(first.get_by_text("Undone: 1.5 V at “Find the source’s clean maximum”.")).to_be_visible()
    expect(second.get_by_role("row", name=re.compile("1.5 V"))).to_have_count(0)
    press(first, "p")
    expect(second.get_by_role("row", name=re.compile("1.5 V"))).to_be_visible()
    eventually(lambda: values(server, job), [1.5, 1.7])
    for page in (first, second):
        page.context.close()


def test_enter_hit_twice_is_one_record(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    open_volume_steps(page, server, job)
    page.get_by_label("Reading from").select_option("simulated")
    expect(page.get_by_text("Now, at 20")).to_be_visible()
    # In one go: two presses of a test's own may be far apart on a busy machine.
    page.evaluate("""() => ['', ''].forEach(() =>
        document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true })))""")
    expect(page.get_by_role("rowheader", name="20", exact=True)).to_be_visible()
    eventually(lambda: len(values(server, job)), 1)
    page.wait_for_timeout(500)
    assert len(values(server, job)) == 1


def test_two_tabs_that_edit_without_a_server_lose_neither_edit(
    context: BrowserContext, own_server: Server, new_job: MakeJob
) -> None:
    job = new_job(at=own_server)
    first, second = (context.new_page() for _ in range(2))
    for page in (first, second):
        page.goto(f"{own_server.url}/jobs/{job}/system")
        expect(page.get_by_label("Name", exact=True)).to_be_visible()
    own_server.kill()
    for page, name in ((first, "From the first tab"), (second, "From the second tab")):
        page.get_by_label("Name", exact=True).fill(name)
        expect(page.get_by_text("Kept on this device until the server is reachable")).to_be_visible()
    own_server.start()
    # One is saved; the other is told, and neither is written over the other without a word.
    for page in (first, second):
        expect(page.get_by_text(re.compile("All saved|choose a version"))).to_be_visible()
    eventually(lambda: sum(page.get_by_role("dialog").is_visible() for page in (first, second)), 1)
    (late,) = [page for page in (first, second) if page.get_by_role("dialog").is_visible()]
    for name in ("From the first tab", "From the second tab"):
        expect(late.get_by_role("dialog")).to_contain_text(name)
    # A tab that is closed in the middle of it keeps its edit for the next.
    mine = late.get_by_label("Name", exact=True).input_value()
    late.close()
    third = context.new_page()
    third.goto(f"{own_server.url}/jobs/{job}/system")
    expect(third.get_by_role("dialog")).to_contain_text(mine)
    third.get_by_role("dialog").get_by_role("button", name="Keep this version").click()
    expect(third.get_by_text("All saved")).to_be_visible()
    sheet = httpx2.get(f"{own_server.url}/api/jobs/{job}").json()["sheet"]
    assert sheet["chain"]["sources"][0]["name"] == mine


def test_a_closed_tabs_readings_are_sent_by_another_that_is_open(
    context: BrowserContext, own_server: Server, new_job: MakeJob
) -> None:
    job = new_job(at=own_server)
    other, page = context.new_page(), context.new_page()
    other.goto(own_server.url)
    expect(other.get_by_role("heading", level=1, name="Jobs")).to_be_visible()
    open_volume_steps(page, own_server, job)
    own_server.kill()
    type_reading(page, "1.7")
    expect(page.get_by_text("1 kept on this device, waiting to be sent.")).to_be_visible()
    page.close()
    expect(other.get_by_role("button", name="1 waiting")).to_be_visible()
    own_server.start()
    expect(other.get_by_role("button", name="1 waiting")).to_have_count(0)
    assert values(own_server, job) == [1.7]


def test_a_file_dropped_in_a_tab_that_does_not_send_opens_there(
    context: BrowserContext, server: Server, new_job: MakeJob, tmp_path: Path
) -> None:
    job = new_job()
    sending, page = context.new_page(), context.new_page()
    sending.goto(server.url)
    expect(sending.get_by_role("heading", level=1, name="Jobs")).to_be_visible()
    page.goto(f"{server.url}/jobs/{job}/captures")
    file = tmp_path / "volume-steps.csv"
    file.write_text("volume;voltage_v\n" + "\n".join(f"{n};{1 + n / 10}" for n in range(10, 20)), "utf-8")
    page.get_by_label("Files to analyse").set_input_files(file)
    expect(page).to_have_url(re.compile(r"/captures/[0-9a-f-]{36}$"))


def test_ten_pages_of_one_browser_all_open_and_hear_of_changes(
    context: BrowserContext, server: Server, new_job: MakeJob
) -> None:
    """A browser gives one host six connections; a stream of each page would leave none."""
    jobs = [new_job(f"Van {number}") for number in range(10)]
    pages = [context.new_page() for _ in jobs]
    for page, job in zip(pages, jobs, strict=True):
        open_volume_steps(page, server, job)
    for page, job in zip(pages, jobs, strict=True):
        save_reading(server, job)
        expect(page.get_by_role("row", name=re.compile("1.5 V"))).to_be_visible()


def test_a_clock_that_is_off_is_told_and_decides_nothing(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    page.clock.install(time="2031-01-01T00:00:00Z")
    open_volume_steps(page, server, job)
    expect(page.get_by_text(re.compile(r"clock is \d+ days ahead of the server’s: set it"))).to_be_visible()
    type_reading(page, "1.5")
    expect(page.get_by_role("row", name=re.compile("1.5 V ±"))).to_be_visible()
    save_reading(server, job, value=1.6, seen="clean")
    volume_steps = next(
        state["volume_steps"] for state in run_of(server, job)["run"]["states"] if state["volume_steps"]
    )
    assert volume_steps["last_clean"]["voltage_v"] == 1.6


def test_a_browser_that_keeps_nothing_says_so_and_works(browser: Browser, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    page = browser.new_context(service_workers="block").new_page()
    page.add_init_script(
        """
        const blocked = { get: () => { throw new DOMException('blocked', 'SecurityError') } };
        for (const name of ['localStorage', 'sessionStorage', 'indexedDB'])
          Object.defineProperty(window, name, { ...blocked, configurable: true });
        """
    )
    open_volume_steps(page, server, job)
    expect(page.get_by_text("This browser can’t store data for this page")).to_be_visible()
    type_reading(page, "1.5")
    expect(page.get_by_text("Still clean at 20")).to_be_visible()
    eventually(lambda: values(server, job), [1.5])
    page.context.close()


@pytest.mark.parametrize("size", [pytest.param(None, marks=pytest.mark.deep), PHONE])
def test_jobs_are_found_put_away_and_had_back(
    page: Page, own_server: Server, new_job: MakeJob, size: dict[str, int] | None
) -> None:
    for vehicle in ("Gannet 6 camper", "Möwe IV", "Heron minibus"):
        new_job(vehicle, at=own_server)
    if size:
        page.set_viewport_size(size)
    page.goto(own_server.url)
    expect(page.get_by_text("3 jobs")).to_be_visible()
    page.get_by_label("Search the jobs").fill("mowe")
    expect(page.get_by_text("1 job")).to_be_visible()
    page.reload()
    expect(page.get_by_text("Möwe IV")).to_be_visible()
    page.get_by_label("Search the jobs").fill("")
    expect(page.get_by_text("3 jobs")).to_be_visible()
    page.get_by_role("button", name="Finished").click()
    expect(page.get_by_text("No matching jobs.")).to_be_visible()
    page.get_by_role("button", name="Current").click()
    page.get_by_role("button", name="More for Gannet 6 camper").click()
    page.get_by_role("menuitem", name="Move to the bin").click()
    page.get_by_role("dialog").get_by_role("button", name="Move to the bin").click()
    expect(page.get_by_text("“Gannet 6 camper” is in the bin for 30 days of use.")).to_be_visible()
    expect(page.get_by_text("2 jobs")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("3 jobs")).to_be_visible()
    page.get_by_role("button", name="More for Heron minibus").click()
    page.get_by_role("menuitem", name="Move to the archive").click()
    expect(page.get_by_text("2 jobs")).to_be_visible()
    page.get_by_role("button", name="Archive", exact=True).click()
    expect(page.get_by_text("Heron minibus", exact=True)).to_be_visible()
    page.get_by_role("button", name="More for Heron minibus").click()
    page.get_by_role("menuitem", name="Copy this job").click()
    open_part(page, "Vehicle")
    expect(page.get_by_label("Vehicle", exact=True)).to_have_value("Heron minibus (copy)")


def test_a_new_version_is_offered_and_taken_when_it_is_wanted(
    context: BrowserContext, database_url: str, tmp_path: Path
) -> None:
    pages = tmp_path / "dist"
    shutil.copytree(FRONT_END, pages)
    server = Server(database_url, front_end=pages).start()
    try:
        page = context.new_page()
        controlled(page, server)
        page.reload()
        worker = pages / "sw.js"
        worker.write_text(worker.read_text("utf-8") + "\n// another version\n", "utf-8")
        page.reload()
        # Offered, and the page that is open goes on as it is.
        expect(page.get_by_text("A new version of the app is here.")).to_be_visible()
        expect(page.get_by_role("heading", level=1, name="Jobs")).to_be_visible()
        with page.expect_navigation():
            page.get_by_role("button", name="Change to it now").click()
        expect(page.get_by_role("heading", level=1, name="Jobs")).to_be_visible()
        expect(page.get_by_text("A new version of the app is here.")).to_have_count(0)
    finally:
        server.stop()


def test_a_job_in_the_bin_says_so_wherever_it_is_opened(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    httpx2.put(f"{server.url}/api/jobs/{job}/deleted", json={"there": True})
    page.goto(f"{server.url}/jobs/{job}/plan")
    expect(page.get_by_text("This job is in the bin. It will be deleted on")).to_be_visible()
    page.get_by_role("button", name="Restore it").click()
    expect(page.get_by_text("This job is in the bin")).to_have_count(0)
    assert httpx2.get(f"{server.url}/api/jobs/{job}").json()["deleted_at"] is None


def test_a_page_of_a_job_that_is_not_there_leaves_the_others_their_stream(
    context: BrowserContext, server: Server, new_job: MakeJob
) -> None:
    job = new_job()
    lost, page = context.new_page(), context.new_page()
    lost.goto(f"{server.url}/jobs/00000000-0000-4000-8000-000000000000/run")
    expect(lost.get_by_text("There is no such job here")).to_be_visible()
    open_volume_steps(page, server, job)
    page.wait_for_timeout(500)
    save_reading(server, job)
    expect(page.get_by_role("row", name=re.compile("1.5 V"))).to_be_visible()
