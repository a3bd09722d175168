"""The whole run: with the keyboard alone, by touch on a phone, and on the simulated bench."""

import re
from collections.abc import Callable
from uuid import uuid4

import httpx2
import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import (
    LARGE,
    PHONE,
    SIZES,
    clean_maximum,
    eventually,
    go_to_volume_steps,
    open_volume_steps,
    press,
    run_of,
    speakers_off,
    tab_to,
    turned_until_it_fits,
    window,
)
from tests.servers import Server

MakeJob = Callable[..., str]


def title(page: Page, text: str) -> None:
    expect(page.get_by_role("heading", level=1)).to_contain_text(text)


def test_from_new_job_to_result_with_the_keyboard_alone(page: Page, server: Server) -> None:
    page.goto(server.url)
    tab_to(page, "New job N")
    press(page, "Enter")
    expect(page.get_by_role("textbox", name="Vehicle")).to_be_focused()
    page.keyboard.type("Dunlin workboat")
    press(page, "Enter")
    title(page, "System")
    tab_to(page, "Source")
    press(page, *["ArrowRight"] * 3)
    tab_to(page, "Rated power of one")
    press(page, "Control+a")
    page.keyboard.type("50 W")
    expect(page.get_by_role("status").filter(has_text="All saved")).to_be_visible()
    expect(page.get_by_role("heading", name="14.14 V")).to_be_visible()
    press(page, "Control+Enter")
    title(page, "Plan")
    expect(page.get_by_text("√(50 W × 4 Ω) = 14.14 V")).to_be_visible()
    tab_to(page, "To the run")
    press(page, "Enter")

    title(page, "Make it safe")
    press(page, *["Enter"] * 3)
    expect(page.get_by_text("✓ Done")).to_have_count(3)
    press(page, "ArrowRight")
    title(page, "Make the source flat")
    press(page, *["Enter"] * 5, "ArrowRight")
    title(page, "Make the amplifier flat")
    press(page, "Enter", "Enter", "a", "l")
    expect(page.get_by_role("dialog")).to_be_visible()
    expect(page.get_by_label("Why")).to_be_focused()
    page.keyboard.type("glued in place")
    press(page, "Enter")
    expect(page.get_by_text("Left as is: glued in place")).to_be_visible()
    expect(page.get_by_role("dialog")).to_be_hidden()
    press(page, "ArrowRight")

    title(page, "Measure the supply")
    page.keyboard.type("12.3")
    press(page, "Enter", "ArrowUp")
    expect(page.get_by_text("Low for a running engine")).to_be_visible()
    page.keyboard.type("14,1")
    press(page, "Enter")
    expect(page.get_by_text("✓ Saved. 14.1 V.")).to_be_visible()
    press(page, "ArrowRight")

    title(page, "Find the source’s clean maximum")
    expect(page.get_by_label("Volts at 20")).to_be_visible()
    page.keyboard.type("1,9")
    press(page, "c")
    expect(page.get_by_label("Volts at 21")).to_be_visible()
    press(page, *["ArrowUp"] * 8)
    page.keyboard.type("3.6 V")
    press(page, "c")
    page.keyboard.type("3950mV")
    press(page, "x")
    expect(page.get_by_text("29 is the clean maximum. Save it.")).to_be_visible()
    press(page, "t")
    expect(page.get_by_text("Saved: 29 gives 3.6 V")).to_be_visible()
    press(page, "ArrowRight")

    title(page, "Connect the source to what follows")
    press(page, *["Enter"] * 2)
    expect(page.get_by_text("✓ Done")).to_have_count(2)
    press(page, "ArrowRight")

    title(page, "Set the gain: Front")
    page.keyboard.type("12.1")
    press(page, "Enter")
    expect(page.locator(".how").get_by_text("14.4 % (1.35 dB) below: turn up.")).to_be_visible()
    page.keyboard.type("14,1")
    press(page, "Enter")
    expect(page.get_by_text("✓ Saved. 14.1 V: In range.")).to_be_visible()
    press(page, "ArrowRight")
    title(page, "Check the other channel")
    page.keyboard.type("14.05")
    press(page, "Enter")
    expect(page.get_by_text("✓ Saved.")).to_be_visible()
    press(page, "ArrowRight")
    title(page, "Prove it: Front")
    for volts in ("14.1", "14", "14.2", "13.9", "14.1"):
        page.keyboard.type(volts)
        press(page, "Enter")
    expect(page.get_by_text(re.compile("^✓ Saved"))).to_be_visible()
    press(page, "ArrowRight")
    title(page, "Reconnect and listen")
    press(page, *["Enter"] * 6)
    expect(page.get_by_role("link", name="To the result")).to_be_visible()
    tab_to(page, "To the result")
    press(page, "Enter")

    title(page, "Result")
    expect(page.get_by_text("Never pass 29: the clean maximum, seen clean.")).to_be_visible()
    expect(page.get_by_text("Every step is done")).to_be_visible()
    expect(page.get_by_text("left as is, glued in place")).to_be_visible()
    expect(page.get_by_role("cell", name=re.compile("14.1 V"))).to_be_visible()


def test_undo_skip_and_help_with_one_key_each(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    open_volume_steps(page, server, job)
    page.keyboard.type("1.5")
    press(page, "c")
    expect(page.get_by_role("row", name=re.compile("1.5 V"))).to_be_visible()
    press(page, "u")
    expect(page.get_by_role("row", name=re.compile("1.5 V"))).to_be_hidden()
    eventually(lambda: [reading["struck"] for reading in run_of(server, job)["readings"]], ["undone"])
    press(page, "?")
    expect(page.get_by_role("dialog")).to_contain_text("save it as clean")
    press(page, "Escape")
    expect(page.get_by_role("dialog")).to_be_hidden()
    press(page, "s")
    page.get_by_label("Why").fill("")
    press(page, "Enter")
    expect(page.get_by_text("Give the reason in a few words")).to_be_visible()
    page.keyboard.type("no source here")
    press(page, "Enter")
    expect(page.get_by_role("button", name="Clean maximum skipped")).to_be_visible()


def test_the_whole_run_by_touch_on_a_phone(browser: Browser, server: Server, new_job: MakeJob) -> None:
    job = new_job("Phone van")
    context = window(browser, viewport=PHONE, has_touch=True, is_mobile=True)
    page = context.new_page()
    page.goto(f"{server.url}/jobs/{job}")
    title(page, "Plan")
    page.get_by_role("link", name="To the run").tap()
    for step in ("Make it safe", "Make the source flat", "Make the amplifier flat"):
        title(page, step)
        lines = page.get_by_role("button", name=re.compile("^Done: "))
        for index in range(lines.count()):
            lines.nth(index).tap()
        expect(page.get_by_text("✓ Done")).to_have_count(lines.count())
        page.get_by_role("button", name="Next step").tap()
    # Nothing waits for the supply.
    title(page, "Measure the supply")
    page.get_by_role("button", name="Next step").tap()
    title(page, "clean maximum")
    # Nobody can see the wave: the three-quarter number is read and taken as the guess that it is.
    for _ in range(10):
        page.get_by_role("button", name="Volume up one").tap()
    page.get_by_label("Volts at 30").fill("2,9")
    page.get_by_role("button", name=re.compile("^Can’t tell")).tap()
    page.get_by_role("button", name="Save 30: three quarters, a guess").tap()
    # What comes next rests on it: it is read once the plan has the number.
    expect(page.get_by_text("Saved: 30")).to_be_visible()
    page.get_by_role("button", name="Next step").tap()
    title(page, "Connect the source")
    page.get_by_role("button", name="Next step").tap()
    title(page, "Set the gain")
    page.get_by_label("Volts at the speaker terminals").fill("15.4")
    page.get_by_role("button", name="Save", exact=True).tap()
    expect(page.get_by_text("✓ Saved.")).to_be_visible()
    page.get_by_role("button", name="Next step").tap()
    title(page, "Check the other channel")
    page.get_by_label("Volts at the speaker terminals").fill("15.3")
    page.get_by_role("button", name="Save", exact=True).tap()
    expect(page.get_by_text("✓ Saved.")).to_be_visible()
    page.get_by_role("button", name="Next step").tap()
    title(page, "Prove it")
    for number in range(5):
        page.get_by_role("list", name="Readings of this step").get_by_role("button").nth(number).tap()
        page.locator("[data-reading]").fill("15.3")
        page.get_by_role("button", name="Save", exact=True).tap()
    expect(page.get_by_text(re.compile("^✓ Saved"))).to_be_visible()
    page.get_by_role("button", name="Next step").tap()
    title(page, "Reconnect")
    lines = page.get_by_role("button", name=re.compile("^Done: "))
    for index in range(lines.count()):
        lines.nth(index).tap()
    page.get_by_role("link", name="To the result").tap()
    expect(page.get_by_text("Never pass 30: three quarters of the scale, a guess")).to_be_visible()
    context.close()


def test_controls_of_the_run_meet_a_gloved_finger(browser: Browser, server: Server, new_job: MakeJob) -> None:
    context = window(browser, viewport=PHONE)
    page = context.new_page()
    for step in ("safe", "supply", "ceiling.source.line", "gain.front", "prove.front"):
        page.goto(f"{server.url}/jobs/{new_job()}/run/{step}")
        title(page, "")
        for button in page.get_by_role("main").get_by_role("button").all():
            box = button.bounding_box()
            assert box is not None
            assert min(box["width"], box["height"]) >= 44, button.inner_text()
    context.close()


def test_a_run_on_the_simulated_bench(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job("Bench van")
    open_volume_steps(page, server, job)
    page.get_by_label("Reading from").select_option("simulated")
    page.get_by_label("Show the simulated bench").check()
    bench = page.get_by_role("region", name="Simulated bench")
    for _ in range(11):
        page.get_by_role("button", name="Volume up one").click()
    expect(page.get_by_text("Now, at 31")).to_be_visible()
    expect(bench.get_by_text("Source volume: 31 of 40")).to_be_visible()
    expect(page.get_by_label("Volts now")).not_to_contain_text("–")
    page.wait_for_timeout(500)
    press(page, "c")
    expect(page.get_by_role("row", name=re.compile("31 "))).to_be_visible()
    page.get_by_role("button", name="Save 31 as the clean maximum").click()
    expect(page.get_by_text("Saved: 31")).to_be_visible()
    # Past the leads that go in between.
    for _ in range(2):
        page.get_by_role("button", name="Next step").click()
    expect(page.locator(".how")).to_contain_text("Probe is on the wrong point")
    bench.get_by_role("button", name="Left out").click()
    page.get_by_role("button", name="Volume down one").click()
    expect(page.locator(".how").get_by_text(re.compile("below: turn up|above: turn down"))).to_be_visible()
    knob = bench.get_by_label(re.compile("^Gain knob"))
    turned_until_it_fits(page, lambda turned: knob.fill(str(turned)))
    press(page, "Enter")
    expect(page.get_by_text("✓ Saved.")).to_be_visible()
    # Half of the tone gives half of the volts, and the knob stands near where it was expected.
    bench.get_by_label("Tone level").select_option("-6")
    expect(page.locator(".how").get_by_text(re.compile("below: turn up"))).to_be_visible()
    expect(page.get_by_label("Volts now")).to_contain_text(re.compile("^7\\."))
    press(page, "h")
    expect(page.get_by_text(re.compile("^7\\.[3-9].* V with 1 kHz sine at −6 dBFS"))).to_be_visible()
    page.get_by_label("Knob position").select_option("8 o’clock")
    expect(page.get_by_label("Knob position")).to_have_value("0.1")
    taken = run_of(server, job)["readings"]
    assert {one["instrument"] for one in taken} == {"simulated"}
    assert all(one["uncertainty"] > 0 for one in taken if one["quantity"] == "ac_volts")
    assert {one["circumstances"]["row"] for one in taken if one["step"] == "gain.front"} == {None, "half", "knob"}
    # A fault that is switched on is there at once: nothing arrives any more.
    bench.get_by_label("Fault on the bench").select_option("lead-off")
    expect(page.get_by_label("Volts now")).to_contain_text("0.0")


@pytest.mark.parametrize(
    ("typed", "said"),
    [
        ("rubbish", "isn’t a number"),
        ("", "Nothing typed yet"),
        ("-4", "out of bounds"),
        ("0", "out of bounds"),
        ("1e9", "exponent"),
        ("5000", "must be from 0.00001 V to 1000 V"),
        ("1.234,5", "more than one way"),
        ("12 A", "V is wanted"),
    ],
)
def test_rubbish_is_refused_with_a_reason_and_stays_to_be_corrected(
    page: Page, server: Server, new_job: MakeJob, typed: str, said: str
) -> None:
    job = new_job()
    open_volume_steps(page, server, job)
    field = page.get_by_label("Volts at 20")
    field.fill(typed)
    page.get_by_role("button", name="Clean C").click()
    expect(page.get_by_role("alert").filter(has_text=said)).to_be_visible()
    expect(field).to_have_value(typed)
    assert run_of(server, job)["readings"] == []


def test_a_lower_voltage_higher_up_is_asked_about_and_kept(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    open_volume_steps(page, server, job)
    for volts in ("2.0", "1.1"):
        page.keyboard.type(volts)
        press(page, "c")
    expect(page.get_by_text("1.1 V at 21 is less than 2 V at 20. Check the probe")).to_be_visible()
    eventually(lambda: [reading["value"] for reading in run_of(server, job)["readings"]], [2.0, 1.1])


def go_to_the_gain(page: Page, server: Server, job: str) -> None:
    """The clean maximum saved at 31, and on to the gain."""
    open_volume_steps(page, server, job)
    press(page, *["ArrowUp"] * 11)
    page.keyboard.type("3.8")
    press(page, "c")
    page.get_by_role("button", name="Save 31 as the clean maximum").click()
    expect(page.get_by_text("Saved: 31")).to_be_visible()
    # Past the leads that go in between.
    press(page, "ArrowRight", "ArrowRight")


def test_when_it_clips_first_the_reading_stands_with_that_reason(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    go_to_the_gain(page, server, job)
    page.keyboard.type("12.5")
    press(page, "x")
    expect(page.get_by_text("the amplifier’s real maximum")).to_be_visible()
    page.goto(f"{server.url}/jobs/{job}/result")
    expect(page.get_by_text("clips before the target")).to_be_visible()
    expect(page.get_by_role("cell", name=re.compile("39.1 W"))).to_be_visible()


def test_a_gain_in_range_is_turned_down_where_its_load_leaves_less(
    page: Page, server: Server, new_job: MakeJob
) -> None:
    job = new_job()
    go_to_the_gain(page, server, job)
    page.keyboard.type("15.4")
    press(page, "Enter")
    expect(page.get_by_text("✓ Saved. 15.4 V: In range.")).to_be_visible()
    page.keyboard.type("15.6")
    press(page, "n")
    expect(page.get_by_text("It clips above 15.6 V with nothing at its terminals.")).to_be_visible()
    expect(page.get_by_text("Turn the gain down to 14.3 V, and save that")).to_be_visible()
    page.keyboard.type("14.3")
    press(page, "Enter")
    expect(page.get_by_text("✓ Saved. 14.3 V: it clips before the target")).to_be_visible()


@pytest.mark.parametrize("viewport", [LARGE, PHONE])
def test_a_step_map_of_many_steps_shows_the_one_at_hand(
    browser: Browser, server: Server, new_job: MakeJob, viewport: dict[str, int]
) -> None:
    job = new_job()
    sheet = httpx2.get(f"{server.url}/api/jobs/{job}/run").json()["job"]["sheet"]
    for kind in ("amplifiers", "loads", "paths"):
        sheet["chain"][kind] = [{**sheet["chain"][kind][0], "id": f"one-{n}"} for n in range(20)]
    for n, path in enumerate(sheet["chain"]["paths"]):
        path |= {"amplifier": f"one-{n}", "load": f"one-{n}", "name": f"Seat {n}"}
    saved = httpx2.put(f"{server.url}/api/jobs/{job}/sheet", json={"base_version": 1, "sheet": sheet, "by": ""})
    assert saved.status_code == 200
    page = window(browser, viewport=viewport).new_page()
    page.goto(f"{server.url}/jobs/{job}/run/gain.one-15")
    here = page.get_by_role("navigation", name="Steps of the run").locator("[aria-current=step]")
    expect(here).to_be_in_viewport(ratio=1)
    expect(here).to_contain_text("Seat 15 gain")
    press(page, "ArrowRight", "ArrowRight")
    expect(here).to_contain_text("Seat 16 gain")
    expect(here).to_be_in_viewport(ratio=1)
    assert page.evaluate("document.documentElement.scrollWidth") <= viewport["width"]
    page.context.close()


@SIZES
def test_a_row_that_was_read_with_another_tone_asks_for_it_again(
    browser: Browser, server: Server, new_job: MakeJob, size: dict[str, int]
) -> None:
    job = new_job()
    clean_maximum(server, job)

    def send(step: str, volts: float, row: str | None, tone: dict[str, float]) -> None:
        body = {
            "id": str(uuid4()),
            "step": step,
            "value": volts,
            "instrument": "true-rms",
            "seen": "unseen",
            "sheet_version": 1,
            "taken_at": "2026-05-03T09:10:00Z",
            "circumstances": {"volume": 30, "row": row, "tone": tone},
        }
        assert httpx2.post(f"{server.url}/api/jobs/{job}/readings", json=body).status_code == 201

    steps = {step["key"]: step for step in run_of(server, job)["run"]["steps"]}
    gain = steps["gain.front"]
    send("gain.front", gain["target"]["value"], None, gain["wants"]["tone"])
    row = steps["prove.front"]["rows"][0]
    wrong = row["wants"]["tone"] | {"level_dbfs": -5}
    # The very volts that are wanted, but 5 dB lower: nothing is proved by them.
    send("prove.front", row["target"]["value"], row["key"], wrong)
    with window(browser, viewport=size) as context:
        page = context.new_page()
        page.goto(f"{server.url}/jobs/{job}/run/prove.front")
        listed = page.get_by_role("list", name="Readings of this step").get_by_role("listitem").first
        expect(listed).to_contain_text("read again")
        expect(page.get_by_text(re.compile("read with .* at −5 dBFS. Play .* and read again")).first).to_be_visible()
        # It is the one that is asked for, so that typing goes to it.
        expect(listed.get_by_role("button")).to_have_attribute("aria-current", "true")
        page.keyboard.type(f"{row['target']['value']:.2f}")
        press(page, "Enter")
        expect(listed).not_to_contain_text("read again")
        expect(listed).to_contain_text("✓")


@SIZES
def test_a_lower_number_is_taken_on_purpose_and_a_typed_target_is_set(
    browser: Browser, server: Server, new_job: MakeJob, size: dict[str, int]
) -> None:
    job = new_job()
    # Before the page keeps an answer that says otherwise.
    speakers_off(server, job)
    with window(browser, viewport=size) as context:
        page = context.new_page()
        page.goto(f"{server.url}/jobs/{job}/system?part=amplifier")
        page.locator("summary", has_text="own target and methods: none").press("Enter")
        page.get_by_label("Target volts, if given").fill("12")
        page.get_by_label("The figure is from").fill("the speakers’ maker")
        page.get_by_label("The figure is from").press("Tab")
        expect(page.locator("summary", has_text="own target and methods: 1")).to_be_visible()
        eventually(
            lambda: run_of(server, job)["job"]["sheet"]["chain"]["paths"][0]["wanted_from"], "the speakers’ maker"
        )
        go_to_volume_steps(page, server, job)
        for volts, seen in (("2.0", "c"), ("2.2", "c"), ("2.4", "x")):
            page.keyboard.type(volts)
            press(page, seen)
        expect(page.get_by_role("button", name="Save 21 as the clean maximum")).to_be_visible()
        # A key that is pressed twice takes the highest clean one twice, never the lower one.
        press(page, "t", "t")
        expect(page.get_by_text("Saved: 21")).to_be_visible()
        eventually(lambda: {mark["volume"] for mark in run_of(server, job)["marks"] if mark["basis"]}, {21})
        page.get_by_role("button", name="Save 20, on the safe side").press("Enter")
        expect(page.get_by_text("lower on purpose: 21 was clean too")).to_be_visible()
        press(page, "ArrowRight")
        expect(page.get_by_role("heading", level=1)).to_contain_text("Connect the source to what follows")
        press(page, *["Enter"] * 2)
        eventually(lambda: len([mark for mark in run_of(server, job)["marks"] if mark["step"] == "connect"]), 2)
        page.goto(f"{server.url}/jobs/{job}/run/gain.front")
        expect(page.get_by_label("Volts wanted")).to_contain_text("12")
        page.goto(f"{server.url}/jobs/{job}/result")
        expect(page.get_by_text("20 on purpose (on the safe side); 21 was clean too")).to_be_visible()
