"""A day's work on four paths (front, rear, sub, and one behind a converter): typed by keyboard, and by touch."""

import copy
import re
from collections.abc import Callable
from typing import Any

import httpx2
import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import PHONE, run_of, speakers_off, turned_until_it_fits, window
from tests.servers import Server

MakeJob = Callable[..., str]
Body = dict[str, Any]
MOST_KEYS = 105
"""Without the digits of the readings."""


def four_paths(server: Server, job: str) -> None:
    """The job's system as front, rear and sub from a layout, and a fourth path behind a converter."""
    layouts = httpx2.get(f"{server.url}/api/templates").json()
    chain = copy.deepcopy(next(layout["chain"] for layout in layouts if layout["key"] == "front-rear-sub"))
    converter = next(layout["chain"]["processors"][0] for layout in layouts if layout["key"] == "converter")
    chain["processors"] = [converter]
    for kind in ("amplifiers", "loads"):
        chain[kind].append({**chain[kind][0], "id": "fourth"})
    fourth = {"id": "fourth", "name": "Rear doors", "amplifier": "fourth", "load": "fourth", "filters": []}
    chain["paths"].append(chain["paths"][0] | fourth | {"through": [converter["id"]]})
    sheet = httpx2.get(f"{server.url}/api/jobs/{job}").json()["sheet"] | {"chain": chain, "not_confirmed": []}
    saved = httpx2.put(f"{server.url}/api/jobs/{job}/sheet", json={"base_version": 1, "sheet": sheet, "by": ""})
    assert saved.status_code == 200


class Hands:
    """Works a run by the keyboard alone, with a typed meter, and counts the keys that are no digits."""

    def __init__(self, page: Page, server: Server, job: str) -> None:
        self.page, self.server, self.job, self.keys = page, server, job, 0

    def press(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)
            self.keys += 1

    def read(self, volts: float, key: str = "Enter") -> None:
        self.page.keyboard.type(f"{volts:.4g}")
        self.press(key)

    def view(self) -> tuple[Body, Body]:
        """The step that is open and how it stands, as the server has it."""
        run = run_of(self.server, self.job)["run"]
        open_key = self.page.url.rpartition("/")[2]
        place = next(number for number, one in enumerate(run["steps"]) if one["key"] == open_key)
        return run["steps"][place], run["states"][place]

    def done(self) -> None:
        """Waits until the page says so."""
        here = self.page.get_by_role("navigation", name="Steps of the run").locator("[aria-current=step]")
        expect(here).to_contain_text("done")

    def work(self) -> None:
        """The step that is open, as its target says."""
        step, _ = self.view()
        if step["kind"] == "checklist":
            self.press(*["Enter"] * len(step["items"]))
        elif step["kind"] == "volume_steps":
            self.press(*["ArrowUp"] * 9)
            self.read(3.3, "c")
            self.read(3.7, "c")
            self.read(4.0, "x")
            expect(self.page.get_by_text("30 is the clean maximum. Save it.")).to_be_visible()
            self.press("t")
        elif step["kind"] == "blend":
            self.read(2.0)
        elif step["kind"] == "knob_positions":
            # The first Enter goes to the first line; of the rest nobody types anything but where one gain stands.
            self.press("Enter")
            self.page.keyboard.type("half past ten")
            self.press(*["Enter"] * len(step["items"]))
        elif step["rows"]:
            self.rows(step)
        else:
            self.read(step["target"]["value"])
        self.done()

    def rows(self, step: Body) -> None:
        for place, row in enumerate(step["rows"]):
            if row["optional"]:
                continue
            expect(self.page.locator(".row-button.here .name")).to_have_text(row["name"])
            if row["target"] is None and place:
                # What is wanted with the filter in hangs on what was read with it open.
                expect(self.page.get_by_label("Volts wanted")).to_be_visible()
            wanted = self.view()[0]["rows"][place]["target"]
            self.read(wanted["value"] if wanted else 8.0)


@pytest.mark.deep
def test_four_paths_from_safe_to_result_by_a_typed_meter(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job("Four paths")
    four_paths(server, job)
    page.goto(f"{server.url}/jobs/{job}/run")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Make it safe")
    hands = Hands(page, server, job)
    steps = run_of(server, job)["run"]["steps"]
    kinds = [step["kind"] for step in steps]
    assert {kind: kinds.count(kind) for kind in dict.fromkeys(kinds)} == {
        "checklist": 5,
        "supply": 1,
        "volume_steps": 1,
        "converter": 1,
        "gain": 4,
        "match": 3,
        "corner": 4,
        "prove": 4,
        "blend": 1,
        "knob_positions": 1,
    }
    for number, step in enumerate(steps):
        if number:
            hands.press("ArrowRight")
        expect(page).to_have_url(re.compile(re.escape(f"/run/{step['key']}") + "$"))
        hands.work()
    assert hands.keys <= MOST_KEYS
    page.goto(f"{server.url}/jobs/{job}/result")
    expect(page.get_by_text("Never pass 30: the clean maximum, seen clean")).to_be_visible()
    expect(page.get_by_text("Every step is done")).to_be_visible()
    expect(page.get_by_text("Front: gain half past ten")).to_be_visible()
    expect(page.get_by_text(re.compile("sure that nothing clips there"))).to_be_visible()
    expect(
        page.get_by_text(re.compile("Set the high-pass of Front to 80 Hz: .* the corner is at about 80 Hz"))
    ).to_be_visible()
    # What was measured of the supply stands with every reading that came after it.
    kept = httpx2.get(f"{server.url}/api/jobs/{job}/run").json()["readings"]
    assert {one["circumstances"]["supply_v"] for one in kept if one["step"].startswith("prove")} == {14.2}


def test_a_filter_is_turned_on_the_simulated_bench_by_touch(browser: Browser, server: Server, new_job: MakeJob) -> None:
    job = new_job("Corner van")
    four_paths(server, job)
    speakers_off(server, job)
    page = window(browser, viewport=PHONE, has_touch=True, is_mobile=True).new_page()
    page.goto(f"{server.url}/jobs/{job}/run/corner.front.0")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Set the high-pass of Front to 80 Hz")
    page.get_by_label("Reading from").select_option("simulated")
    page.get_by_label("Show the simulated bench").check()
    bench = page.get_by_role("region", name="Simulated bench")
    bench.get_by_role("button", name="Left out").tap()
    bench.get_by_label("Tone", exact=True).select_option("80")
    bench.get_by_label(re.compile("^Gain knob")).fill("0.3")
    expect(page.get_by_label("Volts now")).not_to_contain_text("–")
    page.wait_for_timeout(900)
    page.get_by_role("button", name="Save", exact=True).tap()
    expect(page.get_by_label("Volts wanted")).to_be_visible()
    bench.get_by_role("checkbox", name=re.compile("high-pass")).check()
    dial = bench.get_by_label("Dial of the high-pass")
    # A high-pass goes up from its minimum: the higher it stands the less is left.
    turned_until_it_fits(page, lambda turned: dial.fill(str(turned)), up_is_more=False)
    page.get_by_role("button", name="Save", exact=True).tap()
    expect(page.get_by_text(re.compile("the corner is at about (7[6-9]|8[0-4]) Hz")).first).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]
    page.context.close()


def test_factory_wires_are_looked_at_with_meter_and_stopwatch(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job("Wires")
    layouts = httpx2.get(f"{server.url}/api/templates").json()
    chain = next(layout["chain"] for layout in layouts if layout["key"] == "converter")
    sheet = httpx2.get(f"{server.url}/api/jobs/{job}").json()["sheet"] | {"chain": chain, "not_confirmed": []}
    httpx2.put(f"{server.url}/api/jobs/{job}/sheet", json={"base_version": 1, "sheet": sheet, "by": ""})
    page.goto(f"{server.url}/jobs/{job}/run/factory.source.front")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Check the factory wires")
    hands = Hands(page, server, job)
    hands.read(3.0)
    expect(page.get_by_text("3 V fits its input.").first).to_be_visible()
    rows = page.get_by_role("list", name="Readings of this step").get_by_role("button")
    rows.filter(has_text="Offset to chassis").click()
    # Either way round, and nothing at all, are readings.
    page.keyboard.type("-6,1")
    hands.press("Enter")
    expect(rows.filter(has_text="Offset to chassis")).to_contain_text("−6.1 V")
    rows.filter(has_text="after locking").click()
    page.get_by_role("button", name="Start the stopwatch").click()
    page.get_by_role("button", name=re.compile("^Stop at")).click()
    hands.press("Enter")
    expect(rows.filter(has_text="after locking")).to_contain_text("0 s")
    rows.filter(has_text="Ohms").click()
    hands.read(3.4)
    rows.filter(has_text="Ohms").click()
    expect(page.get_by_text("As a speaker of 4 ohm reads.")).to_be_visible()
    kept = run_of(server, job)["readings"]
    assert {one["quantity"] for one in kept} == {"ac_volts", "dc_volts", "seconds", "ohms"}
