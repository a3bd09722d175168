"""Whole walks by the keyboard alone, every key counted: the figures' own digits among them."""

import math
import re

import httpx2
import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import eventually, run_of
from tests.browser.test_whole_run import Body, Hands, four_paths
from tests.servers import Server

MOST_TO_PLAN = 110
MOST_ON_BENCH = 220
_HAIR_DB = 20 * math.log10(6.0 / 0.2) / 200
"""What a hair of the layouts' gain knobs comes to, and of a trim that reaches 24 dB either way."""
_TRIM_HAIR_DB = 48 / 200
_PER_HAIR = 0.005

_FOCUSED = """() => {
  const e = document.activeElement;
  return (e.getAttribute('aria-label') || e.labels?.[0]?.innerText || e.innerText || '').trim();
}"""


class Keys:
    """Presses keys, and counts every one."""

    def __init__(self, page: Page) -> None:
        self.page, self.pressed = page, 0

    def press(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)
            self.pressed += 1

    def type(self, text: str) -> None:
        self.page.keyboard.type(text)
        self.pressed += len(text)

    def to(self, label: str) -> None:
        """Tab until the field of that label has the focus."""
        for _ in range(30):
            if self.page.evaluate(_FOCUSED) == label:
                return
            self.press("Tab")
        raise AssertionError(f"Tab never reached “{label}”")

    def fill(self, label: str, text: str) -> None:
        self.to(label)
        self.type(text)


def stands(server: Server, job: str) -> Body:
    """The figures of a job's system that were typed, as the server has them."""
    chain = run_of(server, job)["job"]["sheet"]["chain"]
    source = chain["sources"][0]
    parts = {kind: {one["id"]: one for one in chain[kind]} for kind in ("amplifiers", "loads")}
    told: Body = {"top": source["top_volume"], "volts": [output["rated"]["volts"] for output in source["outputs"]]}
    for path in chain["paths"]:
        rating = parts["amplifiers"][path["amplifier"]]["ratings"][0]
        load = parts["loads"][path["load"]]
        told[path["name"]] = (rating["power_w"], rating["load_ohm"], load["impedance_ohm"], load["power_w"])
    return told


def choose_front_rear_sub(page: Page, keys: Keys) -> None:
    """In the new job's form, by keys: the layout of front, rear and sub."""
    keys.to("Layout")
    expect(page.get_by_label("Layout").locator("option")).not_to_have_count(0)
    # Just before the first layout that begins with an s.
    keys.press("s", "ArrowUp")
    expect(page.get_by_label("Layout")).to_have_value("front-rear-sub")
    keys.to("Note")


def test_front_rear_and_sub_from_nothing_to_the_plan(page: Page, server: Server) -> None:
    page.goto(server.url)
    expect(page.get_by_role("heading", level=1)).to_be_focused()
    keys = Keys(page)
    keys.press("n")
    keys.type("Plover")
    choose_front_rear_sub(page, keys)
    keys.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("System")
    expect(page.get_by_role("heading", level=1)).to_be_focused()
    expect(page.get_by_label("Volume scale ends at")).to_be_visible()
    job = page.url.split("/")[-2]

    keys.press("Alt+Shift+Digit2")
    keys.fill("Volume scale ends at", "35")
    keys.press("Alt+Shift+Digit4")
    keys.fill("Watts", "90")
    keys.fill("into", "4")
    # The same field of the next path, and back to the watts.
    keys.press("Alt+2")
    expect(page.get_by_label("into", exact=True).first).to_be_focused()
    keys.type("4")
    keys.press("Shift+Tab")
    keys.type("80")
    keys.press("Alt+3")
    keys.type("400")
    keys.fill("into", "2")
    keys.press("Alt+Shift+Digit5")
    ohms = page.get_by_label(re.compile("^Impedance of one"))
    keys.fill("Impedance of one", "2")
    keys.press("Tab")
    keys.type("350")
    keys.press("Alt+1")
    keys.type("70")
    keys.press("Shift+Tab")
    expect(ohms).to_be_focused()
    keys.type("4")
    keys.press("Alt+2")
    keys.type("4")
    keys.press("Tab")
    keys.type("65")
    wanted = {"top": 35, "Front": (90, 4, 4, 70), "Rear": (80, 4, 4, 65), "Sub": (400, 2, 2, 350)}
    eventually(lambda: {name: one for name, one in stands(server, job).items() if name != "volts"}, wanted)
    keys.press("Control+Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Plan")
    assert keys.pressed <= MOST_TO_PLAN


class BenchHands(Keys):
    """Works a run on the simulated bench by the keyboard alone."""

    def __init__(self, page: Page, server: Server, job: str) -> None:
        super().__init__(page)
        self.server, self.job = server, job
        self.how = page.locator(".how")

    def step(self) -> Body:
        """The step that is open, as the server has it."""
        key = self.page.url.rpartition("/")[2]
        return next(step for step in run_of(self.server, self.job)["run"]["steps"] if step["key"] == key)

    def settle(self) -> None:
        """Waits until the bench has all that was turned, and the meter has read it."""
        before = None
        while (now := httpx2.get(f"{self.server.url}/api/jobs/{self.job}/bench").json()["state"]) != before:
            before = now
            self.page.wait_for_timeout(150)
        self.page.wait_for_timeout(800)

    def told(self) -> tuple[float, str]:
        """How many dB off it is and to which side, once what was turned last shows; 0 within the band."""
        self.settle()
        expect(self.how).to_have_text(re.compile("below|above|In range"))
        text = self.how.inner_text()
        found = re.search(r"([\d.]+) dB\) (below|above)", text)
        return (float(found[1]), found[2]) if found else (0.0, "inside")

    def turn(self, hairs: int) -> None:
        """Turns the knob at hand by so many hairs, far ones first."""
        far = round(hairs / 10)
        near = hairs - 10 * far
        self.hold("F" if far > 0 else "D", abs(far))
        self.press(*["f" if near > 0 else "d"] * abs(near))

    def hold(self, key: str, times: int) -> None:
        """Holds a key with Shift until it has acted so often: one press."""
        self.page.keyboard.down("Shift")
        for _ in range(times):
            self.page.keyboard.down(key)
        self.page.keyboard.up(key)
        self.page.keyboard.up("Shift")
        self.pressed += times > 0

    def until_it_fits(self, more: int) -> None:
        """Hair by hair until the volts are in the band; `more` is the way that makes more of them."""
        for _ in range(12):
            _, side = self.told()
            if side == "inside":
                return
            self.turn(more if side == "below" else -more)
        raise AssertionError(f"It never came into the band: {self.how.inner_text()}")

    def taken(self, key: str = "Enter") -> None:
        """Takes the reading, and waits until it is kept."""
        before = len(run_of(self.server, self.job)["readings"])
        self.press(key)
        eventually(lambda: len(run_of(self.server, self.job)["readings"]), before + 1)

    def work(self) -> None:
        """The step that is open, as a person with the bench at hand would."""
        step = self.step()
        match step["kind"]:
            case "checklist":
                self.press(*["Enter"] * len(step["items"]))
            case "knob_positions":
                self.press("Enter")
                self.page.keyboard.type("half past ten")
                self.press(*["Enter"] * len(step["items"]))
            case "volume_steps":
                self.volume_steps()
            case "gain":
                self.press("w")
                off, _ = self.told()
                self.turn(round(off / _HAIR_DB))
                self.until_it_fits(+1)
                self.taken()
            case "corner":
                self.corner(step)
            case "blend":
                # By ear, and typed.
                self.page.keyboard.type("2")
                self.taken()
            case "match":
                self.press("w")
                self.told()
                self.taken()
            case _:
                self.rows(step)
        here = self.page.get_by_role("navigation", name="Steps of the run").locator("[aria-current=step]")
        expect(here).to_contain_text("done")

    def volume_steps(self) -> None:
        self.press("w")
        for _ in range(40):
            self.settle()
            flat = self.clipped()
            self.taken("x" if flat else "c")
            if flat:
                break
        expect(self.page.get_by_text(re.compile(r"is the clean maximum. Save it."))).to_be_visible()
        self.press("t")

    def clipped(self) -> bool:
        """Whether the wave on the bench has a flat top, as an eye would see."""
        bench = httpx2.get(f"{self.server.url}/api/jobs/{self.job}/bench").json()
        height = max(abs(volt) for volt in bench["volts"])
        return sum(abs(volt) > 0.999 * height for volt in bench["volts"]) > 0.05 * len(bench["volts"])

    def corner(self, step: Body) -> None:
        self.press("w")
        self.told_something()
        self.taken()
        # With the filter in: by its scale first, as one would, then by the volts.
        self.press("w")
        bench = httpx2.get(f"{self.server.url}/api/jobs/{self.job}/bench").json()
        dial = next(dial for dial in bench["dials"] if dial["step"] == step["key"])
        wanted = step["rows"][1]["wants"]["tone"]["frequency_hz"]
        place = math.log(wanted / dial["lowest_hz"]) / math.log(dial["highest_hz"] / dial["lowest_hz"])
        high = dial["name"] == "high-pass"
        self.turn(round((place if high else place - 1) / _PER_HAIR))
        self.until_it_fits(-1 if high else +1)
        self.taken()

    def told_something(self) -> None:
        self.settle()
        expect(self.page.get_by_label("Volts now")).not_to_contain_text("–")

    def rows(self, step: Body) -> None:
        for row in step["rows"]:
            if row["optional"]:
                continue
            expect(self.page.locator(".row-button.here .name")).to_have_text(row["name"])
            self.press("w")
            self.told_something()
            if step["kind"] == "converter":
                off, side = self.told()
                if side != "inside":
                    self.turn(round(off / _TRIM_HAIR_DB) * (1 if side == "below" else -1))
                    self.until_it_fits(+1)
            self.taken()


@pytest.mark.deep
def test_a_run_of_four_paths_on_the_bench(page: Page, server: Server) -> None:
    # Always the same specimens: what is counted must not hang on their dice.
    job = "5d0f3c1e-6f5b-4a53-9a0e-7c1d2b3a4f50"
    httpx2.post(f"{server.url}/api/jobs", json={"id": job, "vehicle": "Four paths on the bench"})
    four_paths(server, job)
    page.goto(f"{server.url}/jobs/{job}/run")
    expect(page.get_by_role("heading", level=1)).to_be_focused()
    hands = BenchHands(page, server, job)
    hands.press("v")
    spent = {}
    for number, step in enumerate(run_of(server, job)["run"]["steps"]):
        if number:
            hands.press("ArrowRight")
        expect(page).to_have_url(re.compile(re.escape(f"/run/{step['key']}") + "$"))
        before = hands.pressed
        hands.work()
        spent[step["key"]] = hands.pressed - before
    assert hands.pressed <= MOST_ON_BENCH, spent
    page.goto(f"{server.url}/jobs/{job}/result")
    expect(page.get_by_text("Every step is done")).to_be_visible()


class Expert(Keys):
    """Types a system and works its run with a typed meter; digits are told apart from all other keys."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.digits = 0

    def type(self, text: str) -> None:
        super().type(text)
        self.digits += sum(other.isdigit() for other in text)

    def figures(self, watts: str, takes: str, ohms: str = "4") -> None:
        """The amplifier and the speakers of the path that is chosen."""
        self.press("Alt+Shift+Digit4")
        self.fill("Watts", watts)
        self.fill("into", ohms)
        self.press("Alt+Shift+Digit5")
        self.fill("Impedance of one", ohms)
        self.fill("Rated power of one", takes)

    def add_path(self, name: str) -> None:
        """One more path, beside the chosen one, whose figures it begins with."""
        self.back_to("Add a path")
        self.press("Enter", "Alt+Shift+Digit5")
        self.fill("Name of the path", name)

    def back_to(self, name: str) -> None:
        """Shift and Tab until what is called so has the focus."""
        for _ in range(40):
            if self.page.evaluate(_FOCUSED).startswith(name):
                return
            self.press("Shift+Tab")
        raise AssertionError(f"Shift and Tab never reached “{name}”")


@pytest.mark.parametrize(("layout", "most"), [(True, 180), pytest.param(False, 330, marks=pytest.mark.deep)])
def test_an_expert_goes_from_an_empty_list_to_a_sealed_job(
    page: Page, own_server: Server, *, layout: bool, most: int
) -> None:
    page.goto(own_server.url)
    expect(page.get_by_role("heading", level=1)).to_be_focused()
    keys = Expert(page)
    keys.press("n")
    keys.type("Tern")
    if layout:
        choose_front_rear_sub(page, keys)
    keys.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("System")
    expect(page.get_by_label("Volume scale ends at")).to_be_visible()
    job = page.url.split("/jobs/")[1].split("/")[0]
    keys.figures("90", "70")
    if not layout:
        keys.add_path("Rear")
        keys.figures("80", "65")
        keys.add_path("Sub")
        keys.figures("400", "350", "2")
    keys.add_path("Doors")
    keys.figures("75", "60")
    eventually(lambda: [stand for stand in stands(own_server, job) if stand not in ("top", "volts")][-1], "Doors")
    keys.press("Control+Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Plan")
    to_plan = (keys.pressed, keys.digits)
    keys.to("To the run")
    keys.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Make it safe")
    hands = Hands(page, own_server, job)
    for number, step in enumerate(run_of(own_server, job)["run"]["steps"]):
        if number:
            hands.press("ArrowRight")
        expect(page).to_have_url(re.compile(re.escape(f"/run/{step['key']}") + "$"))
        hands.work()
    hands.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Result")
    expect(page.get_by_text("Every step is done")).to_be_visible()
    assert keys.pressed - keys.digits + hands.keys <= most, to_plan
