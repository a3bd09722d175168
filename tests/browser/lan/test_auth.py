"""The workshop's network for real: TLS by its own authority, a first owner, others let in and out, and what waits."""

import json
import re
import subprocess
import time
from base64 import b64encode
from hashlib import sha256
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx2
import psycopg
import pytest
from cryptography import x509
from cryptography.hazmat.primitives.serialization import Encoding, PublicFormat
from playwright.sync_api import Browser, BrowserType, Page, expect

from tests.browser.conftest import LARGE, PHONE, SIZES, press, tab_to
from tests.browser.workshop import (
    WORDS,
    Lan,
    a_job,
    code_for_a_device,
    come_in,
    device,
    let_in,
    sign_in,
    speakers_off_here,
)
from tests.forked import run
from upper_rook.store.certificates import own_names


def test_only_who_trusts_the_workshop_reaches_it_and_only_over_tls(lan: Lan, owner: Page) -> None:
    assert httpx2.get(f"{lan.url}/api/health", verify=lan.trusting()).status_code == 200
    with pytest.raises(httpx2.ConnectError, match="CERTIFICATE_VERIFY_FAILED"):
        httpx2.get(f"{lan.url}/api/health")
    # In plain HTTP nothing of the app is answered, but why a device will warn and what to compare.
    plain = httpx2.get(lan.url.replace("https", "http") + "/api/health").text
    assert "installation" not in plain
    assert "SHA-256 fingerprint" in plain
    shown = owner.context.new_page()
    shown.goto(lan.url.replace("https", "http"))
    shown.get_by_role("link", name="Open Upper Rook").click()
    expect(shown.get_by_role("heading", level=1)).to_have_text("Jobs")
    shown.close()
    assert httpx2.get(f"{lan.url}/api/jobs", verify=lan.trusting()).status_code == 401
    # On the machine's own addresses as well, by the same certificate.
    for address in (name for name in own_names() if name.replace(".", "").isdigit()):
        at = lan.url.replace("localhost", address)
        assert httpx2.get(f"{at}/api/health", verify=lan.trusting()).status_code == 200
    # The link is used up, and stands in no log.
    body = {"link": lan.link, "name": "Ivo", "password": WORDS}
    assert httpx2.post(f"{lan.url}/api/doors/come-in", json=body, verify=lan.trusting()).status_code == 401
    logs = "".join(file.read_text("utf-8") for file in (lan.data / "logs").rglob("*") if file.is_file())
    assert lan.link not in logs
    assert WORDS not in logs
    expect(owner.get_by_role("link", name="Mara")).to_be_visible()


def test_a_looker_on_with_a_phone_sees_and_changes_nothing_until_let_go(
    browser: Browser, lan: Lan, owner: Page
) -> None:
    context = device(browser, PHONE)
    phone = context.new_page()
    come_in(phone, lan, let_in(owner, lan, "looker_on"), "Ivo")
    # The owner is told of it, wherever they are signed in, until it was seen.
    owner.goto(lan.url)
    told = owner.get_by_role("complementary", name="Notices")
    expect(told).to_contain_text("Ivo came in on")
    told.get_by_role("button", name="I know of them").press("Enter")
    expect(owner.get_by_text("New ways in")).to_have_count(0)
    phone.get_by_role("button", name="New job", exact=True).click()
    phone.get_by_label("Vehicle", exact=True).fill("Dory")
    phone.get_by_role("button", name="Create").click()
    expect(phone.get_by_role("alert")).to_have_text("That is not yours to do here: ask the owner.")
    phone.goto(f"{lan.url}/people")
    expect(phone.get_by_text(re.compile("^Looker-on, signed in on"))).to_be_visible()
    expect(phone.get_by_role("button", name="Make a link")).to_have_count(0)
    assert phone.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]
    owner.goto(f"{lan.url}/people")
    owner.get_by_role("button", name="Let Ivo go").click()
    owner.get_by_role("button", name="Remove, keep the name").click()
    expect(owner.get_by_text("Ivo is signed out everywhere")).to_be_visible()
    # Also where no other answer arrives: the refusal of a list may come before the page listens for it.
    phone.route(re.compile("/api/(?!doors?$)"), lambda route: route.abort())
    phone.goto(lan.url)
    expect(phone.get_by_role("heading", level=1)).to_have_text("Sign in")
    phone.unroute_all()
    # What stood on the device is gone with the session.
    sign_in(phone, "Ivo")
    expect(phone.get_by_role("alert")).to_have_text("Name or password is wrong.")
    context.close()


HEARD = """watched => new Promise(done => {
  const heard = [], stream = new EventSource('/api/live?' + watched.map(one => 'watch=' + one).join('&'));
  window.heard = heard;
  stream.addEventListener('beat', () => done());
  stream.addEventListener('changed', event => heard.push(JSON.parse(event.data).job));
})"""


@SIZES
def test_a_learner_practises_and_sees_no_customers_vehicle(
    browser: Browser, lan: Lan, owner: Page, size: dict[str, int]
) -> None:
    name = f"Svala {size['width']}"
    real, given = (str(uuid4()) for _ in range(2))
    headers = {"origin": lan.url}
    for job, vehicle, practice in ((real, "Somebody’s own", False), (given, f"For {name}", True)):
        body = {"id": job, "vehicle": vehicle, "practice": practice}
        assert owner.request.post(f"{lan.url}/api/jobs", data=body, headers=headers).status == 201
    context = device(browser, size)
    page = context.new_page()
    come_in(page, lan, let_in(owner, lan, "learner"), name)
    expect(page.get_by_role("link", name=f"For {name}")).to_be_visible()
    expect(page.get_by_text("Somebody’s own")).to_have_count(0)
    expect(page.get_by_role("link", name="Sources")).to_have_count(0)
    # A job of their own, by the keyboard, from nothing to a reading.
    press(page, "n")
    page.keyboard.type("Bench one")
    press(page, "Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("System")
    expect(page).to_have_title(re.compile("Practice: Bench one"))
    own = page.url.split("/jobs/")[1].split("/")[0]
    speakers_off_here(page, lan, own)
    page.goto(f"{lan.url}/jobs/{own}/run/ceiling.source.line")
    expect(page.get_by_label("Volts at 20")).to_be_visible()
    # What the page had kept of the job doesn't know that the speakers are off.
    expect(page.get_by_role("button", name="Measure anyway")).to_have_count(0)
    page.keyboard.type("1.5")
    press(page, "c")
    expect(page.get_by_text(re.compile("1.5 V")).first).to_be_visible()
    page.goto(f"{lan.url}/jobs/{own}/result")
    expect(page.get_by_text("Practice job: it cannot be signed off or added to the library.")).to_be_visible()
    expect(page.get_by_role("button", name="Sign it off")).to_have_count(0)
    assert page.evaluate("document.documentElement.scrollWidth") <= size["width"]
    page.goto(f"{lan.url}/jobs/{real}/run")
    expect(page.get_by_role("heading", level=1)).to_have_text("This job can’t be opened")
    expect(page.get_by_text("You are here to practise")).to_be_visible()
    # What changes in it isn't told either.
    page.evaluate(HEARD, [real, given])
    for job in (real, given):
        kept = json.loads(owner.request.get(f"{lan.url}/api/jobs/{job}").text())
        edit = {"base_version": kept["version"], "sheet": kept["sheet"] | {"note": "changed"}}
        assert owner.request.put(f"{lan.url}/api/jobs/{job}/sheet", data=edit, headers=headers).ok
    page.wait_for_function("() => window.heard.length > 0")
    assert set(page.evaluate("window.heard")) == {given}
    context.close()


def test_what_waits_of_one_who_was_signed_out_is_sent_under_no_other_name(
    browser: Browser, lan: Lan, owner: Page
) -> None:
    links = [let_in(owner, lan, "fitter") for _ in range(2)]
    context = device(browser, LARGE)
    page = context.new_page()
    come_in(page, lan, links[0], "Runa")
    job = a_job(page, lan)
    speakers_off_here(page, lan, job)
    page.goto(f"{lan.url}/jobs/{job}/run/ceiling.source.line")
    expect(page.get_by_label("Volts at 20")).to_be_visible()
    page.route("**/readings", lambda route: route.abort())
    page.keyboard.type("1.5")
    press(page, "c")
    expect(page.get_by_text("waiting to be sent")).to_be_visible()
    owner.goto(f"{lan.url}/people")
    # Signed out at the server, as by another password chosen elsewhere.
    with psycopg.connect(lan.database.replace("+psycopg", "")) as connection:
        connection.execute("delete from signed_in where person_id = (select id from person where name = 'Runa')")
    page.unroute("**/readings")
    expect(page.get_by_role("heading", level=1)).to_have_text("Sign in", timeout=20_000)

    def readings() -> list[str]:
        answer = owner.request.get(f"{lan.url}/api/jobs/{job}/run")
        return [str(load["by"]) for load in json.loads(answer.text())["readings"]]

    # Somebody else comes in on the same device: nothing goes out under that name.
    page.goto(f"{lan.url}/come-in#{links[1]}")
    come_in(page, lan, links[1], "Tilda")
    page.goto(f"{lan.url}/jobs/{job}/run/ceiling.source.line")
    expect(page.get_by_label("Volts at 20")).to_be_visible()
    time.sleep(3)
    assert readings() == []
    page.goto(f"{lan.url}/people")
    page.get_by_role("button", name="Sign out").click()
    sign_in(page, "Runa")
    for _ in range(100):
        if readings() == ["Runa"]:
            break
        time.sleep(0.2)
    assert readings() == ["Runa"]
    context.close()


def test_a_shared_tablet_is_paired_opened_by_pin_and_keeps_what_was_typed_while_locked(
    browser: Browser, lan: Lan, owner: Page
) -> None:
    link = let_in(owner, lan, "fitter")
    context = device(browser, PHONE)
    page = context.new_page()
    page.goto(f"{lan.url}/sign-in")
    expect(page.get_by_text("This device isn’t known yet.")).to_be_visible()
    # By the keyboard alone: paired, in by a link, a PIN set.
    page.goto(f"{lan.url}/come-in#{code_for_a_device(owner, lan)}")
    expect(page.get_by_label("This device", exact=True)).to_be_visible()
    tab_to(page, "This device")
    page.keyboard.press("Control+a")
    page.keyboard.type("tablet, bay 2")
    press(page, "Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Sign in")
    come_in(page, lan, link, "Unn")
    page.goto(f"{lan.url}/people")
    page.locator("summary", has_text="PIN on this device: none").press("Enter")
    page.get_by_label("Your password").fill(WORDS)
    page.get_by_label("PIN", exact=True).fill("4071")
    press(page, "Enter")
    expect(page.get_by_text("Your PIN opens on this device, and on no other.")).to_be_visible()
    # The owner has it lock itself; here it is locked at once.
    owner.goto(f"{lan.url}/people")
    owner.get_by_role("button", name="Change tablet, bay 2").click()
    owner.get_by_label("Left alone").select_option("2")
    owner.get_by_role("button", name="Keep", exact=True).click()
    expect(owner.get_by_text("locks after 2 min")).to_be_visible()
    page.clock.install()
    page.goto(f"{lan.url}/jobs/{a_job(page, lan)}/run/ceiling.source.line")
    field = page.get_by_label("Volts at 20")
    field.fill("1.5")
    # Also where the server can't be told: it stays locked as the network comes back.
    context.set_offline(True)
    page.clock.fast_forward(130_000)
    expect(page.get_by_role("heading", level=1)).to_have_text("Locked")
    context.set_offline(False)
    page.clock.fast_forward(70_000)
    expect(page.get_by_role("heading", level=1)).to_have_text("Locked")
    page.request.post(f"{lan.url}/api/doors/lock", headers={"origin": lan.url})
    expect(page.get_by_role("heading", level=1)).to_have_text("Locked")
    expect(field).to_be_hidden()
    assert page.request.get(f"{lan.url}/api/jobs").status == 423
    page.get_by_label("PIN", exact=True).fill("5000")
    press(page, "Enter")
    expect(page.get_by_role("alert")).to_have_text("That is not the PIN: 4 more tries.")
    page.get_by_label("PIN", exact=True).fill("4071")
    press(page, "Enter")
    expect(field).to_have_value("1.5")
    # Somebody else on the same tablet.
    page.clock.fast_forward(130_000)
    page.get_by_role("button", name="Somebody else").click()
    page.get_by_role("button", name="Unn").click()
    expect(page.get_by_label("PIN of Unn")).to_be_focused()
    page.keyboard.type("4071")
    press(page, "Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Jobs")
    owner.goto(f"{lan.url}/people")
    owner.get_by_role("button", name="Remove tablet, bay 2").click()
    expect(owner.get_by_text("tablet, bay 2 is taken away")).to_be_visible()
    page.goto(lan.url)
    expect(page.get_by_text("This device isn’t known yet.")).to_be_visible()
    context.close()


def at_the_machine(lan: Lan, *words: str) -> subprocess.CompletedProcess[str]:
    """A command on the app's own database."""
    return run(*words, DATABASE_URL=lan.database, ROOK_DATA=str(lan.data))


def test_who_lost_the_way_in_gets_another_at_the_machine(lan: Lan, owner: Page, browser: Browser) -> None:
    context = device(browser, LARGE)
    page = context.new_page()
    come_in(page, lan, at_the_machine(lan, "let-in").stdout.strip().partition("#")[2], "Mara again")
    page.goto(f"{lan.url}/people")
    expect(page.get_by_role("button", name="Let Mara go")).to_be_visible()
    expect(owner.get_by_role("link", name="Mara", exact=True)).to_be_visible()
    # Or the same person with another password.
    page.goto(lan.url + at_the_machine(lan, "let-in", "--for", "mara AGAIN").stdout.strip())
    expect(page.get_by_text("New password for Mara again")).to_be_visible()
    nobody = at_the_machine(lan, "let-in", "--for", "Odd")
    assert (nobody.returncode, "There is no person called “Odd”." in nobody.stderr) == (2, True)
    context.close()


def test_the_command_says_what_goes_together(tmp_path: Path) -> None:
    def refused(*words: str, **environment: str) -> str:
        nowhere = {"DATABASE_URL": "postgresql+psycopg://nowhere/none", "ROOK_DATA": str(tmp_path)}
        done = run("serve", *words, **nowhere | environment)
        assert done.returncode == 2
        return done.stderr

    assert "give both, or neither" in refused("--lan", "--certificate", "x.pem")
    assert "Only --lan is asked over TLS" in refused("--certificate", "x.pem", "--key", "x.key")
    assert "There is no file x.pem" in refused("--lan", "--certificate", "x.pem", "--key", "x.key")
    assert "Use serve --lan for the network" in refused(ROOK_HOST="0.0.0.0")  # noqa: S104


def test_a_passkey_of_the_browsers_own_opens_and_no_other(
    lan: Lan, owner: Page, browser_type: BrowserType, browser_type_launch_args: dict[str, Any]
) -> None:
    # Keys are made only where the certificate is trusted: this one's public key, as if the authority had been taken.
    server = x509.load_pem_x509_certificate((lan.data / "doors/server.pem").read_bytes())
    key = server.public_key().public_bytes(Encoding.DER, PublicFormat.SubjectPublicKeyInfo)
    trusted = f"--ignore-certificate-errors-spki-list={b64encode(sha256(key).digest()).decode()}"
    own = browser_type.launch(**browser_type_launch_args | {"args": [*browser_type_launch_args["args"], trusted]})
    page = own.new_page(viewport=LARGE)  # type: ignore[arg-type]
    authenticator = page.context.new_cdp_session(page)
    authenticator.send("WebAuthn.enable")
    kind = {"protocol": "ctap2", "transport": "internal", "hasResidentKey": True, "hasUserVerification": True}
    made = authenticator.send(
        "WebAuthn.addVirtualAuthenticator",
        {"options": kind | {"isUserVerified": True, "automaticPresenceSimulation": True}},
    )
    come_in(page, lan, let_in(owner, lan, "fitter"), "Dagny")
    page.goto(f"{lan.url}/people")
    page.locator("summary", has_text="Passkeys: none").press("Enter")
    page.get_by_role("button", name="Make one on this device").press("Enter")
    expect(page.locator("summary", has_text="Passkeys: 1")).to_be_visible()
    page.get_by_role("button", name="Sign out").click()
    page.get_by_role("button", name="By passkey").press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Jobs")
    expect(page.get_by_role("link", name="Dagny")).to_be_visible()
    # A device that has lost its key says so, and stays at the door.
    page.goto(f"{lan.url}/people")
    page.get_by_role("button", name="Sign out").click()
    authenticator.send("WebAuthn.clearCredentials", {"authenticatorId": made["authenticatorId"]})
    page.get_by_role("button", name="By passkey").press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Sign in")
    own.close()


def test_a_page_left_open_asks_who_it_is_before_it_lets_somebody_in(owner: Page, lan: Lan) -> None:
    owner.goto(f"{lan.url}/people")
    expect(owner.get_by_role("button", name="Make a link")).to_be_visible()
    with psycopg.connect(lan.database.replace("postgresql+psycopg://", "postgresql://")) as connection:
        connection.execute("update signed_in set proved_at = now() - interval '1 hour'")
    for size in (LARGE, PHONE):
        owner.set_viewport_size(size)  # type: ignore[arg-type]
        owner.get_by_role("button", name="Make a link").press("Enter")
        dialog = owner.get_by_role("dialog", name="Show that it is you")
        expect(dialog.get_by_label("Password", exact=True)).to_be_focused()
        owner.keyboard.press("Escape")
        expect(owner.get_by_role("alert")).to_contain_text("Show first that it is you")
    owner.get_by_role("button", name="Make a link").press("Enter")
    expect(dialog.get_by_label("Password", exact=True)).to_be_focused()
    owner.keyboard.type("something else")
    press(owner, "Enter")
    expect(dialog.get_by_role("alert")).to_have_text("That is not your password.")
    owner.keyboard.type(WORDS)
    press(owner, "Enter")
    expect(owner.locator("code.link")).to_contain_text("/come-in#")
    owner.set_viewport_size(LARGE)  # type: ignore[arg-type]
