"""The library of sources: begun by hand, measured by hand, kept from a job, by keyboard and on a phone."""

import json
import re
from collections.abc import Callable
from pathlib import Path
from uuid import uuid4

import httpx2
from playwright.sync_api import Browser, Page, ViewportSize, expect

from tests.browser.conftest import (
    PHONE,
    SIZES,
    choose,
    eventually,
    open_volume_steps,
    press,
    run_of,
    speakers_off,
    tab_to,
    window,
)
from tests.servers import Server

MakeJob = Callable[..., str]


def test_a_source_is_begun_and_measured_by_the_keyboard_alone(page: Page, server: Server) -> None:
    page.goto(server.url)
    expect(page.get_by_role("heading", level=1)).to_be_focused()
    # The menu stands just before the heading.
    press(page, "Shift+Tab")
    press(page, "Enter")
    tab_to(page, "Sources")
    press(page, "Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Sources")
    tab_to(page, "New source")
    press(page, "Enter")
    tab_to(page, "Name")
    page.keyboard.type("Curlew R9")
    tab_to(page, "states")
    page.keyboard.type("4")
    press(page, "Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Curlew R9")
    expect(page.get_by_text("Nothing was measured yet")).to_be_visible()
    tab_to(page, "Clean maximum")
    page.keyboard.type("31")
    tab_to(page, "Volts there")
    page.keyboard.type("2.9")
    tab_to(page, "First clipped number")
    page.keyboard.type("30")
    press(page, "Enter")
    # What contradicts itself is refused in a sentence, and stays to be corrected.
    expect(page.get_by_role("alert")).to_contain_text("clean at 31 and clipped at 30")
    page.keyboard.press("ControlOrMeta+a")
    page.keyboard.type("32")
    press(page, "Enter")
    matrix = page.get_by_role("region", name="Clean maxima")
    expect(matrix).to_contain_text("clean maximum 31 of 40, clipped at 32")
    expect(matrix).to_contain_text("73 % of what is stated, −2.8 dB")
    expect(page.get_by_text("Never pass it: the lowest clean number, by Front.")).to_be_visible()
    # With another setting it has a clean maximum of its own.
    page.locator("summary", has_text="Add a clean maximum").press("Enter")
    for label, typed in (("Clean maximum", "33"), ("Volts there", "3.1"), ("First clipped number", "34")):
        page.get_by_label(label, exact=True).fill(typed)
    tab_to(page, "Another setting")
    page.keyboard.type("Fader")
    tab_to(page, "Its value, as it shows")
    page.keyboard.type("R 3")
    # In a field of several lines Enter is a letter.
    tab_to(page, "Add it")
    press(page, "Enter")
    # By hand: 20·log10(3.1 / 2.9) = 0.58 dB.
    expect(page.get_by_role("row", name=re.compile("fader R 3 33 3.1 V .0.6 dB"))).to_be_visible()


def test_what_a_job_measured_goes_to_the_library(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job("Library van")
    sheet = httpx2.get(f"{server.url}/api/jobs/{job}").json()["sheet"]
    sheet["chain"]["sources"][0]["name"] = "Godwit R1"
    httpx2.put(f"{server.url}/api/jobs/{job}/sheet", json={"base_version": 1, "sheet": sheet, "by": ""})
    open_volume_steps(page, server, job)
    for number, volts, key in ((20, "2.0", "c"), (21, "2.2", "c"), (22, "2.3", "x")):
        expect(page.get_by_label(f"Volts at {number}")).to_be_visible()
        # The page hears of the speakers from the server: until then it takes nothing.
        expect(page.get_by_text("Disconnect the speakers first")).to_have_count(0)
        page.keyboard.type(volts)
        press(page, key)
    expect(page.get_by_text("21 is the clean maximum. Save it.")).to_be_visible()
    press(page, "t")
    expect(page.get_by_text(re.compile("^Saved: 21 gives 2.2 V"))).to_be_visible()
    page.goto(f"{server.url}/jobs/{job}/result")
    page.get_by_role("button", name="Keep Godwit R1 in the library").click()
    page.get_by_role("link", name="Its sheet").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Godwit R1")
    expect(page.get_by_text("Unit: Library van")).to_be_visible()
    expect(page.get_by_role("region", name="Clean maxima")).to_contain_text("clean maximum 21 of 40, clipped at 22")


def test_files_and_the_search_on_a_phone(browser: Browser, server: Server, tmp_path: Path) -> None:
    page = window(browser, viewport=PHONE, has_touch=True).new_page()
    page.goto(f"{server.url}/sources")
    file = tmp_path / "snipe.source.json"
    picker = page.get_by_label("Source file to open")
    file.write_text(json.dumps({"name": "Snipe", "top_volume": 40, "outputs": [{"id": "out"}], "colour": 1}))
    picker.set_input_files(file)
    expect(page.get_by_role("alert")).to_contain_text("this version doesn’t know “colour”")
    cells = [
        {"output": "out", "clean": 30, "clean_v": 1.9},
        {"output": "out", "clean": 33, "clean_v": 2.1, "trim": "-3"},
    ]
    good = {"name": "Snipe", "top_volume": 40, "outputs": [{"id": "out"}], "units": [{"id": "one", "cells": cells}]}
    file.write_text(json.dumps(good))
    picker.set_input_files(file)
    expect(page.get_by_role("row", name=re.compile("trim -3 33 2.1 V .0.9 dB"))).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]
    page.get_by_role("button", name="Move to the bin").tap()
    expect(page.get_by_role("heading", level=1)).to_have_text("Sources")
    page.get_by_label("Name, unit or output").fill("snipe")
    expect(page.get_by_text("No matching source.")).to_be_visible()
    page.get_by_label("In the bin").check()
    page.get_by_role("listitem").get_by_role("link").tap()
    page.get_by_role("button", name="Restore it").tap()
    expect(page.get_by_text("This source is in the bin.")).to_be_hidden()
    page.locator("summary", has_text="Menu").tap()
    page.get_by_role("navigation", name="Main menu").get_by_role("link", name="Sources").tap()
    page.get_by_label("Name, unit or output").fill("snipe")
    expect(page.get_by_role("listitem")).to_have_count(1)
    page.get_by_label("Clean volts, at least").fill("3 V")
    expect(page.get_by_text("No matching source.")).to_be_visible()
    page.context.close()


def test_two_kinds_of_output_have_their_numbers_alike_in_result_library_and_tag(page: Page, server: Server) -> None:
    kinds = {"line": "line", "wires": "speaker"}
    outputs = [{"id": key, "name": key.title(), "kind": kind, "sides": "mono"} for key, kind in kinds.items()]
    sheet = {"name": "Knot R5", "top_volume": 40, "outputs": outputs}
    key, job = uuid4(), str(uuid4())
    httpx2.post(f"{server.url}/api/sources/{key}/file", json=sheet)
    begun = {"id": job, "subject": "source", "vehicle": "Serial 3", "source_sheet": str(key)}
    assert httpx2.post(f"{server.url}/api/jobs", json=begun).status_code == 201
    for step in [step["key"] for step in run_of(server, job)["run"]["steps"] if step["kind"] == "volume_steps"]:
        number, volts = (31, "3.9") if ".line" in step else (22, "6.1")
        page.goto(f"{server.url}/jobs/{job}/run/{step}")
        page.get_by_label(re.compile("^Volts at ")).first.wait_for()
        shown = page.get_by_role("group", name="Source volume").get_by_role("status")
        for _ in range(40):
            at = int(shown.inner_text())
            if at != number:
                press(page, "ArrowUp" if at < number else "ArrowDown")
        expect(shown).to_have_text(str(number))
        for seen in ("c", "x"):
            page.keyboard.type(volts)
            press(page, seen)
        expect(page.get_by_role("button", name=f"Save {number} as the clean maximum")).to_be_visible()
        press(page, "t")
        eventually(lambda step=step: state_of(server, job, step), "done")
    page.goto(f"{server.url}/jobs/{job}/result")
    both = re.compile("line outputs 31, speaker outputs 22")
    expect(page.get_by_text(both)).to_be_visible()
    page.get_by_role("button", name="Keep Knot R5 in the library").click()
    page.get_by_role("link", name="Its sheet").click()
    expect(page.get_by_text(both)).to_be_visible()
    address = page.get_by_role("link", name="Shelf tag").get_attribute("href")
    tag = httpx2.get(f"{server.url}{address}").text
    assert "never pass 31: line outputs" in tag
    assert "never pass 22: speaker outputs" in tag


def in_the_library(server: Server) -> str:
    """The id of a source with two outputs that one unit was measured of."""
    cells = [
        {"output": "front", "way": "usb", "clean": 31, "clean_v": 3.6, "doubt_v": 0.04, "taken_on": "2026-05-03"},
        {"output": "rear", "way": "usb", "clean": 32, "clean_v": 3.5, "doubt_v": 0.04, "taken_on": "2026-05-03"},
    ]
    outputs = [{"id": key, "name": key.title(), "rated": {"volts": 4}} for key in ("front", "rear")]
    sheet = {"name": "Tystie R7", "top_volume": 44, "outputs": outputs, "units": [{"id": "one", "cells": cells}]}
    search = {"search": "Tystie R7"}
    if httpx2.get(f"{server.url}/api/sources", params=search).json()["total"] == 0:
        httpx2.post(f"{server.url}/api/sources/{uuid4()}/file", json=sheet)
    return str(httpx2.get(f"{server.url}/api/sources", params=search).json()["sources"][0]["id"])


def state_of(server: Server, job: str, step: str) -> str:
    return next(str(state["state"]) for state in run_of(server, job)["run"]["states"] if state["step"] == step)


@SIZES
def test_a_job_from_a_sheet_reaches_its_gains_with_one_reading_an_output(
    browser: Browser, server: Server, size: ViewportSize
) -> None:
    source = in_the_library(server)
    context = window(browser, viewport=size)
    page = context.new_page()
    heading = page.get_by_role("heading", level=1)
    page.goto(server.url)
    expect(heading).to_be_focused()
    press(page, "n")
    page.keyboard.type("Tystie tender")
    choose(page, "Layout", "Front and rear,", "front-rear")
    choose(page, "Source", "Tys", source)
    tab_to(page, "Create")
    press(page, "Enter")
    expect(heading).to_have_text("System")
    job = page.url.split("/jobs/")[1].split("/")[0]
    # Said behind the page's back, long before it is at a step that waits for it.
    speakers_off(server, job)
    expect(page.get_by_text("From the sheet of Tystie R7, another unit, 3 May 2026")).to_be_visible()
    press(page, "Control+Enter")
    expect(heading).to_have_text("Plan")
    # Measured volts at once, and whose they are.
    expect(page.get_by_text("31 gives 3.6 V, by the sheet of Tystie R7, another unit, 3 May 2026.")).to_be_visible()
    tab_to(page, "To the run")
    press(page, "Enter")
    expect(heading).to_contain_text("Make it safe")
    # The page has heard of it: until then it takes no reading.
    expect(page.get_by_text("✓ Done")).to_be_visible()
    readings = 0
    for title, number, volts in (("Front", 31, "3.52"), ("Rear", 32, "3.58")):
        while not re.search(f"Check the source against its sheet: {title}", heading.inner_text()):
            before = heading.inner_text()
            press(page, "ArrowRight")
            expect(heading).not_to_have_text(before)
        expect(page.get_by_label(f"Volts at {number}")).to_be_visible()
        page.keyboard.type(volts)
        press(page, "c")
        readings += 1
        expect(page.get_by_text("it agrees. Save it.")).to_be_visible()
        press(page, "t")
        expect(page.get_by_text(re.compile(f"^Saved: {number} gives {volts} V"))).to_be_visible()
    assert readings == 2
    assert page.evaluate("document.documentElement.scrollWidth") <= size["width"]
    run = run_of(server, job)
    steps = {step["key"]: step for step in run["run"]["steps"]}
    for path in ("front", "rear"):
        assert steps[f"gain.{path}"]["needs"] == []
        page.goto(f"{server.url}/jobs/{job}/run/gain.{path}")
        expect(heading).to_be_focused()
        # Kept answers show first; they may be from before the clean maximum was saved.
        expect(page.get_by_role("button", name="Measure anyway")).to_have_count(0)
        page.keyboard.type(f"{steps[f'gain.{path}']['target']['value']:.2f}")
        press(page, "Enter")
        expect(page.get_by_text("In range.").first).to_be_visible()
        eventually(lambda key=f"gain.{path}": state_of(server, job, key), "done")
    context.close()


def test_a_unit_that_differs_from_its_sheet_is_told_why_that_may_be(page: Page, server: Server) -> None:
    found = in_the_library(server)
    job = str(uuid4())
    body = {"id": job, "vehicle": "Another Tystie", "layout": "front-rear", "source_sheet": found}
    assert httpx2.post(f"{server.url}/api/jobs", json=body).status_code == 201
    speakers_off(server, job)
    page.goto(f"{server.url}/jobs/{job}/run/ceiling.source.front.usb")
    expect(page.get_by_text("by its sheet 3.6 V")).to_be_visible()
    page.keyboard.type("2.4")
    press(page, "c")
    expect(page.get_by_text("3.5 dB less than the sheet’s 3.6 V, beyond its ± 1.0 dB")).to_be_visible()
    expect(page.get_by_role("heading", level=1)).to_contain_text("Find the source’s clean maximum")
    # Read again with what was in the way put right.
    press(page, "ArrowDown")
    page.keyboard.type("3.61")
    press(page, "c")
    expect(page.get_by_text("it agrees. Save it.")).to_be_visible()
    # Without the sheet the source is as any other.
    page.goto(f"{server.url}/jobs/{job}/system")
    page.get_by_role("button", name="Don’t use the sheet").click()
    expect(page.get_by_label("From the library")).to_be_visible()
    expect(page.get_by_text("All saved")).to_be_visible()
    eventually(lambda: run_of(server, job)["job"]["sheet"]["chain"]["sources"][0]["from_sheet"], None)


def test_a_unit_is_measured_by_itself_and_what_follows_is_left_out(page: Page, server: Server) -> None:
    outputs = [{"id": "front", "name": "Front", "rated": {"volts": 4}}]
    cell = {"output": "front", "way": "usb", "clean": 30, "clean_v": 3.1}
    other = cell | {"way": "disc"}
    sheet = {"name": "Gannet R3", "top_volume": 40, "outputs": outputs, "units": [{"id": "a", "cells": [cell, other]}]}
    key = uuid4()
    httpx2.post(f"{server.url}/api/sources/{key}/file", json=sheet)
    page.goto(f"{server.url}/sources/{key}")
    heading = page.get_by_role("heading", level=1)
    expect(heading).to_be_focused()
    tab_to(page, "Measure a unit")
    press(page, "Enter")
    tab_to(page, "Unit")
    page.keyboard.type("Serial 12")
    press(page, "Enter")
    expect(heading).to_have_text("Source")
    expect(page.get_by_role("link", name="Plan")).to_have_count(0)
    press(page, "Control+Enter")
    expect(heading).to_contain_text("Make it safe")
    expect(page.get_by_text("Only the meter is connected to its outputs")).to_be_visible()

    def climb(title: str, volume_readings: tuple[tuple[int, str, str], ...]) -> None:
        while title not in heading.inner_text():
            before = heading.inner_text()
            press(page, "ArrowRight")
            expect(heading).not_to_have_text(before)
        for number, volts, key in volume_readings:
            for _ in range(60):
                shown = page.get_by_label(re.compile("^Volts at ")).first
                label = shown.evaluate("e => e.labels[0]?.innerText ?? e.getAttribute('aria-label')")
                at = int(re.sub(r"\D", "", label))
                if at == number:
                    break
                press(page, "ArrowUp" if at < number else "ArrowDown")
            page.keyboard.type(volts)
            press(page, key)
            expect(page.get_by_role("row", name=re.compile(f"^{number} "))).to_be_visible()
        expect(page.get_by_text("31 is the clean maximum. Save it.")).to_be_visible()
        press(page, "t")
        expect(page.get_by_text(re.compile("^Saved: 31 gives"))).to_be_visible()

    up = ((29, "2.9", "c"), (30, "3.25", "c"), (31, "3.6", "c"), (32, "3.8", "x"))
    climb("clean maximum: USB", up)
    climb("USB, right side", up)
    climb("disc, right side", ((29, "2.95", "c"), (30, "3.3", "c"), (31, "3.65", "c"), (32, "3.85", "x")))
    # The left by disc follows the right, as it did by USB.
    press(page, "ArrowRight")
    expect(
        page.get_by_text("Front, left side follows Front, right side within 0.01 dB in 3 points, seen at USB")
    ).to_be_visible()
    press(page, "t")
    expect(page.get_by_text("Saved: 31 gives 3.65 V, from another output: not measured here.")).to_be_visible()
    job = page.url.split("/jobs/")[1].split("/")[0]
    page.goto(f"{server.url}/jobs/{job}/result")
    expect(heading).to_be_focused()
    tab_to(page, "Keep Gannet R3 in the library")
    press(page, "Enter")
    tab_to(page, "Its sheet")
    press(page, "Enter")
    expect(heading).to_have_text("Gannet R3")
    expect(page.get_by_label("Unit", exact=True)).to_contain_text("Serial 12")
    expect(page.get_by_role("region", name="Clean maxima")).to_contain_text("copied")


def test_a_setting_that_was_tried_is_typed_as_it_shows(page: Page, server: Server) -> None:
    found = in_the_library(server)
    page.goto(f"{server.url}/sources/{found}")
    page.get_by_text("Add a setting that was tried").click()
    page.get_by_label("Setting", exact=True).fill("Loudness")
    page.get_by_label("Value, as it shows").fill("II")
    page.get_by_label("Volume number").fill("24")
    page.get_by_label("Volts without it").fill("1.5 V")
    page.get_by_label("Volts with it").fill("2,1")
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_text("Loudness II gives 2.9 dB at 24.")).to_be_visible()
