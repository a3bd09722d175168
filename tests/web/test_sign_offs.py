"""Answering for a job: who may, that a change since is told, and the trail of it that nothing here can change."""

from collections.abc import Callable
from typing import Any
from uuid import uuid4

import pytest
from sqlalchemy import text
from sqlalchemy.exc import ProgrammingError
from sqlmodel import Session
from starlette.testclient import TestClient

from tests.web.people import invited, store
from tests.web.test_captures import as_csv, send, wave
from upper_rook.core.common.roles import Role


def test_a_fitter_signs_off_what_an_apprentice_did(shut: TestClient) -> None:
    fitter, apprentice = invited(shut, Role.FITTER, "Tyra"), invited(shut, Role.APPRENTICE, "Jonna")
    job = apprentice.post("/api/jobs", json={"id": str(uuid4()), "vehicle": "Dory"}).json()
    at = f"/api/jobs/{job['id']}"
    seen = apprentice.get(f"{at}/sign-offs").json()
    assert seen["signed"] == []
    body = {"id": str(uuid4()), "changes": seen["changes"], "note": "listened to", "by": "Mara"}
    assert apprentice.post(f"{at}/sign-offs", json=body).status_code == 403
    told = fitter.post(f"{at}/sign-offs", json=body)
    assert told.status_code == 201
    signed = told.json()["signed"][0]
    assert (signed["by"], signed["note"], signed["stands"]) == ("Tyra", "listened to", True)
    # Sent twice it is one; under its id nobody else signs.
    assert len(fitter.post(f"{at}/sign-offs", json=body).json()["signed"]) == 1
    assert shut.post(f"{at}/sign-offs", json=body).status_code == 409
    edit = {"base_version": 1, "sheet": job["sheet"] | {"vehicle": "Dory II"}}
    assert apprentice.put(f"{at}/sheet", json=edit).status_code == 200
    after = fitter.get(f"{at}/sign-offs").json()
    assert after["signed"][0]["stands"] is False
    # Nobody answers for what they didn't see.
    late = fitter.post(f"{at}/sign-offs", json=body | {"id": str(uuid4())})
    assert (late.status_code, late.json()["field"]) == (409, "changes")
    again = fitter.post(f"{at}/sign-offs", json=body | {"id": str(uuid4()), "changes": after["changes"]})
    assert [one["stands"] for one in again.json()["signed"]] == [True, False]
    assert fitter.get(f"/api/jobs/{uuid4()}/sign-offs").status_code == 404


def test_without_doors_the_typed_name_signs(client: TestClient) -> None:
    job = client.post("/api/jobs", json={"id": str(uuid4()), "vehicle": "Dory"}).json()
    at = f"/api/jobs/{job['id']}/sign-offs"
    body = {"id": str(uuid4()), "changes": client.get(at).json()["changes"], "by": "Mara"}
    assert client.post(at, json=body).json()["signed"][0]["by"] == "Mara"


def test_a_sign_off_names_what_it_covers_and_falls_with_its_evidence(
    client: TestClient, job: dict[str, Any], a_reading: Callable[..., dict[str, Any]]
) -> None:
    base = f"/api/jobs/{job['id']}"
    reading = client.post(f"{base}/readings", json=a_reading(volume=20, volts=1.5)).json()
    capture = send(client, job, as_csv(wave())).json()["id"]

    def signed() -> dict[str, Any]:
        at = f"{base}/sign-offs"
        body = {"id": str(uuid4()), "changes": client.get(at).json()["changes"], "by": "Mara"}
        return dict(client.post(at, json=body).json()["signed"][0])

    def stands() -> bool:
        return bool(client.get(f"{base}/sign-offs").json()["signed"][0]["stands"])

    assert signed()["covers"] == "version 1, 1 reading, 1 recording, 0 of them attached"
    assert stands()
    own = f"{base}/captures/{capture}"
    changes = (
        ("put", f"{own}/reading", {"reading_id": reading["id"]}),
        ("post", f"{own}/strike", {"reason": "of another van"}),
        ("post", f"{own}/put-back", None),
    )
    for method, address, body in changes:
        assert client.request(method, address, json=body).status_code == 200, address
        assert not stands(), address
        signed()
        assert stands()
    # A name is no evidence.
    assert client.put(f"{own}/name", json={"name": "left door"}).status_code == 200
    assert stands()
    assert signed()["covers"] == "version 1, 1 reading, 1 recording, 1 of them attached"


def test_the_trail_tells_and_can_only_be_added_to(shut: TestClient) -> None:
    browser = invited(shut, Role.FITTER, "Unn")
    browser.post("/api/doors/sign-out")
    trail = shut.get("/api/people/trail").json()
    assert trail["kept"]
    acts = [(act["by"], act["act"]) for act in trail["acts"]]
    for wanted in (("Mara", "made a link"), ("Unn", "came in"), ("Unn", "signed out")):
        assert wanted in acts
    older = shut.get("/api/people/trail", params={"before": trail["acts"][0]["number"]}).json()["acts"]
    assert older == trail["acts"][1:]
    table = shut.get("/api/people/trail.csv").text
    assert table.startswith("number,at,by,device,act,what\r\n")
    assert table.count("\r\n") == len(trail["acts"]) + 1
    # Whatever the app's own role tries.
    tries = (
        "update trail.act set by = 'Mara'",
        "delete from trail.act",
        "truncate trail.act",
        "drop table trail.act",
        "drop schema trail cascade",
        "alter table trail.act disable trigger all",
        "alter table trail.act owner to rook",
        "insert into trail.act (at, by, device, act, what) values (now() - interval '1 year', '', '', '', '')",
        "insert into trail.act (number, by, device, act, what) overriding system value values (1, '', '', '', '')",
        "set role rook_trail",
    )
    with store(shut) as session:
        before = _acts(session)
        # Nobody gives themselves what they haven't got: the server warns and does nothing.
        session.execute(text("grant all on trail.act to rook"))
        session.commit()
        for one in tries:
            with pytest.raises(ProgrammingError, match=r"permission denied|must be owner"):
                session.execute(text(one))
            session.rollback()
        assert _acts(session) == before
    assert invited(shut, Role.APPRENTICE, "Vala").get("/api/people/trail").status_code == 403


def _acts(session: Session) -> list[object]:
    return list(session.execute(text("select * from trail.act order by number")).all())
