"""A photo is taken on a phone without a connection, sent when it is back, drawn on by hand and by keys, and deleted."""

from collections.abc import Callable
from typing import Any

import httpx2
import pytest
from playwright.sync_api import Browser, FilePayload, Page, expect

from tests.browser.conftest import LARGE, SIZES, eventually, open_part, press, tab_to, window
from tests.servers import Server
from tests.shot import photo

MakeJob = Callable[..., str]
SHOT: FilePayload = {"name": "IMG_0001.jpg", "mimeType": "image/jpeg", "buffer": photo(1600, 1200)}


def kept(server: Server, job: str) -> list[dict[str, Any]]:
    return list(httpx2.get(f"{server.url}/api/jobs/{job}/photos").json())


def drawn(server: Server, job: str) -> list[tuple[str, float, float]]:
    return [(mark["kind"], mark["x"], mark["y"]) for mark in kept(server, job)[0]["drawn"]]


@SIZES
def test_a_photo_waits_for_the_server_and_is_drawn_on_by_hand_and_by_keys(
    browser: Browser, server: Server, new_job: MakeJob, size: dict[str, int]
) -> None:
    page: Page = window(browser, viewport=size).new_page()  # type: ignore[arg-type]
    job = new_job()
    page.goto(f"{server.url}/jobs/{job}/system")
    open_part(page, "Amplifier")
    photos = page.get_by_role("region", name="Photos of Amplifier")
    expect(photos.get_by_role("button", name="Take a photo")).to_be_visible()
    page.context.set_offline(True)
    photos.get_by_label("Photo of Amplifier").set_input_files(SHOT)
    expect(photos).to_contain_text("Waits on this device")
    page.context.set_offline(False)
    # The place in the list is the server's, once it has it.
    expect(photos.get_by_role("link", name="Photo of Amplifier")).to_be_visible()
    eventually(lambda: len(kept(server, job)), 1)
    tab_to(page, "Take a photo")
    press(page, "Shift+Tab", "Enter")

    expect(page.get_by_role("heading", level=1)).to_have_text("Photos")
    # No word of the tabs is broken, and nothing has to be scrolled sideways.
    tabs = page.get_by_role("navigation", name="This job").get_by_role("link")
    assert all(tabs.nth(index).evaluate("e => e.offsetHeight") < 60 for index in range(tabs.count()))
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    tab_to(page, "Caption")
    page.keyboard.type("Knobs as they came")
    press(page, "Enter")
    expect(page.get_by_role("status").filter(has_text="Saved")).to_be_visible()
    canvas = page.get_by_role("group", name="Photo to draw on")
    page.get_by_role("button", name="Circle", exact=True).click()
    canvas.scroll_into_view_if_needed()
    box = canvas.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.6, box["y"] + box["height"] / 2, steps=4)
    page.mouse.up()
    eventually(lambda: [kind for kind, *_ in drawn(server, job)], ["circle"])
    # A word by keys alone: put into the middle and moved.
    tab_to(page, "Word")
    press(page, "Enter")
    page.get_by_label("Word", exact=True).fill("gain")
    tab_to(page, "Put it in the middle")
    press(page, "Enter")
    expect(canvas).to_be_focused()
    press(page, *["ArrowLeft"] * 7, "ArrowUp")
    eventually(lambda: drawn(server, job)[1:], [("word", pytest.approx(0.33), pytest.approx(0.49))])
    press(page, "Delete")
    eventually(lambda: len(drawn(server, job)), 1)

    # Without a connection a caption and an arrow are kept, also while another page is looked at; and a colleague
    # draws a word meanwhile, which isn't written over.
    page.context.set_offline(True)
    page.get_by_role("button", name="Arrow", exact=True).click()
    page.get_by_role("button", name="Put it in the middle").click()
    expect(page.get_by_role("button", name="Save the drawing again")).to_be_visible()
    tab_to(page, "Caption")
    press(page, "End")
    page.keyboard.type(", all four")
    page.get_by_label("Caption").blur()
    expect(page.get_by_text("Not saved yet.")).to_be_visible()
    (mine,) = kept(server, job)
    assert [mark["kind"] for mark in mine["drawn"]] == ["circle"]
    theirs = {"kind": "word", "x": 0.2, "y": 0.9, "text": "theirs"}
    change = {name: mine[name] for name in ("revision", "name", "part", "step")} | {"drawn": [*mine["drawn"], theirs]}
    photo_url = f"{server.url}/api/jobs/{job}/photos/{mine['id']}"
    assert httpx2.put(photo_url, json=change).status_code == 200
    tabs.filter(has_text="System").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("System")
    page.go_back()
    expect(page.get_by_label("Caption")).to_have_value("Knobs as they came, all four")
    page.context.set_offline(False)
    page.get_by_role("button", name="Save the drawing again").click()
    eventually(lambda: [kind for kind, *_ in drawn(server, job)], ["circle", "word", "arrow"])
    tab_to(page, "Caption")
    press(page, "Enter")
    eventually(lambda: kept(server, job)[0]["name"], "Knobs as they came, all four")
    expect(page.get_by_text("Not saved yet.")).to_have_count(0)

    page.get_by_role("button", name="Delete photo").click()
    page.get_by_role("button", name="Really delete it for good").click()
    eventually(lambda: kept(server, job), [])
    expect(page.get_by_role("heading", level=2, name="The vehicle")).to_be_visible()


def test_what_is_no_photo_is_said_where_it_was_taken(browser: Browser, server: Server, new_job: MakeJob) -> None:
    page: Page = window(browser, viewport=LARGE).new_page()  # type: ignore[arg-type]
    job = new_job()
    page.goto(f"{server.url}/jobs/{job}/run/safe")
    words: FilePayload = {"name": "IMG_0002.heic", "mimeType": "image/heic", "buffer": b"ftypheic" * 40}
    strip = page.locator(".strip")
    strip.locator("input[type=file]").set_input_files(words)
    expect(strip.get_by_role("alert")).to_contain_text("send a JPEG, PNG or WebP file")
    strip.get_by_role("button", name="Discard").click()
    strip.get_by_role("button", name="Really discard").click()
    expect(strip.get_by_role("alert")).to_have_count(0)
    strip.locator("input[type=file]").set_input_files(SHOT)
    expect(strip.get_by_role("link")).to_have_count(1)
    assert kept(server, job)[0]["step"] == "safe"
