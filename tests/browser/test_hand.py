"""For one free hand: Enter, the bench's keys, what stays at the thumb, what a tab is called, letters switched off."""

import re
from collections.abc import Callable
from typing import Any
from uuid import uuid4

import httpx2
import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import (
    LARGE,
    PHONE,
    eventually,
    open_settings,
    open_volume_steps,
    press,
    run_of,
    tab_to,
    window,
)
from tests.servers import Server

MakeJob = Callable[..., str]
LYING = {"width": 640, "height": 400}
TABLET = {"width": 768, "height": 1024}


def heading(page: Page, text: str) -> None:
    expect(page.get_by_role("heading", level=1)).to_contain_text(text)


def test_enter_is_the_steps_after_every_way_that_leads_there(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    page.goto(f"{server.url}/jobs/{job}/system")
    heading(page, "System")
    # By keyboard through the tabs: the link that was pressed is gone, and Enter is not its own any more.
    tab_to(page, "Run")
    press(page, "Enter")
    heading(page, "Make it safe")
    expect(page.get_by_role("heading", level=1)).to_be_focused()
    press(page, "Enter")
    expect(page.get_by_text("✓ Done")).to_have_count(1)
    # A click leaves the focus at the heading: Enter goes on with the list instead of pressing the button again.
    page.get_by_role("button", name=re.compile("^Done: Engine running")).click()
    expect(page.get_by_role("heading", level=1)).to_be_focused()
    page.get_by_role("button", name=re.compile("^Next step")).click()
    heading(page, "Make the source flat")
    press(page, "Enter")
    expect(page.get_by_text("✓ Done")).to_have_count(1)
    heading(page, "Make the source flat")
    # A button that was gone to with Tab keeps its Enter.
    tab_to(page, "Skip S")
    press(page, "Enter")
    expect(page.get_by_role("dialog")).to_be_visible()


def test_the_bench_is_worked_by_keys_alone(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    open_volume_steps(page, server, job)
    press(page, "v")
    bench = page.get_by_role("region", name="Simulated bench")
    expect(bench).to_be_visible()
    expect(page.get_by_label("Reading from")).to_have_value("simulated")
    press(page, "r", "w")
    expect(bench.get_by_role("button", name="Source")).to_have_attribute("aria-pressed", "true")
    press(page, "Shift+f", "f", "d", "k")
    expect(bench.get_by_text("Gain knob: 5.0 % up")).to_be_visible()
    # Eleven keys so far; a reading is Enter, and a button of the bench doesn't take it.
    bench.get_by_role("button", name="Gain up slightly").click()
    before = len(run_of(server, job)["readings"])
    expect(page.get_by_label("Volts now")).not_to_contain_text("–")
    press(page, "Enter")
    eventually(lambda: len(run_of(server, job)["readings"]), before + 1)
    press(page, "v")
    expect(bench).to_be_hidden()
    expect(page.get_by_label("Reading from")).to_have_value("true-rms")


def test_letters_can_be_switched_off(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    page.goto(f"{server.url}/jobs/{job}/run/safe")
    open_settings(page)
    page.get_by_label(re.compile("Single-letter shortcuts")).uncheck()
    press(page, "Escape")
    heading(page, "Make it safe")
    press(page, "s", "a", "?")
    expect(page.get_by_role("dialog")).to_be_hidden()
    page.get_by_role("heading", level=1).focus()
    press(page, "Enter")
    expect(page.get_by_text("✓ Done")).to_have_count(1)
    expect(page.get_by_text("– Doesn’t apply")).to_have_count(0)


def test_a_tab_is_called_by_its_step_and_vehicle(page: Page, server: Server, new_job: MakeJob) -> None:
    page.goto(f"{server.url}/jobs/{new_job('Plover van')}/run/safe")
    expect(page).to_have_title(re.compile("^Safe · Plover van"))
    press(page, "ArrowRight")
    expect(page).to_have_title(re.compile("^Source flat · Plover van"))


@pytest.mark.parametrize("size", [PHONE, LYING], ids=["upright", "lying"])
@pytest.mark.parametrize("step", ["ceiling.source.line", "gain.front"])
def test_value_and_action_are_at_the_thumb(
    browser: Browser, server: Server, new_job: MakeJob, size: dict[str, int], step: str
) -> None:
    context = window(browser, viewport=size, has_touch=True)  # type: ignore[arg-type]
    page = context.new_page()
    job = new_job()
    page.goto(f"{server.url}/jobs/{job}/run/{step}")
    shown = [page.get_by_label("Volts now"), page.get_by_label(re.compile("^Volts at "))]
    shown.append(page.get_by_role("button", name=re.compile("^Clean( C)?$" if "ceiling" in step else "^Save")))
    for locator in shown:
        expect(locator).to_be_in_viewport(ratio=1)
    context.close()


def test_at_rest_nothing_is_told_again_and_again(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    page.goto(f"{server.url}/jobs/{job}/run/gain.front")
    expect(page.get_by_role("heading", level=1)).to_be_focused()
    press(page, "v")
    expect(page.get_by_role("region", name="Simulated bench")).to_be_visible()
    press(page, "r", "w", "Shift+f")
    expect(page.locator(".how")).to_contain_text(re.compile("below|above|In range"))
    page.wait_for_timeout(3500)
    page.evaluate("""() => {
      window.told = 0;
      const watch = new MutationObserver(() => { window.told += 1; });
      for (const one of document.querySelectorAll('[role=status], [role=alert], [aria-live]'))
        watch.observe(one, { subtree: true, childList: true, characterData: true });
    }""")
    page.wait_for_timeout(7000)
    # The volts move all the time; what is told aloud is the band, when it changes.
    assert page.evaluate("window.told") <= 2


def test_edits_of_a_system_are_undone_and_done_again(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    page.goto(f"{server.url}/jobs/{job}/system")
    top = page.get_by_label("Volume scale ends at")
    first = top.input_value()
    top.fill("61")
    expect(page.get_by_role("status").filter(has_text="All saved")).to_be_visible()
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    page.get_by_role("heading", level=1).focus()
    press(page, "Control+z")
    expect(top).to_have_value(first)
    expect(page.get_by_text("Undone: the source.")).to_be_attached()
    press(page, "Control+y")
    expect(top).to_have_value("61")
    page.get_by_role("button", name="Undo").click()
    expect(top).to_have_value(first)
    eventually(lambda: str(run_of(server, job)["job"]["sheet"]["chain"]["sources"][0]["top_volume"]), first)


@pytest.mark.parametrize("size", [LARGE, TABLET, PHONE, LYING], ids=["laptop", "tablet", "upright", "lying"])
def test_the_benchs_knob_is_beside_the_value(
    browser: Browser, server: Server, new_job: MakeJob, size: dict[str, int]
) -> None:
    context = window(browser, viewport=size)  # type: ignore[arg-type]
    page = context.new_page()
    page.goto(f"{server.url}/jobs/{new_job()}/run/gain.front")
    expect(page.get_by_role("heading", level=1)).to_be_focused()
    press(page, "v")
    for locator in (page.get_by_label("Volts now"), page.get_by_label(re.compile("^Gain knob"))):
        expect(locator).to_be_in_viewport(ratio=1)
    context.close()


def test_paths_and_parts_are_gone_to_by_keys(page: Page, server: Server) -> None:
    job = str(uuid4())
    httpx2.post(f"{server.url}/api/jobs", json={"id": job, "vehicle": "Van", "layout": "front-rear-sub"})
    page.goto(f"{server.url}/jobs/{job}/system")
    parts = page.get_by_role("navigation", name="Parts")
    tab_to(page, "Source")
    # One stop for all parts; the arrows go on from there.
    press(page, "ArrowRight", "ArrowRight")
    expect(parts.get_by_role("button", name="Amplifier")).to_be_focused()
    expect(page.get_by_role("heading", name="Amplifier", exact=True)).to_be_visible()
    page.get_by_label("Watts").first.fill("91")
    press(page, "Alt+3")
    expect(page.get_by_label("Watts").first).to_be_focused()
    page.get_by_label("Copy figures from").focus()
    press(page, "F")
    expect(page.get_by_label("Watts").first).to_have_value("91 W")
    chain = "job", "sheet", "chain", "amplifiers"

    def watts() -> list[float]:
        found: Any = run_of(server, job)
        for text in chain:
            found = found[text]
        return [one["ratings"][0]["power_w"] for one in found]

    eventually(watts, [91, 75, 91])


def test_a_system_goes_back_to_what_it_was(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job("Plover van")
    page.goto(f"{server.url}/jobs/{job}/system")
    page.get_by_label("Volume scale ends at").fill("61")
    expect(page.get_by_text("All saved")).to_be_visible()
    page.get_by_role("link", name="History").click()
    heading(page, "History of the system")
    expect(page.get_by_text("current version")).to_be_visible()
    expect(page.get_by_role("row", name=re.compile("end of the volume scale.* 40 61"))).to_be_visible()
    tab_to(page, "Show")
    press(page, "Enter")
    expect(page.get_by_role("region", name="System at that time")).to_contain_text("0 to 40")
    tab_to(page, "Go back to this version")
    press(page, "Enter")
    heading(page, "System")
    expect(page.get_by_label("Volume scale ends at")).to_have_value("40")
    eventually(lambda: run_of(server, job)["job"]["version"], 3)
