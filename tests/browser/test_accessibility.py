"""axe on every screen in both themes, and nothing wider than the screen."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx2
import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import LARGE, PHONE
from tests.conftest import migrated_database
from tests.servers import Server

AXE = (Path(__file__).parents[2] / "frontend/node_modules/axe-core/axe.min.js").read_text("utf-8")

SCREENS = {
    "jobs": "/",
    "system": "/jobs/{planned}/system",
    "plan": "/jobs/{planned}/plan",
    "system of many": "/jobs/{active}/system",
    "plan of many": "/jobs/{active}/plan",
    "system behind a converter": "/jobs/{factory}/system",
    "plan of groups": "/jobs/{grouped}/plan",
    "checklist": "/jobs/{planned}/run/safe",
    "volume steps": "/jobs/{halfway}/run/ceiling.source.line",
    "gain": "/jobs/{halfway}/run",
    "corner": "/jobs/{grouped}/run/corner.bass.0",
    "proof": "/jobs/{finished}/run/prove.front",
    "factory wires": "/jobs/{factory}/run/factory.source.front",
    "captures": "/jobs/{finished}/captures",
    "no captures": "/jobs/{planned}/captures",
    "photos": "/jobs/{halfway}/photos/{photo}",
    "display": "/jobs/{halfway}/display",
    "result": "/jobs/{finished}/result",
    "history": "/jobs/{halfway}/history",
    "sources": "/sources",
    "source": "/sources/{source}",
    "source of a job by itself": "/jobs/{alone}/system",
    "volume steps by the sheet": "/jobs/{shelved}/run/ceiling.source.front.usb",
    "tones": "/tones",
    "parts": "/parts",
    "part": "/parts/{part}",
    "nowhere": "/no/such/place",
}

# The chosen texts of drop-downs that have no room: their boxes don't tell, so the letters are measured.
CUT_OFF = """[...document.querySelectorAll('.part select')].filter(e => {
  const style = getComputedStyle(e), pen = document.createElement('canvas').getContext('2d');
  pen.font = style.font;
  const room = e.clientWidth - Number(style.paddingLeft.slice(0, -2)) - Number(style.paddingRight.slice(0, -2));
  return pen.measureText(e.selectedOptions[0].text).width > room + 1;
}).map(e => e.selectedOptions[0].text)"""


@pytest.fixture(scope="module")
def demo() -> Iterator[tuple[Server, dict[str, str]]]:
    """The app with demo data, and the ids of its jobs."""
    with migrated_database() as url:
        server = Server(url, "demo").start()
        vehicles = {
            "Skerry": "planned",
            "Gannet": "finished",
            "Heron": "halfway",
            "Petrel": "active",
            "Avocet": "factory",
            "Dunlin": "grouped",
            "Turnstone": "shelved",
            "the": "alone",
        }
        jobs = {
            vehicles[job["vehicle"].split()[0]]: job["id"]
            for job in httpx2.get(f"{server.url}/api/jobs", timeout=60).json()["jobs"]
            if job["vehicle"].split()[0] in vehicles
        }
        listed = httpx2.get(f"{server.url}/api/sources", timeout=60).json()["sources"]
        jobs["source"] = next(one["id"] for one in listed if one["name"] == "Lanthorn R4")
        jobs["photo"] = httpx2.get(f"{server.url}/api/jobs/{jobs['halfway']}/photos", timeout=60).json()[0]["id"]
        parts = httpx2.get(f"{server.url}/api/parts", timeout=60).json()["parts"]
        jobs["part"] = next(part["id"] for part in parts if part["kind"] == "amplifier")
        yield server, jobs
        server.stop()


def opened(page: Page, demo: tuple[Server, dict[str, str]], screen: str, theme: str) -> list[str]:
    """Opens a screen; gives what the console complained of."""
    server, jobs = demo
    complaints: list[str] = []
    # That the app's worker is kept away here is the test's own doing.
    own = "Service Worker registration blocked"
    page.on(
        "console",
        lambda said: (
            complaints.append(said.text) if said.type in ("error", "warning") and own not in said.text else None
        ),
    )
    page.on("pageerror", lambda error: complaints.append(str(error)))
    page.add_init_script(f"localStorage.setItem('rook.theme', '{theme}')")
    page.goto(server.url + SCREENS[screen].format(**jobs))
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    page.wait_for_load_state("load")
    return complaints


def serious(page: Page, rules: str = "") -> list[str]:
    """Serious violations by axe, of all its rules or of some."""
    page.evaluate(AXE)
    found: dict[str, Any] = page.evaluate(f"axe.run({rules})")
    return [
        f"{violation['id']}: {violation['nodes'][0]['html'][:160]} {violation['nodes'][0]['failureSummary']}"
        for violation in found["violations"]
        if violation["impact"] in ("serious", "critical")
    ]


# What a finger can't meet (44 px) and what an eye can't read (14 px, 12 in drawings), of all that shows.
TOO_SMALL = """() => {
  const shows = e => {
    const fold = e.closest('details'), box = e.getBoundingClientRect();
    if (fold && !fold.open && !e.closest('summary')) return false;
    return box.width > 0 && box.height > 0 && !e.closest('.visually-hidden, .visually-hidden-focusable, .btn-close');
  };
  const called = e => (e.getAttribute('aria-label') || e.textContent || e.className).trim().slice(0, 40);
  const found = [];
  for (const e of document.querySelectorAll('button, a[href], input, select, summary, textarea, [role=button]')) {
    if (!shows(e) || e.disabled) continue;
    const box = (e.matches('.form-check-input') ? e.closest('.form-check') : e).getBoundingClientRect();
    if (Math.min(box.width, box.height) < 43.5) found.push(`${called(e)}: ${box.width}x${box.height}`);
  }
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  while (walker.nextNode()) {
    const e = walker.currentNode.parentElement;
    if (!walker.currentNode.textContent.trim() || !shows(e)) continue;
    const drawn = e.closest('svg'), grid = drawn && e.getScreenCTM ? e.getScreenCTM() : null;
    const size = Number(getComputedStyle(e).fontSize.slice(0, -2)) * (grid ? Math.hypot(grid.a, grid.b) : 1);
    if (size < (drawn ? 11.9 : 13.9)) found.push(`${walker.currentNode.textContent.trim()}: ${size} px`);
  }
  return found;
}"""
# How the control with the focus shows it.
FOCUS = """() => {
  const e = document.activeElement, style = getComputedStyle(e);
  const line = style.outlineStyle !== 'none' && Number(style.outlineWidth.slice(0, -2)) >= 2;
  // A part of a drawing draws its own.
  const drawn = [...e.querySelectorAll('.block, .bar, .ground')].some(
    one => Number(getComputedStyle(one).strokeWidth.slice(0, -2)) >= 3);
  const seen = line || (e.tagName === 'g' && drawn);
  return [e.tagName, seen || e === document.body];
}"""


def begins_at_its_heading_and_is_large_enough(page: Page) -> None:
    expect(page.get_by_role("heading", level=1)).to_be_focused()
    page.wait_for_load_state("networkidle")
    assert page.evaluate(TOO_SMALL) == []
    for _ in range(12):
        page.keyboard.press("Tab")
        tag, seen = page.evaluate(FOCUS)
        assert seen, f"the focus on a {tag} can’t be seen"


@pytest.mark.parametrize("screen", SCREENS)
def test_a_screen_on_a_laptop_begins_well_and_axe_finds_nothing_serious_in_either_theme(
    browser: Browser, demo: tuple[Server, dict[str, str]], screen: str
) -> None:
    # Colours that are still fading have no contrast to measure.
    page = browser.new_context(viewport=LARGE, reduced_motion="reduce", service_workers="block").new_page()  # type: ignore[arg-type]
    complaints = opened(page, demo, screen, "light")
    expect(page.locator("html")).to_have_attribute("data-bs-theme", "light")
    begins_at_its_heading_and_is_large_enough(page)
    assert serious(page) == []
    page.get_by_role("button", name="Dark theme").click()
    expect(page.locator("html")).to_have_attribute("data-bs-theme", "dark")
    # Themes differ in colours alone.
    assert serious(page, "{ runOnly: ['color-contrast', 'link-in-text-block'] }") == []
    assert complaints == []
    page.context.close()


@pytest.mark.parametrize("screen", SCREENS)
def test_a_screen_on_a_phone_begins_well_and_nothing_is_wider(
    browser: Browser, demo: tuple[Server, dict[str, str]], screen: str
) -> None:
    page = browser.new_context(viewport=PHONE, reduced_motion="reduce", service_workers="block").new_page()  # type: ignore[arg-type]
    opened(page, demo, screen, "dark")
    begins_at_its_heading_and_is_large_enough(page)
    assert page.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]
    page.context.close()


def test_axe_on_the_bench_and_the_dialogs(page: Page, demo: tuple[Server, dict[str, str]]) -> None:
    opened(page, demo, "gain", "light")
    page.get_by_label("Show the simulated bench").check()
    expect(page.get_by_role("heading", name="Simulated bench")).to_be_visible()
    assert serious(page) == []
    for key, title in (("?", "Keys"), ("s", "Skip")):
        page.keyboard.press(key)
        expect(page.get_by_role("dialog")).to_contain_text(title)
        assert serious(page) == []
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_be_hidden()


@pytest.mark.parametrize(
    ("screen", "theme"),
    [
        ("system of many", "light"),
        ("system behind a converter", "dark"),
        pytest.param("system of many", "dark", marks=pytest.mark.deep),
        pytest.param("system behind a converter", "light", marks=pytest.mark.deep),
    ],
)
def test_every_part_of_a_system_on_a_phone(
    browser: Browser, demo: tuple[Server, dict[str, str]], screen: str, theme: str
) -> None:
    # Colours that are still fading have no contrast to measure.
    page = browser.new_context(viewport=PHONE, reduced_motion="reduce", service_workers="block").new_page()
    opened(page, demo, screen, theme)
    parts = page.get_by_role("navigation", name="Parts").get_by_role("button")
    expect(parts).to_have_count(7)
    for part in parts.all():
        part.click()
        expect(part).to_have_attribute("aria-pressed", "true")
        assert serious(page) == [], part.inner_text()
        assert page.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]
        assert page.evaluate(CUT_OFF) == []
    page.context.close()


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_the_working_value_reads_at_arms_length(page: Page, demo: tuple[Server, dict[str, str]], theme: str) -> None:
    page.set_viewport_size(LARGE)
    opened(page, demo, "gain", theme)
    value = page.get_by_label("Volts wanted")
    size, colour, ground = value.evaluate(
        "e => [getComputedStyle(e).fontSize, getComputedStyle(e).color,"
        " getComputedStyle(e.closest('.sheet')).backgroundColor]"
    )
    assert float(size.removesuffix("px")) >= 72
    assert contrast(colour, ground) >= 7


def contrast(text: str, other: str) -> float:
    """Contrast ratio of two CSS rgb() colours (WCAG 2.2)."""

    def luminance(colour: str) -> float:
        parts = [int(part) / 255 for part in colour.removeprefix("rgb(").removesuffix(")").split(",")]
        red, green, blue = (p / 12.92 if p <= 0.04045 else ((p + 0.055) / 1.055) ** 2.4 for p in parts)
        return 0.2126 * red + 0.7152 * green + 0.0722 * blue

    high, low = sorted((luminance(text), luminance(other)), reverse=True)
    return (high + 0.05) / (low + 0.05)
