"""A workshop on its network: the app as `serve --lan`, its devices and people."""

import os
import re
import ssl
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple
from uuid import uuid4

from playwright.sync_api import Browser, BrowserContext, Page, expect

from tests.browser.conftest import choose, press, speakers_off_mark, tab_to, window
from tests.conftest import migrated_database
from tests.forked import Forked
from tests.servers import free_port

WORDS = "a few words of one’s own"


class Lan(NamedTuple):
    """An app on the network, and what it printed."""

    url: str
    link: str
    data: Path
    database: str

    def trusting(self) -> ssl.SSLContext:
        """A device that took the workshop's authority."""
        return ssl.create_default_context(cafile=str(self.data / "doors/authority.pem"))


@contextmanager
def on_the_lan(data: Path, *words: str) -> Iterator[Lan]:
    """`serve --lan` as a process of its own, with further words."""
    port = free_port()
    with migrated_database() as database:
        environment = os.environ | {"DATABASE_URL": database, "ROOK_DATA": str(data)}
        process = Forked(("serve", "--lan", "--port", str(port), *words), environment)
        told = process.printed(until="Ctrl-C")
        link = re.search(r"/come-in#(\S+)", told)
        assert link, told
        yield Lan(f"https://localhost:{port}", link[1], data, database)
        process.end()


def device(browser: Browser, size: dict[str, int]) -> BrowserContext:
    """A browser that was told to take the authority; that real ones check it is tested without a browser."""
    return window(browser, viewport=size, ignore_https_errors=True)  # type: ignore[arg-type]


def come_in(page: Page, lan: Lan, link: str, name: str) -> None:
    page.goto(f"{lan.url}/come-in#{link}")
    expect(page.get_by_label("Your name")).to_be_visible()
    tab_to(page, "Your name")
    page.keyboard.type(name)
    tab_to(page, "A password")
    page.keyboard.type(WORDS)
    # Nobody guesses who uses the device that the owner comes in on.
    if page.get_by_label("Used by").count() and not page.get_by_label("Used by").input_value():
        expect(page.get_by_role("button", name="Create the owner")).to_be_disabled()
        choose(page, "Used by", "one", "one")
        tab_to(page, "Create the owner’s account")
    press(page, "Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Jobs")


def sign_in(page: Page, name: str) -> None:
    expect(page.get_by_role("heading", level=1)).to_have_text("Sign in")
    page.get_by_label("Name", exact=True).fill(name)
    page.get_by_label("Password", exact=True).fill(WORDS)
    page.get_by_role("button", name="Sign in", exact=True).click()


def _proven(owner: Page, lan: Lan) -> None:
    """The owner typed the password just now: other tests may have been at work for minutes."""
    headers = {"origin": lan.url}
    assert owner.request.post(f"{lan.url}/api/doors/prove", data={"password": WORDS}, headers=headers).ok


def let_in(owner: Page, lan: Lan, role: str) -> str:
    """A link for somebody new."""
    _proven(owner, lan)
    owner.goto(f"{lan.url}/people")
    owner.get_by_label("Somebody new, as").select_option(role)
    owner.get_by_role("button", name="Make a link").click()
    link = owner.locator("code.link")
    expect(link).to_contain_text("/come-in#")
    return link.inner_text().partition("#")[2]


def code_for_a_device(owner: Page, lan: Lan) -> str:
    """The link that a code for a device holds."""
    _proven(owner, lan)
    owner.goto(f"{lan.url}/people")
    owner.get_by_role("button", name="Show a code for a device").click()
    expect(owner.get_by_alt_text("Code Lets a device in")).to_be_visible()
    return owner.locator("code.link").inner_text().partition("#")[2]


def speakers_off_here(page: Page, lan: Lan, job: str) -> None:
    """The speakers are off, by whoever is signed in on the page."""
    at = f"{lan.url}/api/jobs/{job}"
    mark = speakers_off_mark(page.request.get(f"{at}/run").json())
    assert page.request.post(f"{at}/marks", data=mark, headers={"origin": lan.url}).status == 201


def a_job(page: Page, lan: Lan) -> str:
    """A new job of whoever is signed in on the page."""
    job = str(uuid4())
    made = page.request.post(f"{lan.url}/api/jobs", data={"id": job, "vehicle": "Dory"}, headers={"origin": lan.url})
    assert made.status == 201
    return job
