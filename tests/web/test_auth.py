"""The door: who comes in, who stays out, who may do what, and how it ends."""

from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from itertools import chain
from typing import Any
from uuid import UUID, uuid4

import pytest
from sqlalchemy import text
from sqlmodel import Session
from starlette.testclient import TestClient

from tests.shot import photo
from tests.web.people import WORDS, another, come_in, invited, paired, sign_in, store
from tests.web.recordings import swept
from upper_rook.core.common.roles import Act, Role, may
from upper_rook.desk.auth.links import first_link
from upper_rook.store import sign_ins
from upper_rook.store.database import make_engine
from upper_rook.web.auth_middleware import DEVICE, OPEN, SESSION, UNLOCKING

Body = dict[str, Any]
NOBODY = {"locked": False, "person": None, "away": False, "device": None, "by_pin": []} | {
    "may": [],
    "practises": False,
}


def test_nothing_of_the_workshop_is_told_at_the_door(shut: TestClient) -> None:
    stranger = another(shut)
    paths = shut.app.openapi()["paths"]  # type: ignore[attr-defined]
    asked = 0
    for path, operations in paths.items():
        for method in operations:
            address = path
            for part in [one.split("}")[0] for one in path.split("{")[1:]]:
                address = address.replace(f"{{{part}}}", str(uuid4()))
            answer = stranger.request(method, address)
            asked += 1
            if path in OPEN:
                assert answer.status_code != 401 or path != "/api/health", path
            else:
                assert answer.status_code == 401, (method, path)
                assert answer.json()["title"] == "Signed out"
    assert asked > 60
    assert stranger.get("/api/doors").json() == NOBODY | {"locked": True}
    told = stranger.get("/api/health").json()
    assert [told[text] for text in ("version", "disk_free", "judging", "warning")] == [None, None, None, ""]
    assert shut.get("/api/health").json()["version"]
    # The page itself holds nothing.
    assert stranger.get("/jobs").status_code in (200, 503)


def test_a_stranger_sends_a_few_kilobytes_and_no_more(shut: TestClient) -> None:
    stranger = another(shut)
    paths = shut.app.openapi()["paths"]  # type: ignore[attr-defined]
    open_posts = [path for path in paths if path in OPEN and "post" in paths[path]]
    assert len(open_posts) > 4
    for path in open_posts:
        answer = stranger.post(
            path, content=b'{"name": "' + b"x" * 20_000 + b'"}', headers={"content-type": "application/json"}
        )
        assert answer.status_code == 413, path


def test_a_link_works_once_and_only_for_a_day(shut: TestClient) -> None:
    link = shut.post("/api/people/invitations", json={"role": "fitter"}).json()["link"]
    first = another(shut)
    come_in(first, link, "Ines", 422, "short")
    come_in(first, link, "Ines", 422, "Ines Ines")
    come_in(first, link, "mara", 409)
    assert come_in(first, link, "Ines")["role"] == "fitter"
    refused = come_in(another(shut), link, "Ivo", 401)
    assert refused["detail"] == "This link has been used or is too old: ask for another one."
    assert come_in(another(shut), "no link of ours", "Ivo", 401)["detail"] == refused["detail"]
    old = shut.post("/api/people/invitations", json={"role": "fitter"}).json()["link"]
    with store(shut) as session:
        session.execute(text("update link set ends_at = now() - interval '1 minute' where used_at is null"))
        session.commit()
    come_in(another(shut), old, "Ivo", 401)
    # There is an owner: nobody gets the first link again.
    with store(shut) as session:
        assert first_link(session) is None


def test_on_a_device_that_isnt_known_nothing_is_tried(shut: TestClient) -> None:
    browser = another(shut)
    told = sign_in(browser, "Mara")
    assert told == (401, "This device isn’t known here: have a code for it shown under People, and open that.")
    assert told == sign_in(browser, "Nobody") == sign_in(browser, "Mara", "wrong")
    assert browser.post("/api/doors/pin", json={"person": str(uuid4()), "pin": "4071"}).status_code == 401
    assert browser.post("/api/doors/passkey/ask").status_code == 401


def test_a_code_lets_a_device_in_once_and_nobody_with_it(shut: TestClient) -> None:
    made = shut.post("/api/people/invitations", json={}).json()
    token = made["link"].partition("#")[2]
    assert made["minutes"] == 10
    browser = another(shut)
    assert browser.post("/api/doors/link", json={"link": token}).json()["kind"] == "device"
    come_in(browser, token, "Ivo", 401)
    # Somebody's link is no device's.
    somebodys = shut.post("/api/people/invitations", json={"role": "owner"}).json()["link"].partition("#")[2]
    assert browser.post("/api/doors/pair", json={"link": somebodys, "device": "phone"}).status_code == 401
    assert browser.post("/api/doors/pair", json={"link": token, "device": " "}).status_code == 422
    answer = browser.post("/api/doors/pair", json={"link": token, "device": "phone, bay 1", "shared": True})
    # Several people use it: it locks itself.
    assert answer.json()["locks_after_min"] == 5
    assert answer.json()["name"] == "phone, bay 1"
    cookie = answer.headers["set-cookie"]
    assert cookie.startswith(f"{DEVICE}=")
    assert all(word in cookie for word in ("HttpOnly", "Secure", "SameSite=Strict"))
    assert another(shut).post("/api/doors/pair", json={"link": token, "device": "phone"}).status_code == 401
    assert browser.get("/api/jobs").status_code == 401
    assert browser.get("/api/doors").json()["device"]["name"] == "phone, bay 1"


def test_a_locked_device_does_nothing_until_its_person_is_back(shut: TestClient) -> None:
    browser = invited(shut, Role.FITTER, "Eyja")
    browser.put("/api/doors/own-pin", json={"password": WORDS, "pin": "4071"})
    assert browser.post("/api/doors/lock").status_code == 204
    door = browser.get("/api/doors").json()
    assert (door["away"], door["person"]["name"]) == (True, "Eyja")
    paths = shut.app.openapi()["paths"]  # type: ignore[attr-defined]
    for path in paths:
        if path not in OPEN | UNLOCKING:
            for method in paths[path]:
                assert browser.request(method, path.replace("{", "").replace("}", "")).status_code == 423, path
    assert browser.get("/api/jobs").json()["detail"] == "Locked until Eyja is back."
    assert browser.post("/api/doors/unlock", json={"pin": "5000"}).status_code == 401
    assert browser.post("/api/doors/unlock", json={}).status_code == 401
    assert browser.get("/api/jobs").status_code == 423
    assert browser.post("/api/doors/unlock", json={"pin": "4071"}).status_code == 204
    assert browser.get("/api/jobs").status_code == 200
    browser.post("/api/doors/lock")
    assert browser.post("/api/doors/unlock", json={"password": WORDS}).status_code == 204
    # Whoever doesn't come back is signed out by the next one.
    browser.post("/api/doors/lock")
    assert sign_in(browser, "Mara")[0] == 200
    assert browser.get("/api/doors").json()["away"] is False


def test_a_session_is_new_at_every_door_and_kept_from_scripts(shut: TestClient) -> None:
    browser = paired(shut)
    # What somebody planted before is of no use after.
    browser.cookies.set(SESSION, "planted", domain="localhost.local")
    answer = browser.post("/api/doors/sign-in", json={"name": "Mara", "password": WORDS})
    cookie = answer.headers["set-cookie"]
    assert cookie.startswith("__Host-rook=")
    assert all(word in cookie for word in ("HttpOnly", "Secure", "SameSite=Strict", "Path=/"))
    assert "planted" not in cookie
    token = cookie.split("=")[1].split(";")[0]
    with store(shut) as session:
        kept = str(session.execute(text("select * from signed_in")).all())
    # What is kept opens nothing.
    assert token not in kept


SAYS_WHO = {
    ("post", "/api/jobs"),
    ("put", "/api/jobs/{job_id}/sheet"),
    ("post", "/api/jobs/{job_id}/copy"),
    ("post", "/api/jobs/{job_id}/readings"),
    ("post", "/api/jobs/{job_id}/marks"),
    ("post", "/api/jobs/{job_id}/offers"),
    ("post", "/api/jobs/{job_id}/sign-offs"),
    ("put", "/api/jobs/{job_id}/customer"),
    ("post", "/api/jobs/{job_id}/captures"),
    ("post", "/api/jobs/{job_id}/photos"),
    ("post", "/api/jobs/{job_id}/captures/{capture_id}/readings"),
}
"""Every route that is told who did it, where nobody has to sign in."""


def _told_who(document: Body) -> Iterator[tuple[str, str]]:
    for path, operations in document["paths"].items():
        for method, operation in operations.items():
            body = operation.get("requestBody", {}).get("content", {}).get("application/json", {}).get("schema", {})
            schema = document["components"]["schemas"].get(body.get("$ref", "").rpartition("/")[2], body)
            if "by" in schema.get("properties", {}) or any(
                one["name"] == "by" for one in operation.get("parameters", [])
            ):
                yield method, path


def test_who_did_it_comes_from_the_session_alone(
    shut: TestClient, a_reading: Callable[..., Body], a_mark: Callable[..., Body]
) -> None:
    assert set(_told_who(shut.app.openapi())) == SAYS_WHO  # type: ignore[attr-defined]
    browser, mara = invited(shut, Role.FITTER, "Jonna"), {"by": "Mara"}
    job = browser.post("/api/jobs", json={"id": str(uuid4()), "vehicle": "Dory"} | mara).json()
    at = f"/api/jobs/{job['id']}"
    edit = {"base_version": 1, "sheet": job["sheet"] | {"vehicle": "Dory II"}} | mara
    assert browser.put(f"{at}/sheet", json=edit).status_code == 200
    copy = browser.post(f"{at}/copy", json={"id": str(uuid4())} | mara).json()
    imported = str(uuid4())
    assert browser.post(f"/api/jobs/{imported}/file", json=job["sheet"]).status_code == 201
    every = (browser.get(f"/api/jobs/{key}/history").json() for key in (job["id"], copy["id"], imported))
    versions = list(chain.from_iterable(every))
    assert [version["by"] for version in versions] == ["Jonna"] * 4
    offered = browser.post(f"{at}/offers", json=a_reading() | mara).json()
    kept = [
        browser.post(f"{at}/readings", json=a_reading() | mara).json(),
        browser.post(f"{at}/marks", json=a_mark("safe", item="running", answer="done") | mara).json(),
        browser.post(f"{at}/offers/{offered['id']}/take").json(),
        *_recorded(browser, at),
    ]
    assert [one["by"] for one in kept] == ["Jonna"] * len(kept)
    entered = browser.put(f"{at}/customer", json={"base_version": 0, "customer": {}} | mara).json()
    assert entered["by"] == "Jonna"
    sign = {"id": str(uuid4()), "changes": browser.get(f"{at}/sign-offs").json()["changes"]} | mara
    assert browser.post(f"{at}/sign-offs", json=sign).json()["signed"][0]["by"] == "Jonna"


def _recorded(browser: TestClient, at: str) -> Iterator[Body]:
    """A recording, and the readings that are taken from it."""
    mara, taken_at = {"by": "Mara"}, datetime.now(UTC).isoformat()
    told = {"id": str(uuid4()), "name": "sweep.wav", "taken_at": taken_at, "full_scale_v": 40} | mara
    capture = browser.post(f"{at}/captures", params=told, content=swept(15.4, full_scale_v=40)).json()
    yield capture
    shot = {"id": str(uuid4()), "taken_at": taken_at} | mara
    yield browser.post(f"{at}/photos", params=shot, content=photo()).json()
    used = {"step": "prove.front", "sheet_version": 1, "taken_at": taken_at} | mara
    readings = browser.post(f"{at}/captures/{capture['id']}/readings", json=used).json()
    assert len(readings) > 3
    yield from readings


def test_what_waits_of_one_person_is_never_sent_as_anothers(shut: TestClient) -> None:
    browser = invited(shut, Role.FITTER, "Vigdis")
    own = browser.get("/api/doors").json()["person"]["id"]
    body = {"id": str(uuid4()), "vehicle": "Dory"}
    answer = browser.post("/api/jobs", json=body, headers={"rook-person": str(uuid4())})
    assert (answer.status_code, answer.json()["detail"]) == (
        421,
        "Another person made this change. It will be sent when they sign in.",
    )
    assert browser.post("/api/jobs", json=body, headers={"rook-person": own}).status_code == 201


def test_a_device_is_taken_away_with_one_act(shut: TestClient) -> None:
    browser = invited(shut, Role.FITTER, "Odd")
    device = next(one for one in shut.get("/api/people/devices").json() if (one["person"] or {}).get("name") == "Odd")
    assert device["name"] == "tablet, bay 2"
    change = {"name": "tablet, bay 3", "locks_after_min": 5}
    assert shut.put(f"/api/people/devices/{device['id']}", json=change).status_code == 204
    assert shut.put(f"/api/people/devices/{device['id']}", json=change | {"locks_after_min": 0}).status_code == 422
    told = browser.get("/api/doors").json()["device"]
    assert (told["name"], told["locks_after_min"]) == ("tablet, bay 3", 5)
    assert shut.delete(f"/api/people/devices/{device['id']}").status_code == 204
    assert browser.get("/api/jobs").status_code == 401
    # It isn't known any more either.
    assert "isn’t known here" in sign_in(browser, "Odd")[1]
    assert shut.delete(f"/api/people/devices/{device['id']}").status_code == 404


def aged(client: TestClient, name: str, **by: timedelta) -> UUID:
    """Somebody's sessions, their times put back."""
    with store(client) as session:
        found = (
            session.execute(
                text("select s.id from signed_in s join person p on p.id = s.person_id where p.name = :name"),
                {"name": name},
            )
            .scalars()
            .all()
        )
        for column, back in by.items():
            session.execute(
                text(f"update signed_in set {column} = {column} - :back where id = any(:id)"),  # noqa: S608
                {"back": back, "id": list(found)},
            )
        session.commit()
    return UUID(str(found[0]))


@pytest.mark.parametrize("column", ["seen_at", "began_at"])
def test_what_is_left_alone_or_too_old_ends(shut: TestClient, column: str) -> None:
    browser = invited(shut, Role.FITTER, f"Ends by {column}")
    assert browser.get("/api/jobs").status_code == 200
    aged(shut, f"Ends by {column}", **{column: timedelta(days=31)})
    assert browser.get("/api/jobs").status_code == 401


def test_a_token_is_replaced_and_its_former_is_no_use_to_a_thief(shut: TestClient) -> None:
    browser = invited(shut, Role.FITTER, "Sunniva")
    former = browser.cookies[SESSION]
    aged(shut, "Sunniva", renewed_at=timedelta(hours=13))
    thief = another(shut)
    assert browser.get("/api/jobs").status_code == 200
    assert browser.cookies[SESSION] != former
    # What was under way with the former one still arrives; later it ends the session of both.
    headers = {"cookie": f"{SESSION}={former}; {DEVICE}={browser.cookies[DEVICE]}"}
    assert thief.get("/api/jobs", headers=headers).status_code == 200
    aged(shut, "Sunniva", renewed_at=timedelta(minutes=2))
    assert thief.get("/api/jobs", headers=headers).status_code == 401
    assert browser.get("/api/jobs").status_code == 401


def test_the_data_of_one_who_left_is_made_nameless(shut: TestClient) -> None:
    browser = invited(shut, Role.FITTER, "Ragna")
    own = browser.get("/api/doors").json()["person"]["id"]
    link = shut.post("/api/people/invitations", json={"person": own}).json()["link"].partition("#")[2]
    assert shut.delete(f"/api/people/{own}?nameless=true").status_code == 204
    assert come_in(another(shut), link, "Ragna", 401)
    with store(shut) as session:
        for table in ("person", "password", "passkey", "pin", "signed_in"):
            assert "Ragna" not in str(session.execute(text(f"select * from {table}")).all()), table  # noqa: S608
        assert session.execute(text("select count(*) from password where person_id = :id"), {"id": own}).scalar() == 0


def test_two_requests_at_once_leave_one_session(shut: TestClient) -> None:
    invited(shut, Role.FITTER, "Brage")
    key = aged(shut, "Brage", renewed_at=timedelta(hours=13))
    engine = make_engine(str(shut.app.state.settings.database_url))  # type: ignore[attr-defined]
    try:
        with Session(engine) as session, Session(engine) as other:
            token = session.execute(text("select token from signed_in where id = :id"), {"id": key}).scalar_one()
            other.execute(text("select 1"))
            assert sign_ins.renew(session, key, token, b"one")
            session.commit()
            assert not sign_ins.renew(other, key, token, b"other")
    finally:
        engine.dispose()


def test_foreign_pages_and_garbage_get_nowhere(shut: TestClient) -> None:
    body = {"id": str(uuid4())}
    assert shut.post("/api/jobs", json=body, headers={"origin": "https://elsewhere.example"}).status_code == 403
    assert shut.post("/api/jobs", json=body, headers={"sec-fetch-site": "cross-site"}).status_code == 403
    assert shut.get("/api/jobs", headers={"host": "elsewhere.example"}).status_code == 400
    for rubbish in ("__Host-rook", "__Host-rook=", '__Host-rook="', "=;=;", "__Host-rook=" + "x" * 5000, "é=1"):
        answer = another(shut).get("/api/jobs", headers={"cookie": rubbish.encode()})
        assert answer.status_code == 401, rubbish


def test_without_doors_nobody_is_asked(client: TestClient) -> None:
    assert client.get("/api/doors").json() == NOBODY
    assert client.get("/api/jobs").status_code == 200
    assert client.post("/api/doors/sign-out").status_code == 401


def test_every_act_is_somebodys() -> None:
    assert all(any(may(role, act) for role in Role) for act in Act)


def test_a_page_that_was_left_open_lets_nobody_in_or_out(shut: TestClient) -> None:
    invited(shut, Role.FITTER, "Leaves")
    gone = next(one["id"] for one in shut.get("/api/people").json() if one["name"] == "Leaves")
    acts: list[tuple[str, str, Body | None]] = [
        ("POST", "/api/people/invitations", {"role": "owner"}),
        ("POST", "/api/people/invitations", {}),
        ("DELETE", f"/api/people/{gone}", None),
        ("POST", "/api/doors/passkeys/offer", None),
        ("POST", "/api/doors/passkeys", {"name": "phone", "credential": {}}),
    ]
    aged(shut, "Mara", proved_at=timedelta(minutes=6))
    for method, place, body in acts:
        answer = shut.request(method, place, json=body)
        assert (answer.status_code, answer.json()["title"]) == (428, "Show that it is you"), place
    # Work goes on meanwhile.
    assert shut.get("/api/jobs").status_code == 200
    assert shut.post("/api/doors/prove", json={"password": "a few words of another"}).status_code == 401
    assert shut.post(acts[0][1], json=acts[0][2]).status_code == 428
    assert shut.post("/api/doors/prove", json={"password": WORDS}).status_code == 204
    assert [shut.request(method, place, json=body).status_code for method, place, body in acts[:3]] == [201, 201, 204]


def test_a_session_works_on_its_own_device_alone(shut: TestClient) -> None:
    browser, beside = invited(shut, Role.FITTER, "Bound"), paired(shut, "phone, bay 9")
    session = f"{SESSION}={browser.cookies[SESSION]}"
    for device in ("", f"; {DEVICE}={beside.cookies[DEVICE]}", f"; {DEVICE}=x"):
        assert another(shut).get("/api/jobs", headers={"cookie": session + device}).status_code == 401
    assert browser.get("/api/jobs").status_code == 200


def test_a_device_that_nobody_touches_is_locked_by_the_servers_own_clock(shut: TestClient) -> None:
    browser = invited(shut, Role.FITTER, "Away")
    device = browser.get("/api/doors").json()["device"]
    shut.put(f"/api/people/devices/{device['id']}", json={"name": "tablet", "locks_after_min": 2})
    assert browser.get("/api/jobs", headers={"rook-untouched": "500"}).status_code == 200
    aged(shut, "Away", touched_at=timedelta(minutes=4))
    # Its page says that it was touched just now.
    assert browser.get("/api/jobs", headers={"rook-untouched": "10"}).status_code == 200
    aged(shut, "Away", touched_at=timedelta(minutes=4), seen_at=timedelta(minutes=4))
    for said in ({"rook-untouched": "240"}, {"rook-untouched": "10"}, {"rook-untouched": "-1"}, {}):
        # Once locked it stays so, whatever a page says afterwards.
        assert browser.get("/api/jobs", headers=said).status_code == 423, said
    assert browser.post("/api/doors/unlock", json={"password": WORDS}).status_code == 204
    assert browser.get("/api/jobs").status_code == 200


def test_data_is_kept_in_no_cache_and_the_schema_is_no_strangers(shut: TestClient) -> None:
    assert shut.get("/api/jobs").headers["cache-control"] == "no-store"
    assert shut.get("/openapi.json").status_code == 200
    assert another(shut).get("/openapi.json").status_code == 401
    # The same name over plain words is another origin.
    answer = shut.post("/api/jobs", json={"id": str(uuid4())}, headers={"origin": "http://localhost"})
    assert answer.status_code == 403


def test_what_somebody_brings_in_strikes_out_or_renames_stands_in_the_trail(shut: TestClient) -> None:
    browser = invited(shut, Role.APPRENTICE, "Forge")
    job = str(uuid4())
    assert shut.post("/api/jobs", json={"id": job}).status_code == 201
    archive = browser.get(f"/api/jobs/{job}/archive").content
    brought = browser.post("/api/archives", params={"new_id": str(uuid4())}, content=archive).json()["id"]
    view = browser.get(f"/api/jobs/{brought}/run").json()
    origin = view["origin"]
    # By whoever is signed in, whatever the file says.
    assert (origin["by"], origin["versions"]) == ("Forge", 1)
    record = str(uuid4())
    mark = {"id": record, "step": view["run"]["steps"][0]["key"], "skipped": True, "note": "later"}
    mark |= {"sheet_version": 1, "taken_at": "2026-05-01T09:00:00Z"}
    answer = browser.post(f"/api/jobs/{brought}/marks", json=mark)
    assert answer.status_code == 201, answer.text
    assert browser.post(f"/api/jobs/{brought}/records/{record}/strike", json={"reason": "a slip"}).status_code == 200
    assert browser.post(f"/api/jobs/{brought}/records/{record}/put-back").status_code == 200
    acts = [(act["act"], record in act["what"]) for act in shut.get("/api/people/trail").json()["acts"][:3]]
    assert acts == [
        ("had a record count again", True),
        ("struck a record out", True),
        ("brought a job in from a file", False),
    ]
    assert {act["by"] for act in shut.get("/api/people/trail").json()["acts"][:3]} == {"Forge"}


def test_the_owner_is_told_of_each_new_way_in_until_it_was_seen(shut: TestClient) -> None:
    # Whoever comes in anew isn't told of what was before.
    owner = invited(shut, Role.OWNER, "Una")
    assert owner.get("/api/people/trail/news").json() == []
    shut.put("/api/people/trail/seen", json={"number": shut.get("/api/people/trail/news").json()[0]["number"]})
    fitter = invited(shut, Role.FITTER, "Ivo")
    told = shut.get("/api/people/trail/news").json()
    assert [(one["by"], one["act"]) for one in told] == [("Ivo", "came in"), ("Ivo", "let a device in")]
    assert fitter.get("/api/people/trail/news").status_code == 403
    # On another device of the owner's it is told as well, until it was seen on one of them.
    shut.put("/api/people/trail/seen", json={"number": told[0]["number"]})
    assert shut.get("/api/people/trail/news").json() == []
    assert fitter.put("/api/doors/own-pin", json={"password": WORDS, "pin": "4711"}).status_code == 204
    assert [one["act"] for one in shut.get("/api/people/trail/news").json()] == ["set a PIN"]
    # What was seen stays so.
    shut.put("/api/people/trail/seen", json={"number": 1})
    assert len(shut.get("/api/people/trail/news").json()) == 1
