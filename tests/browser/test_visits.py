"""A vehicle back in the workshop: from the Result to what moved, by keyboard, large and on a phone."""

from collections.abc import Callable
from typing import Any
from uuid import uuid4

import httpx2
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import SIZES, clean_maximum, eventually, press, run_of, tab_to, window
from tests.servers import Server

MakeJob = Callable[..., str]
Body = dict[str, Any]


def check_of(server: Server, job: str) -> tuple[Body, Body]:
    run = run_of(server, job)["run"]
    place = next(place for place, one in enumerate(run["steps"]) if one["kind"] == "check")
    return run["steps"][place], run["states"][place]


@SIZES
def test_a_vehicle_that_came_back_is_checked_by_keyboard(
    browser: Browser, server: Server, new_job: MakeJob, size: dict[str, int]
) -> None:
    page: Page = window(browser, viewport=size).new_page()  # type: ignore[arg-type]
    job = new_job("Dunlin, day van")
    clean_maximum(server, job)
    gain = next(step for step in run_of(server, job)["run"]["steps"] if step["kind"] == "gain")
    body = {"id": str(uuid4()), "step": gain["key"], "value": gain["target"]["value"], "instrument": "true-rms"}
    body |= {"circumstances": gain["wants"], "sheet_version": 1, "taken_at": "2026-05-03T09:10:00Z"}
    assert httpx2.post(f"{server.url}/api/jobs/{job}/readings", json=body).status_code == 201

    page.goto(f"{server.url}/jobs/{job}/result")
    expect(page.get_by_role("heading", level=1)).to_be_focused()
    tab_to(page, "The vehicle is back …")
    press(page, "Enter")
    expect(page.get_by_label("Complaint or reason")).to_be_focused()
    page.keyboard.type("quieter than before")
    # Without a connection the word stays on the page, and the check opens once it is back.
    page.context.set_offline(True)
    press(page, "Enter")
    expect(page.get_by_role("status").filter(has_text="The visit begins once the server has it")).to_be_visible()
    page.context.set_offline(False)
    expect(page.get_by_role("heading", level=1)).to_contain_text("Has anything moved?")
    expect(page.get_by_text("quieter than before")).to_be_visible()
    tab_to(page, "Speakers are off")
    press(page, "Enter")
    expect(page.get_by_text("Disconnect the speakers first")).to_have_count(0)
    read = 0
    while True:
        step, state = check_of(server, job)
        taken = {row["row"] for row in state["rows"] if row["reading"]}
        row = next((row for row in step["rows"] if not row["optional"] and row["key"] not in taken), None)
        if row is None:
            break
        expect(page.get_by_label(f"{row['name']}: V")).to_be_visible()
        # Whatever stands at the terminals is 2 dB lower, the source as it was.
        part = 1.0 if row["point"]["kind"] == "output" else 0.794
        page.get_by_label(f"{row['name']}: V").fill(f"{part * row['target']['value']:.2f}")
        press(page, "Enter")
        read += 1
        eventually(lambda count=read: sum(bool(row["reading"]) for row in check_of(server, job)[1]["rows"]), read)
    assert read <= 4
    expect(page.get_by_role("status").filter(has_text="gain of")).to_contain_text("2.0 dB less")
    tab_to(page, f"Go to “{gain['title']}”")
    press(page, "Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text(gain["title"])
    expect(page.get_by_text("Put back what moved and read the check again").first).to_be_visible()

    page.goto(f"{server.url}/jobs/{job}/result")
    visits = page.get_by_role("region", name="Visits", exact=True)
    expect(visits).to_contain_text("quieter than before")
    expect(visits.get_by_role("row").filter(has_text="to redo").first).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= size["width"]
