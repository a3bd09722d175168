"""A second host with its own address: it pairs, works a whole run, loses the network for a minute and comes back."""

import os
import re
import shutil
import subprocess
import sys
import time
from collections.abc import Iterator
from typing import NamedTuple
from uuid import uuid4

import pytest
from playwright.sync_api import Browser, BrowserType, Page, expect

from tests.browser.conftest import LARGE, PHONE, run_of
from tests.browser.test_whole_run import Hands, four_paths
from tests.browser.workshop import Lan, code_for_a_device, come_in, device, let_in, on_the_lan
from tests.chromium import CHROMIUM, QUIET
from tests.servers import Server

LOST_S = 60
_LOOK_UP = """
import sys
from zeroconf import AddressResolverIPv4, Zeroconf
radio, name = Zeroconf(), AddressResolverIPv4(sys.argv[1])
assert name.request(radio, 10_000)
print(*name.parsed_addresses())
radio.close()
"""


class Host(NamedTuple):
    """A network namespace, joined to this machine by one wire."""

    name: str
    wire: str
    here: str
    """This machine's address on it."""

    def cut(self) -> None:
        """Pulls the wire."""
        _ip("link", "set", self.wire, "down")

    def correct(self) -> None:
        """Plugs it in again."""
        _ip("link", "set", self.wire, "up")


def _ip(*words: str) -> None:
    subprocess.run(["/usr/sbin/ip", *words], check=True, capture_output=True)


@pytest.fixture(scope="module")
def host() -> Iterator[Host]:
    """The second host."""
    tag, third = uuid4().hex[:6], os.getpid() % 250
    host = Host(f"rook{tag}", f"rk{tag}a", f"10.77.{third}.1")
    _ip("netns", "add", host.name)
    try:
        far = f"rk{tag}b"
        _ip("link", "add", host.wire, "type", "veth", "peer", "name", far)
        _ip("link", "set", far, "netns", host.name)
        _ip("addr", "add", f"{host.here}/24", "dev", host.wire)
        _ip("-n", host.name, "addr", "add", f"10.77.{third}.2/24", "dev", far)
        for words in (("-n", host.name, "link", "set", "lo"), ("-n", host.name, "link", "set", far)):
            _ip(*words, "up")
        host.correct()
        yield host
    finally:
        _ip("netns", "del", host.name)


@pytest.fixture(scope="module")
def far_browser(host: Host, browser_type: BrowserType, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Browser]:
    """A browser on the second host."""
    wrapper = tmp_path_factory.mktemp("far") / "chromium"
    wrapper.write_text(f'#!/bin/sh\nexec /usr/sbin/ip netns exec {host.name} {CHROMIUM} "$@"\n', "utf-8")
    wrapper.chmod(0o755)
    browser = browser_type.launch(executable_path=wrapper, args=list(QUIET))
    yield browser
    browser.close()


@pytest.fixture(scope="module")
def lan(host: Host, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Lan]:
    """The app, started once the wire was there."""
    with on_the_lan(tmp_path_factory.mktemp("lan"), "--name", host.name) as lan:
        yield lan


@pytest.mark.deep
@pytest.mark.skipif(
    os.geteuid() != 0 or not shutil.which("ip", path="/usr/sbin"), reason="only root makes network namespaces"
)
def test_a_whole_run_on_a_second_host_that_loses_the_network_for_a_minute(
    host: Host, lan: Lan, browser: Browser, far_browser: Browser
) -> None:
    # Two browsers, two processes and a database on one machine: a busy one takes its time.
    expect.set_options(timeout=60_000)
    # The name that was asked for is answered there (multicast DNS).
    asked = (sys.executable, "-c", _LOOK_UP, f"{host.name}.local.")
    found = subprocess.run(
        ["/usr/sbin/ip", "netns", "exec", host.name, *asked], check=True, capture_output=True, text=True
    )
    assert host.here in found.stdout.split()
    owner = device(browser, LARGE).new_page()
    come_in(owner, lan, lan.link, "Mara")
    far = lan._replace(url=lan.url.replace("localhost", host.here))
    page = device(far_browser, LARGE).new_page()
    # Paired by the code, then in by a link.
    page.goto(f"{far.url}/come-in#{code_for_a_device(owner, lan)}")
    page.get_by_label("This device", exact=True).fill("tablet, bay 2")
    page.get_by_role("button", name="Add this device").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Sign in")
    come_in(page, far, let_in(owner, lan, "fitter"), "Sif")
    looker = device(browser, PHONE).new_page()
    come_in(looker, lan, let_in(owner, lan, "looker_on"), "Ivo")
    # What the server has is looked at through another process on the same database, that nobody else asks.
    window = Server(lan.database).start()
    try:
        _work(page, looker, far, window, host)
    finally:
        window.stop()


def _work(page: Page, looker: Page, far: Lan, window: Server, host: Host) -> None:
    job = str(uuid4())
    made = page.request.post(f"{far.url}/api/jobs", data={"id": job, "vehicle": "Dory"}, headers={"origin": far.url})
    assert made.status == 201
    four_paths(window, job)
    page.goto(f"{far.url}/jobs/{job}/run")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Make it safe")
    looker.goto(f"{far.url.replace(host.here, 'localhost')}/jobs/{job}/run")
    expect(looker.get_by_text("Sif, tablet, bay 2 holds this run")).to_be_visible()
    hands = Hands(page, window, job)
    steps = run_of(window, job)["run"]["steps"]
    for number, step in enumerate(steps):
        if number:
            hands.press("ArrowRight")
        expect(page).to_have_url(re.compile(re.escape(f"/run/{step['key']}") + "$"))
        if step["kind"] == "volume_steps":
            _without_the_network(hands, host)
        else:
            hands.work()
    expect(looker).to_have_url(re.compile(re.escape(f"/run/{steps[-1]['key']}") + "$"))
    page.goto(f"{far.url}/jobs/{job}/result")
    expect(page.get_by_text("Every step is done")).to_be_visible()
    expect(page.get_by_text("Never pass 30: the clean maximum, seen clean")).to_be_visible()
    kept = run_of(window, job)["readings"]
    assert {one["by"] for one in kept} == {"Sif"}
    # Nothing lost, nothing twice.
    volume_steps = [(one["circumstances"]["volume"], one["value"]) for one in kept if "ceiling" in one["step"]]
    assert sorted(volume_steps) == [(29, 3.3), (30, 3.7), (31, 4.0)]
    places = [(one["step"], one["circumstances"]["row"], one["circumstances"]["volume"]) for one in kept]
    assert len(places) == len(set(places))


def _without_the_network(hands: Hands, host: Host) -> None:
    """Volume steps, whose readings are taken while the wire is out."""
    page, before = hands.page, len(run_of(hands.server, hands.job)["readings"])
    hands.press(*["ArrowUp"] * 9)
    host.cut()
    gone = time.monotonic()
    hands.read(3.3, "c")
    hands.read(3.7, "c")
    expect(page.get_by_text("waiting to be sent", exact=True)).to_have_count(2)
    time.sleep(max(0.0, gone + LOST_S - time.monotonic()))
    assert len(run_of(hands.server, hands.job)["readings"]) == before
    host.correct()
    for _ in range(600):
        if len(run_of(hands.server, hands.job)["readings"]) == before + 2:
            break
        time.sleep(0.1)
    hands.read(4.0, "x")
    expect(page.get_by_text("30 is the clean maximum. Save it.")).to_be_visible(timeout=30_000)
    hands.press("t")
    hands.done()
