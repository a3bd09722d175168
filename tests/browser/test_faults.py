"""What breaks in a workshop: two tabs, a killed server, a database that is gone, a browser that is closed."""

import os
import re
from collections.abc import Callable, Iterator

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect

from tests.browser.conftest import WORKER, open_part, open_volume_steps, press, run_of
from tests.kills import Cluster
from tests.servers import Server

pytestmark = WORKER
MakeJob = Callable[..., str]


@pytest.fixture
def cluster() -> Iterator[Cluster]:
    """It, running."""
    cluster = Cluster(f"gone-{os.environ.get('PYTEST_XDIST_WORKER', 'one')}")
    cluster.do("start")
    yield cluster
    cluster.do("stop")


def type_reading(page: Page, volts: str) -> None:
    page.keyboard.type(volts)
    press(page, "c")


def test_a_server_killed_between_two_readings_loses_none(page: Page, own_server: Server, new_job: MakeJob) -> None:
    job = new_job(at=own_server)
    open_volume_steps(page, own_server, job)
    type_reading(page, "1.5")
    expect(page.get_by_text("Still clean at 20")).to_be_visible()
    own_server.kill()
    type_reading(page, "1.7")
    expect(page.get_by_text("1 kept on this device, waiting to be sent.")).to_be_visible()
    type_reading(page, "1.9")
    expect(page.get_by_text("No connection: kept on this device")).to_be_visible()
    expect(page.get_by_role("row", name=re.compile("1.9 V waiting to be sent"))).to_be_visible()
    own_server.start()
    expect(page.get_by_text("waiting to be sent")).to_have_count(0)
    expect(page.get_by_text("No connection")).to_be_hidden()
    assert [reading["value"] for reading in run_of(own_server, job)["readings"]] == [1.5, 1.7, 1.9]


def test_a_browser_closed_without_a_server_sends_when_it_is_opened_again(
    context: BrowserContext, own_server: Server, new_job: MakeJob
) -> None:
    job = new_job(at=own_server)
    page = context.new_page()
    open_volume_steps(page, own_server, job)
    type_reading(page, "1.5")
    expect(page.get_by_text("Still clean at 20")).to_be_visible()
    own_server.kill()
    type_reading(page, "1.7")
    expect(page.get_by_text("waiting to be sent.")).to_be_visible()
    page.close()
    own_server.start()
    page = context.new_page()
    page.goto(f"{own_server.url}/jobs/{job}")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Make it safe")
    page.get_by_role("button", name="Clean maximum").click()
    expect(page.get_by_role("row", name=re.compile("1.7 V ±"))).to_be_visible()
    assert [reading["value"] for reading in run_of(own_server, job)["readings"]] == [1.5, 1.7]


def test_a_database_gone_for_ten_seconds_loses_nothing(page: Page, cluster: Cluster, new_job: MakeJob) -> None:
    server = Server(cluster.do("url", "gone")).start()
    job = new_job(at=server)
    open_volume_steps(page, server, job)
    type_reading(page, "1.5")
    expect(page.get_by_text("Still clean at 20")).to_be_visible()
    cluster.do("stop")
    type_reading(page, "1.7")
    expect(page.get_by_text("The database can’t be reached: kept on this device")).to_be_visible()
    page.wait_for_timeout(10_000)
    expect(page.get_by_role("row", name=re.compile("1.7 V waiting to be sent"))).to_be_visible()
    cluster.do("start")
    expect(page.get_by_text("waiting to be sent")).to_have_count(0)
    assert [reading["value"] for reading in run_of(server, job)["readings"]] == [1.5, 1.7]
    # The live channel is back as well: an edit from elsewhere arrives.
    type_reading(page, "2.1")
    expect(page.get_by_text("Still clean at 22")).to_be_visible()
    server.stop()


def test_two_tabs_on_one_system_are_shown_both_values(browser: Browser, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    first, second = (browser.new_context().new_page() for _ in range(2))
    for page in (first, second):
        page.goto(f"{server.url}/jobs/{job}/system")
        expect(page.get_by_label("Name", exact=True)).to_be_visible()
    # The second hears of nothing while it is cut off, and edits what it has.
    second.route("**/live*", lambda route: route.abort())
    second.route("**/run", lambda route: route.abort())
    second.route("**/sheet", lambda route: route.abort())
    second.get_by_label("Name", exact=True).fill("From the second tab")
    expect(second.get_by_text("Kept on this device until the server is reachable")).to_be_visible()
    first.get_by_label("Name", exact=True).fill("From the first tab")
    expect(first.get_by_text("All saved")).to_be_visible()
    second.unroute_all()
    dialog = second.get_by_role("dialog")
    expect(dialog).to_contain_text("Source, name")
    expect(dialog).to_contain_text("From the first tab")
    expect(dialog).to_contain_text("From the second tab")
    dialog.get_by_role("button", name="Keep this version").click()
    expect(second.get_by_text("All saved")).to_be_visible()
    # And the first, which has nothing unsaved, simply follows.
    expect(first.get_by_label("Name", exact=True)).to_have_value("From the second tab")
    for page in (first, second):
        page.context.close()


def test_a_reading_in_one_tab_shows_in_the_other(browser: Browser, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    first, second = (browser.new_context().new_page() for _ in range(2))
    for page in (first, second):
        open_volume_steps(page, server, job)
        expect(page.get_by_label("Volts at 20")).to_be_visible()
    type_reading(first, "1.5")
    expect(second.get_by_role("row", name=re.compile("1.5 V"))).to_be_visible()
    for page in (first, second):
        page.context.close()


def test_bad_parts_are_marked_at_their_field_and_the_good_value_stays(
    page: Page, server: Server, new_job: MakeJob
) -> None:
    job = new_job()
    page.goto(f"{server.url}/jobs/{job}/system")
    open_part(page, "Speakers")
    ohms = page.get_by_label("Impedance of one", exact=True)
    for typed, said in (("0", "out of bounds"), ("four", "isn’t a number"), ("4 V", "Ω is wanted")):
        ohms.fill(typed)
        expect(page.get_by_text(said)).to_be_visible()
        expect(page.get_by_text("Not saved.")).to_be_visible()
    ohms.fill("2,0")
    open_part(page, "Source")
    page.get_by_label("Name", exact=True).fill("x" * 90)
    expect(page.get_by_text("has at most 80 characters. Not saved.")).to_be_visible()
    # Which part has it shows from everywhere.
    open_part(page, "Speakers")
    expect(page.get_by_role("button", name="Source · correct")).to_be_visible()
    open_part(page, "Source")
    page.get_by_label("Name", exact=True).fill("Lanthorn")
    expect(page.get_by_text("All saved")).to_be_visible()
    page.reload()
    expect(page.get_by_label("Name", exact=True)).to_have_value("Lanthorn")
    open_part(page, "Speakers")
    expect(ohms).to_have_value("2 Ω")


def test_a_job_that_is_not_there_says_so(page: Page, server: Server) -> None:
    page.goto(f"{server.url}/jobs/00000000-0000-4000-8000-000000000000/run")
    expect(page.get_by_text("There is no such job here")).to_be_visible()


def test_a_page_that_fails_to_load_says_so_and_opens_when_asked_again(
    browser: Browser, server: Server, new_job: MakeJob
) -> None:
    # Without what a service worker would have kept.
    context = browser.new_context(service_workers="block")
    page = context.new_page()
    page.goto(f"{server.url}/jobs/{new_job()}/plan")
    heading = page.get_by_role("heading", level=1)
    expect(heading).to_have_text("Plan")
    context.set_offline(True)
    page.get_by_role("link", name="Upper Rook, list of jobs").press("Enter")
    expect(
        page.get_by_role("alert").filter(has_text="“Jobs” could not be loaded. Check the connection.")
    ).to_be_visible()
    expect(heading).to_have_text("Plan")
    context.set_offline(False)
    page.get_by_role("button", name="Try again").press("Enter")
    expect(heading).to_have_text("Jobs")
    expect(page.get_by_text("could not be loaded")).to_have_count(0)
    context.close()
