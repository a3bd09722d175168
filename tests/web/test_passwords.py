"""Passwords, PINs and links for a new one: what a guesser gets, and whom a new one keeps out."""

from concurrent.futures import ThreadPoolExecutor
from uuid import uuid4

import pytest
from sqlalchemy import text
from starlette.testclient import TestClient

from tests import quick_hashes
from tests.web.people import WORDS, another, come_in, invited, paired, sign_in, store
from upper_rook.core.common.roles import Role


def test_a_wrong_name_and_a_wrong_password_look_the_same_and_end_in_a_pause(shut: TestClient) -> None:
    invited(shut, Role.FITTER, "Tilda")
    browser = paired(shut)
    wrong = "not it, really"
    assert sign_in(browser, "Tilda", wrong) == sign_in(browser, "Nobody", wrong) == (401, "Name or password is wrong.")
    assert sign_in(browser, " TILDA ")[0] == 200
    for name in ("Tilda", "Nobody"):
        assert [sign_in(browser, name, wrong)[0] for _ in range(6)][-1] == 429
    # Locked for the right password as well: the pause tells nothing either.
    assert sign_in(browser, "Tilda")[0] == 429
    with store(shut) as session:
        session.execute(text("update knock set at = at - interval '16 minutes'"))
        session.commit()
    assert sign_in(browser, "Tilda")[0] == 200


def test_many_guesses_at_once_get_no_more_tries_than_one_after_the_other(shut: TestClient) -> None:
    invited(shut, Role.FITTER, "Hrefna")
    browser = paired(shut)
    with ThreadPoolExecutor(12) as hands:
        told = list(hands.map(lambda number: sign_in(browser, "Hrefna", f"guess number {number}")[0], range(12)))
    assert sorted(told) == [401] * 5 + [429] * 7
    # A right one in time is no failure.
    invited(shut, Role.FITTER, "Katla")
    other = paired(shut)
    assert [sign_in(other, "Katla")[0] for _ in range(7)] == [200] * 7


def test_a_guesser_of_stolen_hashes_waits_and_needs_memory() -> None:
    algorithm, costs = quick_hashes.OF_THE_APP.hash("a few words of one’s own").split("$")[1:4:2]
    cost = {name: int(number) for name, _, number in (part.partition("=") for part in costs.split(","))}
    # OWASP's password storage cheat sheet, from memory: Argon2id, 19 MiB with two passes at least.
    assert algorithm == "argon2id"
    assert cost["m"] >= 19 * 1024
    assert cost["t"] >= 2


def test_a_forgotten_password_is_chosen_anew_by_a_link(shut: TestClient) -> None:
    browser = invited(shut, Role.FITTER, "Halla")
    own = browser.get("/api/doors").json()["person"]["id"]
    assert browser.post("/api/people/invitations", json={"person": own}).status_code == 403
    both = shut.post("/api/people/invitations", json={"person": own, "role": "owner"})
    assert both.status_code == 422
    assert shut.post("/api/people/invitations", json={"person": str(uuid4())}).status_code == 404
    link = shut.post("/api/people/invitations", json={"person": own}).json()["link"].partition("#")[2]
    elsewhere = another(shut)
    assert elsewhere.post("/api/doors/link", json={"link": link}).json() == {
        "kind": "password",
        "role": None,
        "name": "Halla",
    }
    told = come_in(elsewhere, link, "somebody else", words="quite another few words")
    assert (told["name"], told["role"]) == ("Halla", "fitter")
    assert browser.get("/api/jobs").status_code == 401
    assert sign_in(browser, "Halla")[0] == 401
    assert sign_in(browser, "Halla", "quite another few words")[0] == 200


def with_pin(shut: TestClient, name: str) -> tuple[TestClient, str]:
    """Somebody whose PIN 4071 opens on their device, signed out."""
    browser = invited(shut, Role.APPRENTICE, name)
    own = browser.get("/api/doors").json()["person"]["id"]
    for pin in ("407", "123456789", "4a71", "1111", "2345", "9876", "٤٠٧١"):
        assert browser.put("/api/doors/own-pin", json={"password": WORDS, "pin": pin}).status_code == 422, pin
    assert browser.put("/api/doors/own-pin", json={"password": "not mine", "pin": "4071"}).status_code == 401
    assert browser.put("/api/doors/own-pin", json={"password": WORDS, "pin": "4071"}).status_code == 204
    assert browser.post("/api/doors/sign-out").status_code == 204
    assert [person["name"] for person in browser.get("/api/doors").json()["by_pin"]] == [name]
    return browser, own


def test_a_pin_opens_on_its_device_alone_and_five_wrong_ones_end_it(shut: TestClient) -> None:
    browser, own = with_pin(shut, "Signe")

    def tried(at: TestClient, pin: str) -> tuple[int, str]:
        answer = at.post("/api/doors/pin", json={"person": own, "pin": pin})
        return answer.status_code, answer.json().get("detail", "")

    assert tried(paired(shut), "4071") == (401, "No PIN opens here any more: use the password.")
    assert tried(browser, "4072") == (401, "That is not the PIN: 4 more tries.")
    assert tried(browser, "4071")[0] == 200
    assert browser.get("/api/jobs").status_code == 200
    told = [tried(browser, f"500{number}")[1] for number in range(5)]
    assert told[-1] == "Too many wrong attempts: the PIN is disabled. Use the password."
    assert tried(browser, "4071")[0] == 401
    assert browser.get("/api/doors").json()["by_pin"] == []
    assert sign_in(browser, "Signe")[0] == 200


def test_another_password_and_being_let_go_end_every_session_at_once(shut: TestClient) -> None:
    first = invited(shut, Role.FITTER, "Runa")
    second = paired(shut)
    sign_in(second, "Runa")
    assert second.get("/api/jobs").status_code == 200
    wrong = first.post("/api/doors/password", json={"former": "no", "password": "another few words"})
    assert wrong.status_code == 401
    first.post("/api/doors/password", json={"former": WORDS, "password": "another few words"})
    assert (first.get("/api/jobs").status_code, second.get("/api/jobs").status_code) == (200, 401)
    runa = next(one for one in shut.get("/api/people").json() if one["name"] == "Runa")
    assert shut.delete(f"/api/people/{runa['id']}").status_code == 204
    assert first.get("/api/jobs").status_code == 401
    assert first.post("/api/doors/sign-in", json={"name": "Runa", "password": "another few words"}).status_code == 401
    own = next(one for one in shut.get("/api/people").json() if one["name"] == "Mara")
    assert shut.delete(f"/api/people/{own['id']}").status_code == 409
    # A link that was made for them before opens nothing either.
    # The name is free again.
    invited(shut, Role.FITTER, "Runa")


def test_tries_on_one_device_keep_nobody_out_elsewhere(shut: TestClient) -> None:
    browser = invited(shut, Role.FITTER, "Hild")
    guessing = paired(shut, "phone, bay 7")
    for _ in range(5):
        sign_in(guessing, "Hild", "something else")
    assert sign_in(guessing, "Hild")[0] == 429
    # Who is in goes on, and comes in on another device.
    change = {"former": WORDS, "password": WORDS + " and more"}
    assert browser.post("/api/doors/password", json=change).status_code == 200
    assert sign_in(paired(shut, "phone, bay 8"), "Hild", WORDS + " and more")[0] == 200
    # In a session of one's own as well it ends at five.
    refused = [browser.post("/api/doors/prove", json={"password": "no"}).status_code for _ in range(6)]
    assert refused == [401] * 5 + [429]


@pytest.mark.parametrize("by_link", [True, False])
def test_a_new_password_ends_passkeys_where_that_is_wanted(shut: TestClient, by_link: bool) -> None:
    name = f"Keys {by_link}"
    browser = invited(shut, Role.FITTER, name)
    own = browser.get("/api/doors").json()["person"]["id"]

    def keys() -> int:
        with store(shut) as session:
            counted = session.execute(text("select count(*) from passkey where person_id = :own"), {"own": own})
            return int(counted.scalar_one())

    with store(shut) as session:
        row = "insert into passkey values (:id, :own, 'k', 0, 'phone', now(), null)"
        session.execute(text(row), {"id": uuid4().bytes, "own": own})
        session.commit()
    if by_link:
        link = shut.post("/api/people/invitations", json={"person": own}).json()["link"]
        come_in(another(shut), link, name)
    else:
        change = {"former": WORDS, "password": WORDS + "!"}
        assert browser.post("/api/doors/password", json=change).status_code == 200
        assert keys() == 1
        change = {"former": WORDS + "!", "password": WORDS, "end_passkeys": True}
        assert browser.post("/api/doors/password", json=change).status_code == 200
    assert keys() == 0
