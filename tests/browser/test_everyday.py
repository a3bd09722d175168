"""The everyday path: what a key presses, where a page begins, where the focus goes, what comes before a reading."""

import re
from collections.abc import Callable, Iterator
from itertools import pairwise
from typing import Any
from uuid import uuid4

import httpx2
import pytest
from playwright.sync_api import Browser, Page, Route, expect

from tests.browser.conftest import (
    LARGE,
    PHONE,
    SIZES,
    clean_maximum,
    edited,
    eventually,
    open_part,
    press,
    run_of,
    speakers_off,
    window,
)
from tests.browser.test_whole_run import four_paths
from tests.servers import Server

MakeJob = Callable[..., str]
Body = dict[str, Any]


def heading(page: Page, text: str) -> None:
    expect(page.get_by_role("heading", level=1)).to_contain_text(text)


def layout(server: Server, key: str, vehicle: str = "Van") -> str:
    """A new job of a layout."""
    job = str(uuid4())
    made = httpx2.post(f"{server.url}/api/jobs", json={"id": job, "vehicle": vehicle, "layout": key})
    assert made.status_code == 201
    return job


def one_of_each_kind(server: Server, new_job: MakeJob) -> Iterator[tuple[str, str, str]]:
    """(job, step, kind): a step of every kind that there is, speakers off and a clean maximum saved."""
    four = new_job("Four paths")
    four_paths(server, four)
    factory = layout(server, "converter")

    def trims_and_a_lack(sheet: Body) -> None:
        sheet["chain"]["sources"][0]["inputs"] = [{"kind": "usb", "trim_db": 3}]
        sheet["chain"]["loads"][0]["power_w"] = None

    edited(server, factory, trims_and_a_lack)
    clean_maximum(server, four)
    seen = set()
    for job in (four, factory):
        for step in run_of(server, job)["run"]["steps"]:
            if step["kind"] not in seen:
                seen.add(step["kind"])
                yield job, step["key"], step["kind"]
    assert seen == {
        "checklist",
        "supply",
        "volume_steps",
        "converter",
        "gain",
        "match",
        "corner",
        "prove",
        "blend",
        "knob_positions",
        "factory",
        "trims",
        "lacking",
    }


# Every control that shows; each key is pressed on it while a listener keeps the click from doing anything.
CONTROLS = """() => {
  const shows = e => e.getClientRects().length && !e.disabled && e.tabIndex >= 0
    && !(e.closest('details:not([open])') && !e.matches('summary'));
  window.controls = [...document.querySelectorAll(
    'a[href], button, summary, select, [role=button], input[type=checkbox], input[type=range]')].filter(shows);
  window.clicked = [];
  window.addEventListener('click', event => {
    window.clicked.push(event.target); event.preventDefault(); event.stopImmediatePropagation();
  }, true);
  return window.controls.map(e => e.matches('a, select, input') ? e.tagName + (e.type || '') : 'button');
}"""
PRESSED = """place => {
  const control = window.controls[place], own = window.clicked.filter(one => one === control).length;
  const all = window.clicked.length;
  window.clicked = [];
  return [own, all - own, (control.getAttribute('aria-label') || control.textContent || '').trim().slice(0, 40)];
}"""


@pytest.mark.parametrize("size", [LARGE, pytest.param(PHONE, marks=pytest.mark.deep)], ids=["laptop", "phone"])
def test_enter_and_space_press_what_has_the_focus_and_record_nothing(
    browser: Browser, server: Server, new_job: MakeJob, size: dict[str, int]
) -> None:
    context = window(browser, viewport=size)
    page = context.new_page()
    sent: list[str] = []

    def refuse(route: Route) -> None:
        if route.request.method == "POST":
            sent.append(route.request.url)
        route.fallback()

    page.route(re.compile("/(readings|marks)$"), refuse)
    for job, step, kind in one_of_each_kind(server, new_job):
        page.goto(f"{server.url}/jobs/{job}/run/{step}")
        expect(page.get_by_role("heading", level=1)).to_be_focused()
        page.wait_for_load_state("networkidle")
        kinds = page.evaluate(CONTROLS)
        assert len(kinds) > 8, kind
        for place, control in enumerate(kinds):
            # A link is pressed by Enter alone, a box by Space alone; a list and a slider by neither.
            keys = {"A": ("Enter",), "INPUTcheckbox": ("Space",), "button": ("Enter", "Space")}.get(control, ())
            for key in ("Enter", "Space"):
                if control.startswith("SELECT") and key == "Space":
                    continue
                page.evaluate("place => window.controls[place].focus()", place)
                page.keyboard.press(key)
                own, others, name = page.evaluate(PRESSED, place)
                assert (own, others) == (int(key in keys), 0), f"{kind}: {key} on “{name}”"
        page.wait_for_timeout(300)
        assert sent == [], kind
    context.close()


@SIZES
def test_every_page_begins_at_its_top_with_its_heading_and_hazards_stand_above_the_action(
    browser: Browser, server: Server, new_job: MakeJob, size: dict[str, int]
) -> None:
    context = window(browser, viewport=size, has_touch=size is PHONE)
    page = context.new_page()
    begins = """() => [window.scrollY, document.activeElement === document.querySelector('main h1'),
      document.querySelector('main h1').getBoundingClientRect().top]"""
    job = new_job("Long job")
    four_paths(server, job)
    clean_maximum(server, job)
    steps = run_of(server, job)["run"]["steps"]
    page.goto(f"{server.url}/jobs/{job}/run/{steps[0]['key']}")
    expect(page.get_by_role("heading", level=1)).to_be_focused()
    for number, step in enumerate(steps):
        if number:
            page.evaluate("window.scrollTo(0, document.documentElement.scrollHeight)")
            page.get_by_role("button", name=re.compile("^Next step")).click()
            expect(page).to_have_url(re.compile(re.escape(f"/run/{step['key']}") + "$"))
        expect(page.get_by_role("heading", level=1)).to_be_focused()
        page.wait_for_timeout(50)
        scrolled, focused, top = page.evaluate(begins)
        assert (scrolled, focused) == (0, True), step["key"]
        assert 0 <= top < size["height"] / 2, step["key"]
        if step["cautions"]:
            cautions = page.get_by_role("list", name="Cautions").bounding_box()
            action = page.locator(".work, .step-lines").first.bounding_box()
            assert cautions
            assert action
            assert cautions["y"] < action["y"], step["key"]
            expect(page.get_by_role("list", name="Cautions")).to_be_in_viewport()
    for tab in ("Result", "System", "Plan", "Captures"):
        page.evaluate("window.scrollTo(0, document.documentElement.scrollHeight)")
        page.get_by_role("navigation", name="This job").get_by_role("link", name=tab).click()
        expect(page.get_by_role("heading", level=1)).to_contain_text(tab)
        expect(page.get_by_role("heading", level=1)).to_be_focused()
        page.wait_for_timeout(50)
        scrolled, focused, _ = page.evaluate(begins)
        assert (scrolled, focused) == (0, True), tab
    context.close()


def test_value_and_field_are_in_view_at_steps_with_many_rows(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    four_paths(server, job)
    clean_maximum(server, job)
    for step in ("supply", "gain.sub", "corner.sub.0", "prove.front", "blend"):
        page.goto(f"{server.url}/jobs/{job}/run/{step}")
        expect(page.get_by_role("heading", level=1)).to_be_focused()
        for locator in (page.get_by_label("Volts now"), page.locator("[data-reading]")):
            expect(locator).to_be_in_viewport(ratio=1)


def test_a_gain_waits_for_speakers_and_clean_maximum(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    page.goto(f"{server.url}/jobs/{job}/run/gain.front")
    expect(page.get_by_text("Disconnect the speakers first")).to_be_visible()
    page.keyboard.type("15.4")
    press(page, "Enter")
    expect(page.get_by_role("alert").filter(has_text="Not saved.")).to_be_visible()
    assert run_of(server, job)["readings"] == []
    page.get_by_role("button", name="Speakers are off").click()
    expect(page.get_by_text("Find the source’s clean maximum first")).to_be_visible()
    marks = run_of(server, job)["marks"]
    assert [(mark["step"], mark["item"], mark["answer"]) for mark in marks] == [("safe", "speakers-off", "done")]
    # The way round says what it is, and is that.
    page.get_by_role("button", name="Measure anyway: it settles nothing").click()
    page.locator("[data-reading]").press("Enter")
    eventually(lambda: len(run_of(server, job)["readings"]), 1)
    expect(page.get_by_text("so it settles nothing").first).to_be_attached()
    state = next(state for state in run_of(server, job)["run"]["states"] if state["step"] == "gain.front")
    assert (state["state"], state["effect"]) == ("open", None)
    clean_maximum(server, job)
    state = next(state for state in run_of(server, job)["run"]["states"] if state["step"] == "gain.front")
    assert (state["state"], state["effect"], state["spoiled"]) == ("open", None, [])
    page.reload()
    expect(page.get_by_role("button", name="Clean maximum done")).to_be_visible()
    expect(page.get_by_role("button", name="Measure anyway: it settles nothing")).to_have_count(0)
    page.keyboard.type("15.4")
    press(page, "Enter")
    expect(page.get_by_text("✓ Saved.")).to_be_visible()


def test_a_live_reading_waits_until_the_meter_has_settled(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job("Bench van")
    speakers_off(server, job)
    page.goto(f"{server.url}/jobs/{job}/run/ceiling.source.line")
    expect(page.get_by_role("heading", level=1)).to_be_focused()
    press(page, "v", "w")
    expect(page.get_by_label("Volts now")).not_to_contain_text("–")
    # Step and save at once, again and again: each value is that of its own number.
    for _ in range(6):
        before = len(run_of(server, job)["readings"])
        press(page, "c")
        eventually(lambda: len(run_of(server, job)["readings"]), before + 1)
    readings = sorted(run_of(server, job)["readings"], key=lambda reading: reading["circumstances"]["volume"])
    numbers = [reading["circumstances"]["volume"] for reading in readings]
    assert numbers == list(range(numbers[0], numbers[0] + 6))
    volts = [reading["value"] for reading in readings]
    steps = [later / sooner for sooner, later in pairwise(volts)]
    assert max(steps) / min(steps) < 1.06
    volume_steps = next(state for state in run_of(server, job)["run"]["states"] if state["volume_steps"])[
        "volume_steps"
    ]
    assert not any("settled" in step for step in volume_steps["questions"])


def test_figures_that_nobody_confirmed_say_so_at_the_target(page: Page, server: Server) -> None:
    job = layout(server, "front-sub")
    for step in ("gain.sub", "prove.front"):
        page.goto(f"{server.url}/jobs/{job}/run/{step}")
        note = page.get_by_role("note")
        expect(note).to_contain_text("Not confirmed:")
        expect(note).to_contain_text("W")
    page.get_by_role("note").get_by_role("link").first.click()
    heading(page, "System")
    page.wait_for_function("() => document.activeElement.closest('[data-place]')")
    assert page.evaluate("document.activeElement.closest('[data-place]').dataset.place") in page.url


def test_a_path_that_lacks_a_figure_stays_in_the_run_and_leads_to_its_field(page: Page, server: Server) -> None:
    job = layout(server, "front-sub")
    edited(server, job, lambda sheet: sheet["chain"]["loads"][1].update(power_w=None))
    page.goto(f"{server.url}/jobs/{job}/run")
    expect(page.get_by_role("navigation", name="Steps of the run")).to_contain_text("Sub lacks")
    page.goto(f"{server.url}/jobs/{job}/run/lacking.sub")
    heading(page, "Sub can’t be planned yet")
    page.get_by_role("link", name="Fill it in").click()
    expect(page.get_by_label("Rated power of one")).to_be_focused()
    page.keyboard.type("350")
    expect(page.get_by_role("status").filter(has_text="All saved")).to_be_visible()
    eventually(lambda: "lacking.sub" in [step["key"] for step in run_of(server, job)["run"]["steps"]], False)


def test_system_keeps_path_part_and_field_in_its_address(page: Page, server: Server) -> None:
    job = layout(server, "front-rear-sub")
    page.goto(f"{server.url}/jobs/{job}/system")
    heading(page, "System")
    page.get_by_role("navigation", name="Paths of the system").get_by_role("button", name="Rear", exact=True).click()
    open_part(page, "Speakers")
    page.get_by_label("Plays from").focus()
    expect(page).to_have_url(re.compile(r"path=rear&part=speakers&field=loads\.speakers-rear\.lowest_hz"))
    page.get_by_role("link", name="To the plan").click()
    heading(page, "Plan")
    page.go_back()
    expect(page.get_by_label("Plays from")).to_be_focused()
    page.reload()
    expect(page.get_by_label("Plays from")).to_be_focused()
    expect(page.get_by_label("Name of the path")).to_have_value("Rear")


# What has the focus, as words.
FOCUSED = "document.activeElement === document.body ? 'nothing' : document.activeElement.tagName"


@SIZES
def test_the_focus_is_never_lost_and_new_fields_have_it(browser: Browser, server: Server, size: dict[str, int]) -> None:
    context = window(browser, viewport=size)
    page = context.new_page()
    job = layout(server, "front-rear-sub")
    page.goto(f"{server.url}/jobs/{job}/system")
    heading(page, "System")
    for part in ("Source", "Amplifier", "Speakers", "Filters"):
        open_part(page, part)
        marks = page.locator(".marks")
        while marks.get_by_role("button").count():
            button = marks.get_by_role("button").first
            name = button.get_attribute("aria-label") or button.inner_text()
            button.focus()
            press(page, "Enter")
            expect(page.get_by_role("button", name=name, exact=True)).to_have_count(0)
            assert page.evaluate(FOCUSED) != "nothing", name
    adds = (
        ("Source", "Add an output", "Output"),
        ("Amplifier", "Add another rating", "Watts"),
        ("Filters", "Add a low-pass", "Filter"),
    )
    for part, button, label in adds:
        open_part(page, part)
        page.get_by_role("button", name=button).focus()
        press(page, "Enter")
        expect(page.get_by_label(label, exact=True).last).to_be_focused()
    for removed in ("Remove output 4", "Remove rating 3", "Remove filter 2"):
        open_part(page, {"o": "Source", "r": "Amplifier", "f": "Filters"}[removed[7]])
        button = page.get_by_role("button", name=removed)
        button.focus()
        press(page, "Enter")
        expect(button).to_have_count(0)
        assert page.evaluate(FOCUSED) != "nothing", removed
    context.close()


def test_one_amplifier_is_shared_and_figures_are_copied(page: Page, server: Server) -> None:
    job = layout(server, "front-rear")

    def named(sheet: Body) -> None:
        for amplifier in sheet["chain"]["amplifiers"]:
            amplifier["name"] = "Quattro 75"

    edited(server, job, named)
    page.goto(f"{server.url}/jobs/{job}/system?path=rear&part=amplifier")
    options = page.get_by_label("Share an amplifier").locator("option")
    expect(options).to_have_text(["choose …", "Quattro 75 (Front): channels 3 + 4"])
    page.get_by_label("Share an amplifier").select_option(label="Quattro 75 (Front): channels 3 + 4")
    expect(page.get_by_text("Channels 3 + 4. Shared with Front.")).to_be_visible()

    def amplifiers() -> list[tuple[str, list[str]]]:
        chain = run_of(server, job)["job"]["sheet"]["chain"]
        return [
            (amplifier["name"], [each["name"] for each in amplifier["sections"]]) for amplifier in chain["amplifiers"]
        ]

    eventually(amplifiers, [("Quattro 75", ["Channels 1 + 2", "Channels 3 + 4"])])
    assert run_of(server, job)["run"]["plan"]["paths"][1]["path"] == "rear"
    page.get_by_role("button", name="Use a separate amplifier").click()
    eventually(amplifiers, [("Quattro 75", ["Channels 1 + 2"]), ("", [])])
    # Copying is another act: the figures come over, the part stays this path's own.
    page.get_by_label("Watts", exact=True).first.fill("41")
    page.get_by_label("Copy figures from").focus()
    page.get_by_label("Copy figures from").select_option(label="Front: Quattro 75")
    expect(page.get_by_label("Watts", exact=True).first).to_have_value("75 W")
    eventually(lambda: len(amplifiers()), 2)


def test_not_knowing_is_one_act(page: Page, server: Server) -> None:
    job = layout(server, "front")
    page.goto(f"{server.url}/jobs/{job}/system?part=source")
    top = page.get_by_label("Volume scale ends at")
    top.fill("35")
    expect(page.get_by_role("status").filter(has_text="All saved")).to_be_visible()
    top.fill("")
    # Emptied it is unknown: the usual value counts, and nobody has confirmed it.
    eventually(lambda: run_of(server, job)["job"]["sheet"]["chain"]["sources"][0]["top_volume"], 40)
    eventually(
        lambda: any(
            one["place"] == "sources.source.top_volume" for one in run_of(server, job)["run"]["plan"]["not_confirmed"]
        ),
        True,
    )
    # A number and its unit don't lose each other.
    page.get_by_role("textbox", name="Rated output").fill("20")
    page.get_by_label("Unit", exact=True).select_option("watts")
    expect(page.get_by_role("textbox", name="Rated output")).to_have_value("20 W")
    # The list of defaults gets shorter as this is saved, and the button below it moves.
    expect(page.get_by_role("status").filter(has_text="All saved")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Confirm all .* of the system$")).click()
    eventually(lambda: run_of(server, job)["job"]["sheet"]["not_confirmed"], [])


def test_the_first_page_offers_three_ways_in(page: Page, own_server: Server) -> None:
    page.goto(own_server.url)
    expect(page.get_by_text("works out the target voltage of every amplifier")).to_be_visible()
    for way in ("New job", "Practise on the bench", "Import a file"):
        expect(page.get_by_role("button", name=re.compile(f"^{way}")).first).to_be_visible()
    page.get_by_role("button", name="Simple multimeter (average-responding)").click()
    page.get_by_role("button", name=re.compile("^Practise on the bench")).click()
    page.get_by_role("textbox", name="Vehicle").fill("Bench one")
    press(page, "Enter")
    heading(page, "System")
    expect(page).to_have_title(re.compile("Practice: Bench one"))
    page.goto(f"{page.url.rsplit('/', 1)[0]}/run/supply")
    expect(page.get_by_label("Reading from")).to_have_value("average")
    # One place in the bar leads everywhere.
    for place in ("Sources", "People", "Jobs"):
        page.locator("summary", has_text="Menu").click()
        page.get_by_role("navigation", name="Main menu").get_by_role("link", name=place).click()
        heading(page, place)


def test_the_calculator_is_worked_by_keys_on_any_page(page: Page, server: Server, new_job: MakeJob) -> None:
    page.goto(f"{server.url}/jobs/{new_job()}/run/safe")
    heading(page, "Make it safe")
    press(page, "=")
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_role("textbox", name="Watts")).to_be_focused()
    page.keyboard.type("85")
    press(page, "Tab")
    page.keyboard.type("4")
    expect(dialog.get_by_text("Measure 18.44 V.")).to_be_visible()
    dialog.get_by_label("Mode").select_option("strapped")
    expect(dialog.get_by_text("Measure 9.22 V.")).to_be_visible()
    dialog.get_by_label("Volts, filter open").fill("6,2")
    expect(dialog.get_by_text("Turn the filter to 4.384 V.")).to_be_visible()
    dialog.get_by_role("textbox", name="Decibels").fill("-3")
    expect(dialog.get_by_label("Ratio of volts")).to_have_value("0.7079")
    dialog.get_by_label("Meter reads").fill("3.4")
    expect(dialog.get_by_text("As a speaker of 4 ohm reads.")).to_be_visible()
    press(page, "Escape")
    expect(dialog).to_be_hidden()
    expect(page.get_by_role("heading", level=1)).to_be_focused()


def test_ohms_are_measured_beside_their_field(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    page.goto(f"{server.url}/jobs/{job}/system?part=speakers")
    page.locator("summary", has_text="Measure the ohms").click()
    page.get_by_label("Meter reads").fill("1.8")
    page.get_by_role("button", name="Use 2 Ω").click()
    expect(page.get_by_label("Impedance of one", exact=True)).to_have_value("2 Ω")


def test_the_step_map_never_runs_off_the_edge_and_its_blocks_are_evenly_wide(
    browser: Browser, server: Server, new_job: MakeJob
) -> None:
    job = new_job()
    four_paths(server, job)
    for size in (PHONE, {"width": 768, "height": 1024}, LARGE):
        context = window(browser, viewport=size)
        page = context.new_page()
        for step in ("safe", "corner.front.0", "gain.sub", "prove.fourth", "seal"):
            page.goto(f"{server.url}/jobs/{job}/run/{step}")
            steps = page.get_by_role("navigation", name="Steps of the run")
            expect(steps.locator("[aria-current=step]")).to_be_in_viewport(ratio=1)
            boxes = [locator.bounding_box() for locator in steps.get_by_role("button").all()]
            widths = [box["width"] for box in boxes if box]
            assert max(widths) - min(widths) < 2, (size, step)
            assert min(widths) >= 44, (size, step)
            assert all(box and box["x"] >= 0 and box["x"] + box["width"] <= size["width"] for box in boxes)
        context.close()
