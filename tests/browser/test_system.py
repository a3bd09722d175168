"""The System and Plan screens: many paths, what lies between, filters, layouts, job files."""

import re
from collections.abc import Callable
from pathlib import Path

import httpx2
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import PHONE, SIZES, open_part, open_settings, press, tab_to, window
from tests.servers import Server

MakeJob = Callable[..., str]
EXAMPLES = Path(__file__).parents[2] / "examples"


# Plans come a second late.
SLOW_PLAN = """() => { const real = window.fetch; window.fetch = async (request, more) => {
    if ((request.url ?? request).includes('/preview')) await new Promise(then => setTimeout(then, 1000));
    return real(request, more); } }"""


def opened(page: Page, server: Server, job: str) -> None:
    page.goto(f"{server.url}/jobs/{job}/system")
    expect(page.get_by_text("All saved")).to_be_visible()


def sheet_of(server: Server, job: str) -> dict:  # type: ignore[type-arg]
    return httpx2.get(f"{server.url}/api/jobs/{job}").json()["sheet"]


def test_a_system_from_a_layout_is_planned_with_its_crossovers(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    page.get_by_label("Start from a layout or job").select_option(label="Front, rear and sub, an amplifier each")
    page.get_by_role("button", name="Replace this system").click()
    paths = page.get_by_role("navigation", name="Paths of the system")
    expect(paths.get_by_role("button", name="Sub", exact=True)).to_be_visible()
    paths.get_by_role("button", name="Sub", exact=True).click()
    expect(page.get_by_role("heading", name=re.compile(r"Sub: 34\.6"))).to_be_visible()
    # Without its subsonic filter the ported box is at risk, and that shows at once.
    open_part(page, "Filters")
    page.get_by_role("button", name="Remove filter 1").click()
    expect(page.get_by_text("no subsonic filter on a ported box")).to_be_visible()
    expect(page.get_by_text("All saved")).to_be_visible()
    page.get_by_role("link", name="To the plan").click()
    expect(page.get_by_role("heading", name="Crossovers")).to_be_visible()
    expect(page.get_by_text(re.compile(r"Sub and Front meet at \d+"))).to_be_visible()
    # Another path in full, chosen by its bars in the picture of all of them.
    page.get_by_role("button", name=re.compile("^Rear: 15.5 volts")).click()
    expect(page.get_by_role("heading", name="Rear: set the gain to")).to_be_visible()
    expect(page.get_by_role("img", name="Sum of the paths of Rear")).to_be_visible()
    expect(page.get_by_text("× 0.707").first).to_be_visible()


def test_a_boosted_band_moves_the_tone(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    open_part(page, "Converter or processor")
    page.get_by_role("button", name="Add a processor").click()
    page.get_by_label("Name", exact=True).fill("Tidewright 4")
    page.get_by_role("button", name="Add a band").click()
    page.get_by_label("at", exact=True).fill("2,2k")
    page.get_by_label("by", exact=True).fill("6")
    expect(page.get_by_text("its output clips first")).to_be_visible()
    page.get_by_label("Channel gain").fill("-6")
    expect(page.get_by_text("its output clips first")).to_be_hidden()
    page.get_by_role("link", name="To the plan").click()
    expect(page.get_by_text(re.compile(r"highest at 2\.[012]\d? kHz"))).to_be_visible()


def test_paths_are_added_and_removed_with_the_keyboard(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    tab_to(page, "Add a path")
    press(page, "Enter")
    expect(page.get_by_role("button", name="Path 2", exact=True)).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_text("All saved")).to_be_visible()
    assert len(sheet_of(server, job)["chain"]["paths"]) == 2
    tab_to(page, "Remove Path 2")
    press(page, "Enter")
    expect(page.get_by_role("button", name="Path 2", exact=True)).to_be_hidden()
    expect(page.get_by_text("All saved")).to_be_visible()
    chain = sheet_of(server, job)["chain"]
    assert [len(chain[kind]) for kind in ("paths", "amplifiers", "loads")] == [1, 1, 1]
    tab_to(page, "Restore the previous system")
    press(page, "Enter")
    expect(page.get_by_role("button", name="Path 2", exact=True)).to_be_visible()
    expect(page.get_by_role("button", name="Restore the previous system")).to_be_hidden()


def test_what_is_wrong_on_another_path_is_found_from_here(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    page.get_by_role("button", name="Add a path").click()
    open_part(page, "Speakers")
    page.get_by_label("Name of the path").fill("y" * 90)
    expect(page.get_by_text("Not saved yet: correct what is marked")).to_be_visible()
    page.get_by_role("button", name="Front", exact=True).click()
    # Here nothing is wrong with the speakers.
    expect(page.get_by_role("button", name="Speakers", exact=True)).to_be_visible()
    page.get_by_role("navigation", name="Paths of the system").get_by_role("button", name="· correct").click()
    expect(page.get_by_role("button", name="Speakers · correct")).to_be_visible()
    expect(page.get_by_text("has at most 80 characters. Not saved.")).to_be_visible()
    page.get_by_label("Name of the path").fill("Rear")
    expect(page.get_by_text("All saved")).to_be_visible()
    expect(page.get_by_text("correct", exact=False)).to_have_count(0)


def test_a_system_that_was_replaced_can_be_put_back(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job("The one to copy")
    other = new_job()
    opened(page, server, other)
    before = sheet_of(server, other)["chain"]
    layouts = page.get_by_label("Start from a layout or job")
    # Another job can be copied, but not the one that is open.
    expect(layouts.get_by_role("option", name="Like The one to copy")).to_have_count(1)
    expect(layouts.locator(f"option[value='job {other}']")).to_have_count(0)
    assert job != other
    layouts.select_option(label="Active three-way behind a processor")
    page.get_by_role("button", name="Replace this system").click()
    expect(page.get_by_role("button", name="Tweeter", exact=True)).to_be_visible()
    expect(page.get_by_text("All saved")).to_be_visible()
    page.get_by_role("button", name="Restore the previous system").click()
    expect(page.get_by_role("button", name="Tweeter", exact=True)).to_be_hidden()
    expect(page.get_by_text("All saved")).to_be_visible()
    assert sheet_of(server, other)["chain"] == before


def test_what_cannot_be_is_told_at_its_filter(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    open_part(page, "Filters")
    page.get_by_role("button", name="Add a high-pass").click()
    page.get_by_label("Slope").select_option(label="18 dB an octave")
    page.get_by_label("Shape").select_option(label="Linkwitz–Riley")
    expect(page.get_by_text("has an even order")).to_be_visible()
    expect(page.get_by_text("Not saved yet: correct what is marked")).to_be_visible()
    page.get_by_label("Slope").select_option(label="24 dB an octave")
    expect(page.get_by_text("All saved")).to_be_visible()
    page.get_by_label("Corner", exact=True).fill("eighty")
    expect(page.get_by_text("isn’t a number")).to_be_visible()


def test_a_corner_is_worked_out_from_readings(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    open_part(page, "Filters")
    page.get_by_role("button", name="Add a high-pass").click()
    expect(page.get_by_text("All saved")).to_be_visible()
    page.get_by_role("link", name="To the plan").click()
    page.get_by_text("Find the real corner").click()
    for place, (open_v, filtered) in enumerate((("8", "5,66"), ("8", "1,94"))):
        page.get_by_label("Open", exact=True).nth(place).fill(open_v)
        page.get_by_label("Filter in").nth(place).fill(filtered)
    page.get_by_role("button", name="Calculate").click()
    expect(page.get_by_text(re.compile(r"Really at (79|80)\S* Hz, 12 dB an octave"))).to_be_visible()


def test_a_job_file_is_opened_and_saved(page: Page, server: Server, tmp_path: Path) -> None:
    page.goto(server.url)
    page.get_by_label("Job file or archive to open").set_input_files(EXAMPLES / "active-three-way.json")
    expect(page.get_by_role("button", name="Tweeter", exact=True)).to_be_visible()
    with page.expect_download() as got:
        page.get_by_role("link", name="Job file").click()
    assert got.value.path().read_bytes() == (EXAMPLES / "active-three-way.json").read_bytes()
    page.goto(server.url)
    wrong = tmp_path / "wrong.json"
    wrong.write_text('{"format": 9}', "utf-8")
    page.get_by_label("Job file or archive to open").set_input_files(wrong)
    expect(page.get_by_role("alert")).to_contain_text("format 9")


def test_a_second_path_is_set_on_the_simulated_bench(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    page.get_by_label("Start from a layout or job").select_option(label="Front and rear, an amplifier each")
    page.get_by_role("button", name="Replace this system").click()
    expect(page.get_by_text("All saved")).to_be_visible()
    page.goto(f"{server.url}/jobs/{job}/run/gain.rear")
    page.get_by_label("Show the simulated bench").check()
    expect(page.get_by_role("heading", name="Simulated bench")).to_be_visible()
    page.wait_for_function(
        f"() => fetch('/api/jobs/{job}/bench').then(r => r.json()).then(b => b.state.path === 'rear')", timeout=10_000
    )


def test_the_system_by_touch_on_a_phone(browser: Browser, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    page = window(browser, viewport=PHONE, has_touch=True).new_page()
    opened(page, server, job)
    page.get_by_role("navigation", name="Parts").get_by_role("button", name="Filters").tap()
    page.get_by_role("button", name="Add a low-pass").tap()
    page.get_by_role("button", name="Add a path").tap()
    expect(page.get_by_text("All saved")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]
    page.context.close()


def test_the_signal_chain_is_edited_with_the_keyboard(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    stage_level = page.get_by_role("button", name=re.compile("^Amplifier 15.5 V"))
    stage_level.focus()
    press(page, "Enter")
    expect(stage_level).to_have_attribute("aria-pressed", "true")
    # The form is there and its first field has the focus.
    expect(page.get_by_label("Name", exact=True)).to_be_focused()
    page.keyboard.type("Brackwater Twin 75")
    expect(page.get_by_role("button", name=re.compile("^Brackwater Twin 75 15.5 V"))).to_be_visible()
    expect(page.get_by_text("All saved")).to_be_visible()


def test_a_half_filled_system_says_what_it_lacks(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    page.get_by_label("Start from a layout or job").select_option(label="Front and rear, an amplifier each")
    page.get_by_role("button", name="Replace this system").click()
    open_part(page, "Speakers")
    page.get_by_label("Rated power of one").fill("")
    expect(page.get_by_role("heading", name="Front: not planned yet")).to_be_visible()
    expect(page.get_by_text("The speakers’ rated power isn’t known")).to_be_visible()
    expect(page.get_by_text("All saved")).to_be_visible()
    page.get_by_role("link", name="To the plan").click()
    expect(page.get_by_role("heading", name="Front: not planned yet")).to_be_visible()
    expect(page.get_by_role("heading", name="Rear: set the gain to")).to_be_visible()
    page.get_by_role("link", name="To the run").click()
    expect(page.get_by_role("heading", name="Make it safe")).to_be_visible()


def test_a_source_with_outputs_ways_of_playing_and_tone_settings(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    page.get_by_label("Kind of source").select_option(label="Factory radio or amplifier")
    page.get_by_role("button", name="Add an output").click()
    second = page.get_by_role("group", name="Output 2")
    second.get_by_label("Output", exact=True).fill("Rear speakers")
    second.get_by_label("Kind").select_option(label="Speaker level")
    second.get_by_label("Unit").select_option(label="watts")
    second.get_by_label("Rated output").fill("18 W")
    # Going over to volts and back loses neither.
    second.get_by_label("Unit").select_option(label="volts")
    expect(second.get_by_label("Rated output")).to_have_value("4 V")
    second.get_by_label("Unit").select_option(label="watts")
    expect(second.get_by_label("Rated output")).to_have_value("18 W")
    page.get_by_label("Output used").select_option(label="Rear speakers")
    # A speaker-level output has no ground side to give to a plug.
    expect(page.get_by_text("Speaker-level output on a low-level input")).to_be_visible()
    page.get_by_label("USB").check()
    page.get_by_label("Phone, wireless", exact=True).check()
    page.get_by_label("Phone, wireless: trim").fill("+3")
    expect(page.get_by_text("2 ways of playing")).to_be_visible()
    expect(page.get_by_text("phone, wireless at +3 dB")).to_be_visible()
    page.get_by_label("Bass").fill("4")
    page.get_by_label("Loudness on").check()
    expect(page.get_by_text("bass at +4, loudness on")).to_be_visible()
    expect(page.get_by_text("All saved")).to_be_visible()
    source = sheet_of(server, job)["chain"]["sources"][0]
    # √(18 W × 4 Ω) = 8.49 V
    assert source["outputs"][1]["rated"] == {"volts": None, "watts": 18.0, "load_ohm": 4.0}
    assert [one["kind"] for one in source["inputs"]] == ["usb", "wireless_phone"]
    assert source["tone"]["loudness"] is True
    open_part(page, "Amplifier")
    page.get_by_label("High-level input: gain range known").check()
    page.get_by_label("Input used").select_option(label="High-level input")
    expect(page.get_by_text("Speaker-level output on a low-level input")).to_be_hidden()


def test_stages_in_series_are_added_moved_and_taken_out(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    open_part(page, "Converter or processor")
    page.get_by_role("button", name="Add a processor").click()
    page.get_by_label("Name", exact=True).fill("Tidewright 4")
    page.get_by_role("button", name="Add a converter").click()
    page.get_by_label("Name", exact=True).nth(1).fill("Lowline 2")
    page.get_by_role("button", name="Move 2 towards the source").click()
    expect(page.get_by_text("All saved")).to_be_visible()
    names = {processor["id"]: processor["name"] for processor in sheet_of(server, job)["chain"]["processors"]}
    assert [names[one] for one in sheet_of(server, job)["chain"]["paths"][0]["through"]] == [
        "Lowline 2",
        "Tidewright 4",
    ]
    page.get_by_role("link", name="To the plan").click()
    expect(page.get_by_text(re.compile("Trim Lowline 2 to .* V"))).to_be_visible()
    page.get_by_role("link", name="System", exact=True).click()
    open_part(page, "Converter or processor")
    page.get_by_role("button", name="Remove 1").click()
    expect(page.get_by_text("All saved")).to_be_visible()
    assert [processor["name"] for processor in sheet_of(server, job)["chain"]["processors"]] == ["Tidewright 4"]


def test_a_proposal_is_taken_and_a_filter_switch_told(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    open_part(page, "Filters")
    expect(page.get_by_text("For a proposal, type the speakers")).to_be_visible()
    open_part(page, "Speakers")
    page.get_by_label("Plays from").fill("95")
    open_part(page, "Filters")
    expect(page.get_by_text("Proposed: high-pass 95 Hz")).to_be_visible()
    page.get_by_role("button", name="Apply these filters").click()
    expect(page.get_by_text("As proposed: high-pass 95 Hz")).to_be_visible()
    page.get_by_label("Filter switch on the amplifier").select_option(label="flat")
    page.get_by_label("high-pass", exact=True).check()
    expect(page.get_by_text("does nothing")).to_be_visible()
    page.get_by_label("flat", exact=True).check()
    expect(page.get_by_text("stays active")).to_be_visible()


def test_methods_say_what_they_cost_and_change_the_plan(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    open_part(page, "Methods")
    page.get_by_label("Tone level for the gain").select_option(label="−5 dBFS: 5 dB of overlap")
    page.get_by_label("The number never to pass").select_option(label="Measured, one or two numbers lower for gains")
    expect(page.get_by_text("loud ones then clip by the same amount")).to_be_visible()
    page.get_by_label("Numbers below the clean maximum").fill("2")
    page.get_by_label("Gain target").select_option(label="Until the clip light comes on, then slightly back")
    expect(page.get_by_text("No clip light")).to_be_visible()
    page.get_by_label("Load while setting").select_option(label="On a dummy load")
    expect(page.get_by_text("All saved")).to_be_visible()
    choices = sheet_of(server, job)["choices"]
    assert (choices["top_volume"], choices["clicks_in_hand"], choices["load"]) == ("in_hand", 2, "dummy")
    page.get_by_role("link", name="To the plan").click()
    expect(page.get_by_text("gains are set 2 below")).to_be_visible()
    table = page.get_by_role("region", name="Levels at every point")
    expect(table).to_contain_text("At full scale")
    expect(page.get_by_text("5.0 dB of overlap")).to_be_visible()
    page.get_by_text(re.compile(r"^\d+ notes")).click()
    expect(page.get_by_text("hot enough to burn").first).to_be_visible()


def test_what_cannot_be_joined_is_told_at_its_part(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    open_part(page, "Amplifier")
    page.get_by_label("Type", exact=True).select_option(label="Mono")
    page.get_by_label("Channels used").select_option(label="Bridged")
    expect(page.get_by_text("a mono amplifier has one channel and can’t be bridged. Not saved.")).to_be_visible()
    page.get_by_label("Type", exact=True).select_option(label="Channel pair")
    expect(page.get_by_text("All saved")).to_be_visible()


def test_the_picture_of_the_system_is_worked_with_the_arrows(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    page.get_by_label("Start from a layout or job").select_option(label="Active two-way behind a processor")
    page.get_by_role("button", name="Replace this system").click()
    picture = page.get_by_role("navigation", name="Paths of the system")
    # What both paths share is laid once.
    expect(picture.get_by_role("button", name=re.compile("^Processor"))).to_have_count(1)
    expect(picture.get_by_role("button", name=re.compile("^Amplifier"))).to_have_count(2)
    picture.get_by_role("button", name="Tweeter", exact=True).focus()
    press(page, "ArrowDown", "ArrowDown", "Enter")
    expect(page.get_by_role("heading", name="Amplifier", level=2, exact=True)).to_be_visible()
    expect(page.get_by_role("heading", name=re.compile("^Tweeter: "))).to_be_visible()


def test_what_nobody_has_confirmed_is_marked_until_somebody_has(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    picture = page.get_by_role("navigation", name="Paths of the system")
    speakers = picture.get_by_role("button", name=re.compile("^Speakers"))
    expect(speakers).to_have_accessible_name("Speakers 4 Ω · 60 W not confirmed")
    speakers.click()
    told = page.locator(".marks")
    expect(told).to_contain_text("speakers, watts: 60 W")
    # What is typed is confirmed, and the rest of the part by a word.
    page.get_by_label("Rated power of one").fill("80")
    expect(page.get_by_text("All saved")).to_be_visible()
    expect(told).not_to_contain_text("watts")
    page.get_by_role("button", name=re.compile("^Confirm speakers, ohms")).click()
    expect(told).to_be_hidden()
    expect(speakers).to_have_accessible_name("Speakers 4 Ω · 80 W")
    expect(page.get_by_text("All saved")).to_be_visible()
    marks = sheet_of(server, job)["not_confirmed"]
    assert not any(mark["place"].startswith("loads.") for mark in marks)
    assert any(mark["place"].startswith("amplifiers.") for mark in marks)
    page.get_by_role("link", name="To the plan").click()
    expect(page.get_by_text("Unchecked defaults in use").first).to_be_visible()


def test_something_is_tried_out_and_kept_or_dropped(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    page.goto(f"{server.url}/jobs/{job}/plan")
    page.get_by_role("button", name="What if …").click()
    page.get_by_label("Rated power of one").fill("30")
    row = page.get_by_role("row", name=re.compile("Front"))
    # √(30 W × 4 Ω), beside what stands.
    expect(row).to_contain_text("10.95 V")
    expect(row).to_contain_text("was 15.49 V")
    page.get_by_role("button", name="Discard").click()
    expect(page.get_by_text("15.49 V", exact=True).or_(page.get_by_text("15.49"))).not_to_have_count(0)
    assert sheet_of(server, job)["chain"]["loads"][0]["power_w"] == 60
    page.get_by_role("button", name="What if …").click()
    page.get_by_label("Rated power of one").fill("30")
    expect(row).to_contain_text("10.95 V")
    page.get_by_role("button", name="Keep the changes").click()
    expect(page.get_by_role("region", name="What if")).to_be_hidden()
    expect(page.get_by_role("heading", name="Front: set the gain to")).to_be_visible()
    assert sheet_of(server, job)["chain"]["loads"][0]["power_w"] == 30


def test_a_proposal_is_taken_with_what_belongs_to_it(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    page.get_by_label("Start from a layout or job").select_option(label="Active two-way behind a processor")
    page.get_by_role("button", name="Replace this system").click()
    open_part(page, "Filters")
    # Both ways play everything: a crossover that is set for one of them alone leaves a hole.
    take = page.get_by_role("button", name=re.compile("^Apply these filters"))
    for path in ("Mid-bass", "Tweeter"):
        page.get_by_role("button", name=path, exact=True).click()
        remove = page.get_by_role("button", name="Remove filter 1")
        while remove.count():
            remove.click()
        if path == "Mid-bass":
            expect(take).to_be_enabled()
            page.evaluate(SLOW_PLAN)
    # What was offered before the last change can't be taken: the press waits for the plan of what stands now.
    expect(take).to_be_disabled()
    take.click()
    expect(page.get_by_text("As proposed:")).to_be_visible()
    expect(page.get_by_text("All saved")).to_be_visible()
    filters = [len(path["filters"]) for path in sheet_of(server, job)["chain"]["paths"]]
    assert min(filters) >= 1


def test_an_amplifier_gets_sections_and_a_second_path_takes_the_spare_one(
    page: Page, server: Server, new_job: MakeJob
) -> None:
    job = new_job()
    opened(page, server, job)
    picture = page.get_by_role("navigation", name="Paths of the system")
    picture.get_by_role("button", name=re.compile("^Amplifier")).click()
    page.get_by_role("button", name="Split into sections").click()
    page.get_by_label("This section").fill("Front pair")
    expect(picture.get_by_role("button", name="Front pair 75 W into 4 Ω")).to_be_visible()
    page.get_by_role("button", name="Add a path").click()
    # Another path on the same amplifier, which is still drawn once.
    expect(picture.get_by_role("button", name=re.compile("^Amplifier 2 sections"))).to_have_count(1)
    page.get_by_label("This section").fill("Rear pair")
    page.get_by_text("Figures of this section").click()
    page.get_by_role("button", name="Add a rating").click()
    page.get_by_role("group", name="Section of this path").get_by_label("Watts").fill("50")
    expect(picture.get_by_role("button", name="Rear pair 50 W into 4 Ω")).to_be_visible()
    expect(page.get_by_text("All saved")).to_be_visible()
    chain = sheet_of(server, job)["chain"]
    (amplifier,) = chain["amplifiers"]
    assert [path["section"] for path in chain["paths"]] == [section["id"] for section in amplifier["sections"]]
    assert amplifier["sections"][1]["ratings"][0]["power_w"] == 50
    page.get_by_role("button", name="Remove Path 2").click()
    expect(page.get_by_text("All saved")).to_be_visible()
    assert len(sheet_of(server, job)["chain"]["amplifiers"]) == 1


def test_further_drivers_and_a_measured_curve(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    page.get_by_role("navigation", name="Paths of the system").get_by_role(
        "button", name=re.compile("^Speakers")
    ).click()
    page.get_by_text("Impedance curve").click()
    field = page.get_by_label("Read a curve of one speaker")
    field.set_input_files({"name": "box.csv", "mimeType": "text/csv", "buffer": b"nothing of the kind"})
    expect(page.get_by_role("alert").filter(has_text="No table of numbers")).to_be_visible()
    curve = b"Hz;Ohm\n40;9,5\n150;2,6\n1000;4,4\n5000;6\n"
    field.set_input_files({"name": "box.csv", "mimeType": "text/csv", "buffer": curve})
    expect(page.get_by_text("4 points, lowest 2.6 Ω at 150 Hz.")).to_be_visible()
    expect(page.get_by_text("2.6 Ω at 150 Hz; a speaker of")).to_be_visible()
    page.get_by_text("More drivers on this channel").click()
    page.get_by_role("button", name="Add a driver").click()
    page.get_by_role("group", name="Further driver 1").get_by_label("Watts").fill("30")
    expect(page.get_by_text("All saved")).to_be_visible()
    load = sheet_of(server, job)["chain"]["loads"][0]
    assert load["others"][0]["power_w"] == 30
    assert len(load["impedance_curve"]) == 4


def test_outputs_are_summed_and_sides_set_apart(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    opened(page, server, job)
    page.get_by_role("button", name="Add an output").click()
    page.get_by_label("summed with Output 2").check()
    expect(page.get_by_text("Outputs joined without a summing stage")).to_be_visible()
    open_part(page, "Converter or processor")
    page.get_by_role("button", name="Add a processor").click()
    expect(page.get_by_text("Outputs joined without a summing stage")).to_be_hidden()
    page.get_by_text("Left and right apart").click()
    page.get_by_role("group", name="Left side").get_by_label("Gain").fill("-3")
    expect(page.get_by_text("Left and right are set 3 dB apart")).to_be_visible()
    expect(page.get_by_text("All saved")).to_be_visible()
    (path,) = sheet_of(server, job)["chain"]["paths"]
    assert len(path["also"]) == 1
    assert path["left"]["gain_db"] == -3


@SIZES
def test_distances_are_typed_and_delays_applied_with_the_keyboard(
    browser: Browser, server: Server, new_job: MakeJob, size: dict[str, int]
) -> None:
    job = new_job()
    layouts = httpx2.get(f"{server.url}/api/templates").json()
    chain = next(layout["chain"] for layout in layouts if layout["key"] == "active-two")
    sheet = sheet_of(server, job) | {"chain": chain}
    httpx2.put(f"{server.url}/api/jobs/{job}/sheet", json={"base_version": 1, "sheet": sheet, "by": ""})
    page = window(browser, viewport=size).new_page()  # type: ignore[arg-type]

    def far(path: str, typed: str) -> None:
        page.goto(f"{server.url}/jobs/{job}/system?path={path}&part=speakers")
        tab_to(page, "Distance to the seat")
        page.keyboard.press("Control+A")
        page.keyboard.type(typed)
        page.keyboard.press("Tab")

    apply = page.get_by_role("button", name="Apply these delays to all paths")
    far("bass", "one arm")
    expect(page.get_by_text("“one arm” isn’t")).to_be_visible()
    far("bass", "105")
    expect(page.get_by_text("All saved")).to_be_visible()
    # One distance aligns nothing.
    expect(apply).to_be_hidden()
    far("tweeter", "100 cm")
    # 5 cm at 343.2 m/s: 0.146 ms, 7 samples.
    expect(page.get_by_text("0.146 ms (7 samples at 48 kHz)")).to_be_visible()
    tab_to(page, "Apply these delays to all paths")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Delays are aligned:")).to_be_visible()
    expect(apply).to_be_hidden()
    expect(page.get_by_text("All saved")).to_be_visible()
    assert [path["delay_ms"] for path in sheet_of(server, job)["chain"]["paths"]] == [0, 0.146]
    assert page.evaluate("document.documentElement.scrollWidth") <= size["width"]
    page.goto(f"{server.url}/jobs/{job}/plan")
    expect(page.get_by_text("Delay and distance to the seat are counted.")).to_be_visible()
    expect(page.get_by_text("All speakers arrive together.")).to_be_visible()
    page.context.close()


def test_a_device_with_a_decimal_comma_shows_it_everywhere(page: Page, server: Server, new_job: MakeJob) -> None:
    opened(page, server, new_job())
    open_settings(page)
    page.get_by_label("Decimal mark").select_option(label="Comma")
    page.keyboard.press("Escape")
    page.get_by_role("link", name="To the plan").click()
    expect(page.get_by_role("heading", name=re.compile("set the gain to"))).to_be_visible()
    text = page.locator("main").inner_text()
    assert re.search(r"\d,\d+ V", text)
    assert not re.findall(r"\d+\.\d+", text)
