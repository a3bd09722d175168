"""One run on several devices of the workshop: held, followed, offered, handed over, and shown with its tones."""

import json
import re
import time
from uuid import uuid4

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import LARGE, PHONE, press
from tests.browser.workshop import Lan, a_job, come_in, device, let_in, speakers_off_here


def test_one_run_on_two_devices_is_held_followed_offered_and_handed_over(
    browser: Browser, lan: Lan, owner: Page
) -> None:
    laptop = device(browser, LARGE)
    fitter = laptop.new_page()
    come_in(fitter, lan, let_in(owner, lan, "fitter"), "Sif")
    phone = device(browser, PHONE)
    helper = phone.new_page()
    come_in(helper, lan, let_in(owner, lan, "apprentice"), "Jon")
    job = a_job(fitter, lan)
    at = f"{lan.url}/jobs/{job}/run"

    def readings() -> list[tuple[float, str]]:
        told = json.loads(owner.request.get(f"{lan.url}/api/jobs/{job}/run").text())
        return [(reading["value"], reading["by"]) for reading in told["readings"]]

    speakers_off_here(fitter, lan, job)
    fitter.goto(f"{at}/ceiling.source.line")
    expect(fitter.get_by_label("Volts at 20")).to_be_visible()
    helper.goto(f"{at}/safe")
    # Who looks on goes along.
    expect(helper.get_by_text("holds this run")).to_be_visible()
    expect(helper.get_by_label("Volts at 20")).to_be_visible()
    # Without the network what is read there waits, and is offered once it is back.
    phone.set_offline(True)
    helper.get_by_label("Volts at 20").fill("1.5")
    press(helper, "c")
    expect(helper.get_by_text("waiting to be sent")).to_be_visible()
    phone.set_offline(False)
    offered = fitter.get_by_text("Jon, computer read")
    expect(offered).to_be_visible(timeout=20_000)
    assert readings() == []
    fitter.get_by_role("button", name="Save it", exact=True).click()
    expect(offered).to_be_hidden()
    assert readings() == [(1.5, "Jon")]
    press(helper, "o")
    expect(fitter.get_by_text("requests this run")).to_be_visible()
    fitter.get_by_role("heading", level=1).focus()
    press(fitter, "o")
    expect(helper.get_by_text("You hold this run.")).to_be_visible()
    expect(fitter.get_by_text("Jon, computer")).to_be_visible()
    helper.get_by_label("Volts at 21").fill("1.58")
    press(helper, "c")
    for _ in range(50):
        if len(readings()) == 2:
            break
        time.sleep(0.2)
    assert readings() == [(1.5, "Jon"), (1.58, "Jon")]
    assert helper.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]
    # An apprentice doesn't sign off, a fitter does.
    helper.goto(f"{lan.url}/jobs/{job}/result")
    expect(helper.get_by_text("A fitter or the owner signs it off.")).to_be_visible()
    fitter.goto(f"{lan.url}/jobs/{job}/result")
    fitter.get_by_role("button", name="Sign it off").click()
    fitter.get_by_role("button", name="Sign off this job as it is").click()
    expect(fitter.get_by_text(re.compile("Signed off.*by Sif"))).to_be_visible()
    laptop.close()
    phone.close()


# What a page begins to sound: hertz by its rising zeros, peak, whether it goes round.
SOUNDED = """(() => {
  window.sounded = [];
  window.stopped = 0;
  const { start } = AudioBufferSourceNode.prototype, { stop } = AudioScheduledSourceNode.prototype;
  AudioBufferSourceNode.prototype.start = function (...when) {
    const wave = this.buffer.getChannelData(0);
    let rises = 0, peak = 0;
    for (let at = 1; at < wave.length; at++) {
      if (wave[at - 1] < 0 && wave[at] >= 0) rises++;
      peak = Math.max(peak, Math.abs(wave[at]));
    }
    window.sounded.push([rises / this.buffer.duration, peak, this.loop]);
    return start.apply(this, when);
  };
  AudioScheduledSourceNode.prototype.stop = function (...when) {
    window.stopped += 1;
    return stop.apply(this, when);
  };
})()"""


SEEN = """state => {
  Object.defineProperty(document, 'visibilityState', { get: () => state, configurable: true });
  document.dispatchEvent(new Event('visibilitychange'));
}"""


def test_a_display_goes_along_and_plays_the_tones_until_the_connection_goes(
    browser: Browser, lan: Lan, owner: Page
) -> None:
    laptop, phone = device(browser, LARGE), device(browser, PHONE)
    fitter, player = laptop.new_page(), phone.new_page()
    player.add_init_script(SOUNDED)
    come_in(fitter, lan, let_in(owner, lan, "fitter"), "Eir")
    come_in(player, lan, let_in(owner, lan, "looker_on"), "Una")
    job = str(uuid4())
    body = {"id": job, "vehicle": "Dory", "layout": "front-rear-sub"}
    made = fitter.request.post(f"{lan.url}/api/jobs", data=body, headers={"origin": lan.url})
    assert made.status == 201
    steps = json.loads(fitter.request.get(f"{lan.url}/api/jobs/{job}/run").text())["run"]["steps"]
    tones = {step["key"]: step["wants"]["tone"] for step in steps if step["wants"] and not step["rows"]}
    volume_steps = next(step for step in steps if step["kind"] == "volume_steps")
    fitter.goto(f"{lan.url}/jobs/{job}/run/{volume_steps['key']}")
    expect(fitter.get_by_label(re.compile("^Volts at "))).to_be_visible()
    player.goto(f"{lan.url}/jobs/{job}/display")
    heading = player.get_by_role("heading", level=1)
    expect(heading).to_have_text(volume_steps["title"])
    expect(player.get_by_text(re.compile("follows Eir"))).to_be_visible()
    assert player.evaluate("window.sounded") == []
    player.get_by_role("button", name="Play the tones here").press("Enter")
    for sounding, key in enumerate((volume_steps["key"], "gain.sub"), 1):
        fitter.goto(f"{lan.url}/jobs/{job}/run/{key}")
        player.wait_for_function("count => window.sounded.length >= count", arg=sounding)
        expect(player.get_by_text("♪ Playing")).to_be_visible()
        hertz, peak, round_and_round = player.evaluate("window.sounded.at(-1)")
        assert hertz == pytest.approx(tones[key]["frequency_hz"], abs=0.2)
        assert peak == pytest.approx(10 ** (tones[key]["level_dbfs"] / 20), rel=1e-3)
        assert round_and_round
    assert tones["gain.sub"]["frequency_hz"] != tones[volume_steps["key"]]["frequency_hz"]
    # Where a step plays nothing it is silent by itself.
    fitter.goto(f"{lan.url}/jobs/{job}/run/seal")
    expect(player.get_by_text("No tone at this step.")).to_be_visible()
    assert player.evaluate("[window.sounded.length, window.stopped]") == [2, 2]
    # Of several readings it plays the tone of the one that is being read.
    several = next(step for step in steps if step["kind"] == "prove")
    first, second = several["rows"][:2]
    assert first["wants"]["tone"] != second["wants"]["tone"]
    fitter.goto(f"{lan.url}/jobs/{job}/run/{several['key']}")
    player.wait_for_function("() => window.sounded.length === 3")
    assert player.evaluate("window.sounded.at(-1)[0]") == pytest.approx(first["wants"]["tone"]["frequency_hz"], abs=0.2)
    fitter.keyboard.press("ArrowDown")
    expect(player.get_by_text(f"♪ Playing: {second['play']}")).to_be_visible()
    assert player.evaluate("[window.sounded.length, window.stopped]") == [4, 3]
    # Behind another page it isn't told how the run goes on.
    player.evaluate(SEEN, "hidden")
    expect(player.get_by_role("alert")).to_contain_text("this page has to stay in sight")
    assert player.evaluate("window.stopped") == 4
    player.evaluate(SEEN, "visible")
    player.get_by_role("button", name="Play the tones here").press("Enter")
    player.wait_for_function("() => window.sounded.length === 5")
    assert player.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]
    phone.set_offline(True)
    expect(player.get_by_role("alert")).to_have_text("Stopped: no connection: the run’s tone isn’t known.")
    assert player.evaluate("window.stopped") == 5
    phone.set_offline(False)
    # It begins again by a press only.
    expect(player.get_by_role("button", name="Play the tones here")).to_be_visible()
    for context in (laptop, phone):
        context.close()
