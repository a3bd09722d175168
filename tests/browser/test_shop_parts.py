"""A data sheet pasted by keyboard, the part kept, and taken in the next job; on a phone too."""

from collections.abc import Callable

import httpx2
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import SIZES, eventually, open_part, press, tab_to, window
from tests.servers import Server

MakeJob = Callable[..., str]
SHEET = """RMS power (14.4 V, 1 % THD):
4 x 91 W @ 4 ohm
4 x 140 W @ 2 ohm
Max. power 1200 W @ 2 ohm
Dimensions 250 x 55 x 180 mm"""


def ratings(server: Server, job: str) -> list[tuple[float, float, float | None]]:
    amplifier = httpx2.get(f"{server.url}/api/jobs/{job}").json()["sheet"]["chain"]["amplifiers"][0]
    return [(rating["power_w"], rating["load_ohm"], rating["supply_v"]) for rating in amplifier["ratings"]]


@SIZES
def test_a_data_sheet_is_pasted_the_part_kept_and_taken_in_the_next_job(
    browser: Browser, server: Server, new_job: MakeJob, size: dict[str, int]
) -> None:
    page: Page = window(browser, viewport=size).new_page()  # type: ignore[arg-type]
    name = f"Brackwater Quad {size['width']}"
    first, second = new_job("Avocet"), new_job("Curlew")
    page.goto(f"{server.url}/jobs/{first}/system")
    open_part(page, "Amplifier")
    before = ratings(server, first)
    tab_to(page, "Paste a data sheet")
    press(page, "Enter")
    tab_to(page, "Lines of its data sheet")
    page.keyboard.insert_text(SHEET)
    press(page, "Tab", "Enter")
    found = page.get_by_role("group", name="Check each against the data sheet")
    expect(found.get_by_role("checkbox")).to_have_count(2)
    expect(page.get_by_text("“Max. power 1200 W @ 2 ohm”: A peak or maximum power is no rating")).to_be_visible()
    # Nothing is taken before it was confirmed; what isn't ticked stays out.
    assert ratings(server, first) == before
    found.get_by_role("checkbox", name="140 W into 2 Ω").press(" ")
    tab_to(page, "Put them into the form")
    press(page, "Enter")
    eventually(lambda: ratings(server, first), [(91.0, 4.0, 14.4)])

    page.get_by_label("Name", exact=True).fill(name)
    parts = page.get_by_role("region", name="The shop’s parts")
    expect(parts.get_by_role("button", name="Keep among the shop’s parts")).to_be_enabled()
    eventually(
        lambda: httpx2.get(f"{server.url}/api/jobs/{first}").json()["sheet"]["chain"]["amplifiers"][0]["name"], name
    )
    tab_to(page, "Keep among the shop’s parts")
    press(page, "Enter")
    expect(parts.get_by_role("status")).to_have_text("It is one of the shop’s parts now.")
    parts.get_by_role("button", name="Keep the figures measured here").click()
    expect(parts.get_by_role("alert")).to_contain_text("Nothing of this part was measured in this job yet")

    page.goto(f"{server.url}/jobs/{second}/system")
    open_part(page, "Amplifier")
    parts.get_by_label("Take the figures of").select_option(label=name)
    expect(parts.get_by_role("status")).to_have_text("Its figures are in the form.")
    eventually(lambda: ratings(server, second), [(91.0, 4.0, 14.4)])

    page.goto(f"{server.url}/parts")
    page.get_by_label("Name, note or vehicle").fill(name.lower())
    page.get_by_role("link", name=name).click()
    expect(page.get_by_role("heading", level=1)).to_have_text(name)
    expect(page.get_by_text("91 W into 4 Ω, 1 % distortion, at 14.4 V")).to_be_visible()
    # A colleague changes it while this page hears nothing: theirs stays, and what is typed here isn't lost.
    page.context.set_offline(True)
    page.get_by_label("Note").fill("shelf 3")
    page.get_by_label("Note").blur()
    expect(page.get_by_role("alert")).to_be_visible()
    part = httpx2.get(f"{server.url}/api/parts", params={"search": name}).json()["parts"][0]["id"]
    kept = httpx2.get(f"{server.url}/api/parts/{part}").json()["kept"]
    theirs = kept["sheet"] | {"amplifier": kept["sheet"]["amplifier"] | {"lowest_load_ohm": 2.0}}
    change = {"base_version": kept["version"], "sheet": theirs}
    assert httpx2.put(f"{server.url}/api/parts/{part}", json=change).status_code == 200
    page.context.set_offline(False)
    expect(page.get_by_label("Note")).to_have_value("shelf 3")
    for _ in range(2):
        page.get_by_label("Note").focus()
        page.get_by_label("Note").blur()
        expect(page.get_by_text("Saved", exact=True).or_(page.get_by_role("alert"))).to_be_visible()
    expect(page.get_by_text("Saved", exact=True)).to_be_visible()
    expect(page.get_by_text("Lowest load of a channel 2 Ω")).to_be_visible()
    page.get_by_role("link", name="Jobs with it").click()
    expect(page.locator(".row-of-job")).to_have_count(2)
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
