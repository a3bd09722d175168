"""Once misjudged, driven through the pages: second looks, a bass-only tap, settings, names of outputs, soft clips."""

from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any

import httpx2
from playwright.sync_api import Page, expect

from tests.browser.conftest import edited, eventually, press, run_of, speakers_off
from tests.servers import Server

MakeJob = Callable[..., str]
Body = dict[str, Any]


def of_layout(server: Server, job: str, key: str, change: Callable[[Body], None] = lambda _sheet: None) -> None:
    chain = next(one["chain"] for one in httpx2.get(f"{server.url}/api/templates").json() if one["key"] == key)

    def to_it(sheet: Body) -> None:
        sheet |= {"chain": chain, "not_confirmed": []}
        change(sheet)

    edited(server, job, to_it)
    speakers_off(server, job)


def state(server: Server, job: str, key: str) -> str:
    return next(str(state["state"]) for state in run_of(server, job)["run"]["states"] if state["step"] == key)


def at(page: Page, server: Server, job: str, key: str, title: str) -> None:
    page.goto(f"{server.url}/jobs/{job}/run/{key}")
    expect(page.get_by_role("heading", level=1)).to_contain_text(title)


def climbed(page: Page, server: Server, job: str) -> None:
    """Clean at half the scale and one above, clipped at the next; the second is taken."""
    step = next(step for step in run_of(server, job)["run"]["steps"] if step["kind"] == "volume_steps")
    key, second = step["key"], step["wants"]["volume"] + 1
    at(page, server, job, key, "Find the source’s clean maximum")
    for volts, seen in (("3.6", "c"), ("4.0", "c"), ("4.3", "x")):
        page.keyboard.type(volts)
        press(page, seen)
    expect(page.get_by_role("button", name=f"Save {second} as the clean maximum")).to_be_visible()
    press(page, "t")
    eventually(lambda: state(server, job, key), "done")


def test_volts_by_a_second_meter_leave_the_verdict(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    speakers_off(server, job)
    climbed(page, server, job)
    while page.get_by_role("group", name="Source volume").get_by_role("status").inner_text() != "21":
        press(page, "ArrowUp")
    page.keyboard.type("4.03")
    press(page, "Enter")
    eventually(lambda: len(run_of(server, job)["readings"]), 4)
    assert state(server, job, "ceiling.source.line") == "done"
    expect(page.get_by_text("Saved: 21 gives 4.03 V, seen clean.")).to_be_visible()


def test_a_tap_that_feeds_a_sub_alone_is_judged_by_bass(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()

    def sub(sheet: Body) -> None:
        chain = sheet["chain"]
        chain["loads"][0]["band"] = "sub"
        chain["sources"][0]["kind"] = "factory"

    of_layout(server, job, "high-level", sub)
    key = next(step["key"] for step in run_of(server, job)["run"]["steps"] if step["kind"] == "factory")
    at(page, server, job, key, "Check the factory wires")
    rows = page.get_by_role("list", name="Readings of this step")
    expect(rows.get_by_role("button").first).to_contain_text("40 Hz")
    expect(rows.get_by_role("button", name="1 kHz")).to_have_count(0)
    page.keyboard.type("9.5")
    press(page, "Enter")
    expect(page.get_by_text("9.5 V fits").first).to_be_visible()
    expect(page.get_by_text("Sum it")).to_have_count(0)


def test_a_setting_that_lifts_bass_alone_is_no_false_comfort(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    of_layout(server, job, "front", lambda sheet: sheet["choices"].update(extent="everything"))
    at(page, server, job, "trims.source", "Compare trims and settings")
    rows = page.get_by_role("list", name="Readings of this step").get_by_role("button")
    for name, volts in (("As it is set, at 20", "1.0"), ("Loudness on", "1.0")):
        rows.filter(has_text=name).first.press("Enter")
        page.get_by_label(f"{name}: V").fill(volts)
        press(page, "Enter")
    expect(page.get_by_text("no difference at 1 kHz; try 40 Hz too")).to_be_visible()


def test_outputs_of_a_converter_that_have_names_are_trimmed_one_by_one(
    page: Page, server: Server, new_job: MakeJob
) -> None:
    job = new_job()

    def named(sheet: Body) -> None:
        chain = sheet["chain"]
        first = chain["paths"][0]
        first["converter_output"] = "Front"
        for kind, field in (("amplifiers", "amplifier"), ("loads", "load")):
            own = next(one for one in chain[kind] if one["id"] == first[field])
            chain[kind].append(own | {"id": f"second-{field}"})
        chain["paths"].append(
            first
            | {"id": "second", "name": "Rear", "converter_output": "Rear"}
            | {"amplifier": "second-amplifier", "load": "second-load"}
        )

    of_layout(server, job, "converter", named)
    climbed(page, server, job)
    keys = [step["key"] for step in run_of(server, job)["run"]["steps"] if step["kind"] == "converter"]
    assert len(keys) == 2
    for key, output in zip(keys, ("Front", "Rear"), strict=True):
        at(page, server, job, key, f"({output})")


def test_a_gain_that_clips_slightly_by_choice_is_done_and_says_so(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()

    def soft(sheet: Body) -> None:
        sheet["choices"]["gain"] = "soft_clip"
        sheet["chain"]["loads"][0]["power_w"] = 200

    of_layout(server, job, "front", soft)
    climbed(page, server, job)
    gain = next(step for step in run_of(server, job)["run"]["steps"] if step["key"] == "gain.front")
    body = {
        "id": "9b0c3d0e-6d0f-4a55-9a5c-2f4d8f8b7a11",
        "step": gain["key"],
        "value": gain["target"]["value"],
        "instrument": "scope",
        "circumstances": {"volume": 21},
        "seen": "clipped",
        "evidence": "eye",
        "builds_on": gain["builds_on"],
        "sheet_version": run_of(server, job)["job"]["version"],
        "taken_at": datetime.now(UTC).isoformat(),
    }
    assert httpx2.post(f"{server.url}/api/jobs/{job}/readings", json=body).status_code == 201
    assert state(server, job, "gain.front") == "done"
    page.goto(f"{server.url}/jobs/{job}/result")
    expect(page.get_by_text("slightly clipped, by choice").first).to_be_visible()
