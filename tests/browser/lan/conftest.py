"""A workshop's network, and its owner at the machine."""

from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page

from tests.browser.conftest import LARGE
from tests.browser.workshop import Lan, come_in, device, on_the_lan


@pytest.fixture(scope="session")
def lan(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Lan]:
    """`serve --lan` as a process of its own, with data of its own."""
    with on_the_lan(tmp_path_factory.mktemp("lan")) as lan:
        yield lan


@pytest.fixture(scope="session")
def owner(browser: Browser, lan: Lan) -> Iterator[Page]:
    """The owner at the machine, who came in by the link that was printed."""
    context = device(browser, LARGE)
    page = context.new_page()
    come_in(page, lan, lan.link, "Mara")
    yield page
    context.close()
