"""A customer entered on a phone by keyboard, found by the plate, due on the list, and taken out again."""

from collections.abc import Callable
from typing import Any

import httpx2
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import SIZES, open_part, press, tab_to, window
from tests.servers import Server

MakeJob = Callable[..., str]


def kept(server: Server, job: str) -> dict[str, Any]:
    return dict(httpx2.get(f"{server.url}/api/jobs/{job}/customer").json())


@SIZES
def test_a_customer_is_entered_found_and_taken_out(
    browser: Browser, server: Server, new_job: MakeJob, size: dict[str, int]
) -> None:
    page: Page = window(browser, viewport=size).new_page()  # type: ignore[arg-type]
    vehicle = f"Avocet, van of {size['width']}"
    job = new_job(vehicle)
    page.goto(f"{server.url}/jobs/{job}/system")
    open_part(page, "Vehicle")
    form = page.get_by_role("form", name="Customer")
    expect(form.get_by_role("button", name="Save the customer")).to_be_disabled()
    for label, words in (("Name", "Ada Brook"), ("Phone", "0555 0134"), ("Number plate", "KX 12-34")):
        tab_to(page, label)
        page.keyboard.type(words)
    tab_to(page, "Mileage")
    page.keyboard.type("rubbish")
    expect(form.get_by_text("Not saved yet")).to_be_visible()
    # Whoever looks at another part, or at another page, finds it as it was typed.
    open_part(page, "Source")
    page.get_by_role("navigation", name="This job").get_by_role("link", name="Plan").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Plan")
    page.get_by_role("navigation", name="This job").get_by_role("link", name="System").click()
    open_part(page, "Vehicle")
    expect(form.get_by_label("Name")).to_have_value("Ada Brook")
    expect(form.get_by_text("Not saved yet")).to_be_visible()
    tab_to(page, "Mileage")
    page.keyboard.press("ControlOrMeta+a")
    page.keyboard.type("48200 km")
    form.get_by_label("Arrived").fill("2026-11-30")
    form.get_by_label("Due").fill("2026-11-20")
    tab_to(page, "Save the customer")
    press(page, "Enter")
    expect(form.get_by_role("alert")).to_contain_text("before it arrived: check both days")
    form.get_by_label("Due").fill("2026-12-04")
    # Without a connection it stays where it was typed.
    page.context.set_offline(True)
    tab_to(page, "Save the customer")
    press(page, "Enter")
    expect(form.get_by_role("alert")).to_be_visible()
    expect(form.get_by_label("Name")).to_have_value("Ada Brook")
    assert kept(server, job)["version"] == 0
    page.context.set_offline(False)
    tab_to(page, "Save the customer")
    press(page, "Enter")
    expect(form.get_by_text("Saved.")).to_be_visible()
    customer = kept(server, job)["customer"]
    assert (customer["plate"], customer["stays"]) == (
        "KX 12-34",
        [{"arrived_on": "2026-11-30", "due_on": "2026-12-04", "left_on": None, "mileage_km": 48_200}],
    )
    # What somebody else saved meanwhile isn't written over.
    edit = {"base_version": 1, "customer": customer | {"name": "Ada Brook-Marsh"}}
    page.context.set_offline(True)
    tab_to(page, "Phone")
    page.keyboard.type(" 7")
    assert httpx2.put(f"{server.url}/api/jobs/{job}/customer", json=edit).status_code == 200
    page.context.set_offline(False)
    tab_to(page, "Save the customer")
    press(page, "Enter")
    expect(form.get_by_role("alert")).to_contain_text("changed the customer a moment ago")
    tab_to(page, "Undo what is not saved")
    press(page, "Enter")
    expect(form.get_by_label("Name")).to_have_value("Ada Brook-Marsh")

    page.goto(server.url)
    due = page.get_by_role("region", name="Due")
    expect(due.get_by_role("link", name=vehicle)).to_contain_text("4 December 2026")
    page.get_by_label("Search the jobs").fill("kx1234")
    expect(page.locator(".row-of-job")).to_have_count(1)
    expect(page.locator(".jobs")).to_contain_text("Due 4 December 2026")
    assert "kx1234" not in page.url
    # It is there again after a look into the job and back.
    page.locator(".row-of-job a").click()
    # It opens where this device left it.
    expect(page.get_by_role("heading", level=1)).to_have_text("Plan")
    page.go_back()
    expect(page.get_by_label("Search the jobs")).to_have_value("kx1234")
    expect(page.locator(".row-of-job")).to_have_count(1)

    page.goto(f"{server.url}/jobs/{job}/system")
    open_part(page, "Vehicle")
    tab_to(page, "Take the customer out …")
    press(page, "Enter")
    expect(form.get_by_text("are deleted for good. Readings stay.")).to_be_visible()
    tab_to(page, "Delete them")
    press(page, "Enter")
    expect(form.get_by_text("Taken out.")).to_be_visible()
    expect(form.get_by_label("Name")).to_have_value("")
    assert kept(server, job)["version"] == 0
