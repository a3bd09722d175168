"""A factory system of five plugs: entered, hunted wire by wire with the keyboard, and drawn on the sheet."""

from collections.abc import Callable
from typing import Any

import httpx2
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import PHONE, eventually, run_of, speakers_off, window
from tests.servers import Server

MakeJob = Callable[..., str]
Body = dict[str, Any]
MOST_KEYS = 120
"""Without the digits of the readings."""


def wires(plug: int) -> list[Body]:
    """Two speakers, a constant supply and a turn-on lead."""
    pairs = [("speaker", "left"), ("speaker", "left"), ("speaker", "right"), ("speaker", "right")]
    kinds = [*pairs, ("supply", ""), ("turn_on", ""), ("data", "")]
    return [
        {"id": f"w{plug}-{pin}", "pin": str(pin), "colour": "grey", "role": role, "speaker": speaker}
        for pin, (role, speaker) in enumerate(kinds, 1)
    ]


def factory(server: Server, job: str, plugs: int) -> None:
    layouts = httpx2.get(f"{server.url}/api/templates").json()
    chain = next(layout["chain"] for layout in layouts if layout["key"] == "high-level")
    chain["sources"][0]["plugs"] = [
        {"id": f"p{number}", "name": "ABCDE"[number], "wires": wires(number)} for number in range(plugs)
    ]
    sheet = httpx2.get(f"{server.url}/api/jobs/{job}").json()["sheet"] | {"chain": chain, "not_confirmed": []}
    saved = httpx2.put(f"{server.url}/api/jobs/{job}/sheet", json={"base_version": 1, "sheet": sheet, "by": ""})
    assert saved.status_code == 200


def hunted(page: Page, server: Server, job: str) -> int:
    """Works every plug by the keys alone, and counts those that are no digits."""
    keys = 0
    steps = [step for step in run_of(server, job)["run"]["steps"] if step["kind"] == "plug"]
    for step in steps:
        expect(page.get_by_role("heading", level=1)).to_contain_text(step["title"])
        needed = [row for row in step["rows"] if not row["optional"]]
        for row in needed:
            here = page.get_by_role("list", name="Readings of this step").locator("[aria-current=true]")
            expect(here).to_contain_text(row["name"])
            value = "3.6" if row["quantity"] == "ohms" else "12.4" if row["key"].endswith("-on") else "0.02"
            page.keyboard.type("12.5" if row["key"].endswith("5-off") else value)
            page.keyboard.press("Enter")
            keys += 1
        eventually(lambda key=step["key"]: _state(server, job, key), "done")
        page.keyboard.press("ArrowRight")
        keys += 1
    return keys


def _state(server: Server, job: str, key: str) -> str:
    return next(state["state"] for state in run_of(server, job)["run"]["states"] if state["step"] == key)


def test_five_plugs_by_keyboard_end_in_a_drawing(page: Page, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    factory(server, job, 5)
    speakers_off(server, job)
    first = next(step for step in run_of(server, job)["run"]["steps"] if step["kind"] == "plug")
    page.goto(f"{server.url}/jobs/{job}/run/{first['key']}")
    assert hunted(page, server, job) <= MOST_KEYS
    page.goto(f"{server.url}/jobs/{job}/result")
    expect(page.get_by_text("Plug C", exact=True)).to_be_visible()
    expect(page.get_by_text("turns on with the key, 12.4 V").first).to_be_visible()
    expect(page.get_by_text("constant 12.4 V").first).to_be_visible()
    # Ohms are listed as ohms.
    page.locator("summary", has_text="Every reading").press("Enter")
    expect(page.get_by_role("cell", name="3.6 Ω").first).to_be_visible()


def test_a_plug_is_entered_and_a_wire_is_picked_by_touch(browser: Browser, server: Server, new_job: MakeJob) -> None:
    job = new_job()
    factory(server, job, 0)
    speakers_off(server, job)
    with window(browser, viewport=PHONE, has_touch=True) as context:  # type: ignore[arg-type]
        page = context.new_page()
        page.goto(f"{server.url}/jobs/{job}/system?part=source")
        page.locator("summary", has_text="Plugs and wires: none").click()
        page.get_by_role("button", name="Add a plug").tap()
        page.get_by_label("Colour").fill("brown")
        page.get_by_label("Taken for").select_option("ground")
        eventually(
            lambda: [
                (wire["pin"], wire["colour"], wire["role"])
                for plug in run_of(server, job)["job"]["sheet"]["chain"]["sources"][0]["plugs"]
                for wire in plug["wires"]
            ],
            [("1", "brown", "ground")],
        )
        step = next(step for step in run_of(server, job)["run"]["steps"] if step["kind"] == "plug")
        page.goto(f"{server.url}/jobs/{job}/run/{step['key']}")
        page.get_by_role("button", name="not connected").tap()
        expect(page.get_by_text("not connected to ground").first).to_be_visible()
        assert page.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]
