"""A whole job out of one installation and into another, losing nothing."""

import csv
import hashlib
import io
import json
import resource
import zipfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any
from uuid import uuid4

import jsonschema_rs
import pytest
from starlette.testclient import TestClient

from tests.conftest import migrated_database
from upper_rook.web import exchange
from upper_rook.web.app import create_app
from upper_rook.web.settings import Settings

Body = dict[str, Any]
TABLE = "time;CH1\n" + "\n".join(f"{number / 48000:.7f};{(number % 48 - 24) / 20:.4f}" for number in range(960))


@pytest.fixture(scope="module")
def elsewhere() -> Iterator[TestClient]:
    """Another installation."""
    with migrated_database() as url:
        app = create_app(Settings(database_url=url))
        with TestClient(app, base_url="http://localhost", raise_server_exceptions=False) as client:
            yield client


@pytest.fixture
def worked(client: TestClient, job: Body, a_reading: Any, a_mark: Any) -> Body:
    """A job with two versions, readings, one of them struck, marks and a capture."""
    place = f"/api/jobs/{job['id']}"
    readings = [
        a_reading(volume=number, volts=1.0 + number / 10, device=str(uuid4()), by="Wren") for number in (20, 21, 22)
    ]
    for body in readings:
        assert client.post(f"{place}/readings", json=body).status_code == 201
    client.post(f"{place}/records/{readings[0]['id']}/strike", json={"reason": "a slip"})
    client.post(f"{place}/marks", json=a_mark("ceiling.source.line", basis="marked", volume=22))
    sheet = job["sheet"] | {"note": "second version", "vehicle": "Möwe “IV”/x"}
    assert client.put(f"{place}/sheet", json={"base_version": 1, "sheet": sheet, "by": "Wren"}).status_code == 200
    told = {"id": str(uuid4()), "name": "../odd name?.csv", "taken_at": "2026-05-01T09:00:00Z"}
    assert client.post(f"{place}/captures", params=told, content=TABLE.encode()).status_code == 201
    client.put(f"{place}/captures/{told['id']}/reading", json={"reading_id": readings[1]["id"]})
    return client.get(place).json()


def everything(client: TestClient, job: str) -> Body:
    """All that can be asked for of a job, but for what the server numbers and dates itself."""
    place = f"/api/jobs/{job}"
    view = client.get(f"{place}/run").json()
    for one in (*view["readings"], *view["marks"], *(state["reading"] for state in view["run"]["states"])):
        if one:
            del one["arrival"]
    captures = [client.get(f"{place}/captures/{one['id']}").json() for one in client.get(f"{place}/captures").json()]
    files = [client.get(f"{place}/captures/{capture['id']}/file").content for capture in captures]
    del view["job"]["changed_at"], view["origin"]
    return {
        "run": view,
        "history": client.get(f"{place}/history").json(),
        "captures": captures,
        "files": files,
        "result": client.get(f"{place}/result").json(),
    }


def put_in(client: TestClient, data: bytes, new_id: str | None = None) -> Any:
    return client.post("/api/archives", params={"new_id": new_id or str(uuid4())}, content=data)


def test_a_job_taken_to_another_installation_is_the_same_there(
    client: TestClient, elsewhere: TestClient, worked: Body
) -> None:
    data = client.get(f"/api/jobs/{worked['id']}/archive").content
    answer = put_in(elsewhere, data)
    assert answer.status_code == 201
    assert answer.json()["id"] == worked["id"]
    assert everything(elsewhere, worked["id"]) == everything(client, worked["id"])
    # What it says of itself is marked as such, to the last record and version that came; not what follows.
    assert client.get(f"/api/jobs/{worked['id']}/run").json()["origin"] is None
    view = elsewhere.get(f"/api/jobs/{worked['id']}/run").json()
    last = max(one["arrival"] for one in (*view["readings"], *view["marks"]))
    assert (view["origin"]["records"] >= last, view["origin"]["versions"]) == (True, 2)
    # The paper and the table say so too.
    paper = elsewhere.get(f"/api/jobs/{worked['id']}/handover.json").json()
    assert paper["done_by"]
    assert all(name.endswith(", as the file says") for name in paper["done_by"])
    assert "which another installation signed (key " in paper["brought_in"]
    assert paper["brought_in"] in elsewhere.get(f"/api/jobs/{worked['id']}/sheet.html").text
    table = elsewhere.get(f"/api/jobs/{worked['id']}/readings.csv").text
    assert {row["by"] for row in csv.DictReader(io.StringIO(table))} <= {"", *paper["done_by"]}
    assert client.get(f"/api/jobs/{worked['id']}/handover.json").json()["brought_in"] == ""
    # And on from there: an archive of the archive is the same again.
    again = elsewhere.get(f"/api/jobs/{worked['id']}/archive").content
    documents = [json.loads(zipfile.ZipFile(io.BytesIO(one)).read("archive.json")) for one in (data, again)]
    for document in documents:
        for one in (*document["readings"], *document["marks"]):
            del one["arrival"]
    assert documents[0] == documents[1]


def test_an_archive_is_as_its_schema_says_and_opens_without_the_app(client: TestClient, worked: Body) -> None:
    archive = zipfile.ZipFile(io.BytesIO(client.get(f"/api/jobs/{worked['id']}/archive").content))
    document, schema = (json.loads(archive.read(name)) for name in ("archive.json", "schema.json"))
    jsonschema_rs.validator_for(schema).validate(document)
    table = archive.read("readings.csv").decode().splitlines()
    assert len(table) == 4
    assert "a slip" in table[1]
    (place,) = [name for name in archive.namelist() if name.startswith("files/")]
    assert ".." not in place.split("/")
    assert archive.read(place).decode() == TABLE


def test_a_job_taken_in_where_it_is_already_becomes_another(client: TestClient, worked: Body) -> None:
    data = client.get(f"/api/jobs/{worked['id']}/archive").content
    new_id = str(uuid4())
    total = client.get("/api/jobs").json()["total"]
    # Sent twice it is one.
    copy, again = (put_in(client, data, new_id).json() for _ in range(2))
    assert copy["id"] == again["id"] == new_id
    assert client.get("/api/jobs").json()["total"] == total + 1
    before, after = everything(client, worked["id"]), everything(client, new_id)
    assert after["files"] == before["files"]
    assert [reading["value"] for reading in after["run"]["readings"]] == [
        reading["value"] for reading in before["run"]["readings"]
    ]
    states = [[state["state"] for state in told["run"]["run"]["states"]] for told in (before, after)]
    assert states[0] == states[1]
    attached = [capture["reading_id"] for capture in after["captures"]]
    assert attached == [after["run"]["readings"][1]["id"]]
    assert client.get(f"/api/jobs/{worked['id']}").json()["version"] == worked["version"]


def test_an_archive_that_is_sent_twice_is_one_job(client: TestClient, worked: Body, elsewhere: TestClient) -> None:
    archive = client.get(f"/api/jobs/{worked['id']}/archive").content

    def send(sending: str) -> str:
        answer = elsewhere.post("/api/archives", params={"new_id": sending}, content=archive)
        assert answer.status_code == 201, answer.text
        return str(answer.json()["id"])

    before = elsewhere.get("/api/jobs").json()["total"]
    # Four times at once, and once more after a lost answer.
    sending = str(uuid4())
    with ThreadPoolExecutor(4) as pool:
        came = set(pool.map(send, [sending] * 4))
    came.add(send(sending))
    assert len(came) == 1
    assert elsewhere.get("/api/jobs").json()["total"] == before + 1
    # Another sending of what is there already is a copy that somebody asked for.
    assert send(str(uuid4())) not in came


def test_a_damaged_or_foreign_archive_is_refused_and_nothing_kept(client: TestClient, worked: Body) -> None:
    data = client.get(f"/api/jobs/{worked['id']}/archive").content
    before = client.get("/api/jobs").json()["total"]
    empty = io.BytesIO()
    zipfile.ZipFile(empty, "w").close()
    # In the job itself, the first of its entries.
    torn = data[:200] + bytes(200) + data[400:]
    for bad in (b"", b"no zip", data[:-100], empty.getvalue(), torn, _changed(data, "format", 9), _without_file(data)):
        answer = put_in(client, bad)
        assert answer.status_code == 422, answer.text
        assert "archive" in answer.json()["detail"].lower()
    assert client.get("/api/jobs").json()["total"] == before


@pytest.mark.parametrize(
    ("place", "value"),
    [
        (("sheets", 0, "version"), 3),
        (("sheets", 0, "by"), "a\0b"),
        (("sheets", 0, "saved_at"), "0001-01-01T00:00:00Z"),
        (("readings", 0, "sheet_version"), 9),
        (("readings", 0, "struck"), "a\0b"),
        (("readings", 0, "value"), "Infinity"),
        (("captures", 0, "reading_id"), "00000000-0000-4000-8000-000000000000"),
        (("captures", 0, "headline"), "a\0b"),
        (("captures", 0, "size"), 10**12),
        (("bench",), {"volume": "loud"}),
        (("created_at",), "yesterday"),
    ],
)
def test_an_archive_that_somebody_changed_is_refused_with_a_word(
    client: TestClient, worked: Body, monkeypatch: pytest.MonkeyPatch, place: tuple[str | int, ...], value: object
) -> None:
    # Past the child that looks at every archive first, which takes a second to load: what is behind it refuses too.
    monkeypatch.setattr(exchange, "check_archive", lambda _: None)
    data = client.get(f"/api/jobs/{worked['id']}/archive").content

    def change(document: Body) -> Body:
        within: Any = document
        for name in place[:-1]:
            within = within[name]
        within[place[-1]] = value
        return document

    answer = put_in(client, _rebuilt(data, change, lambda _: True))
    assert answer.status_code == 422, answer.text
    assert "archive" in answer.json()["detail"]


def test_who_signed_an_archive_stands_at_its_job(client: TestClient, elsewhere: TestClient, worked: Body) -> None:
    data = client.get(f"/api/jobs/{worked['id']}/archive").content
    public = json.loads(zipfile.ZipFile(io.BytesIO(data)).read("signature.json"))["public_key"]
    digits = hashlib.sha256(bytes.fromhex(public)).hexdigest()

    def origin(at: TestClient, archive: bytes) -> Body:
        answer = put_in(at, archive)
        assert answer.status_code == 201, answer.text
        return dict(at.get(f"/api/jobs/{answer.json()['id']}/run").json()["origin"])

    assert origin(client, data)["signed"] == "here"
    told = origin(elsewhere, data)
    assert (told["signed"], told["signer"].replace(" ", "")) == ("elsewhere", digits[:16])
    # Whoever changes it has to take the signature out, and that shows.
    renamed = _changed(data, "created_at", "2024-05-01T09:00:00Z")
    assert origin(client, renamed)["signed"] == "nobody"
    # The key stays the same.
    again = client.get(f"/api/jobs/{worked['id']}/archive").content
    assert json.loads(zipfile.ZipFile(io.BytesIO(again)).read("signature.json"))["public_key"] == public


def test_an_archive_that_was_changed_after_it_was_signed_is_refused(client: TestClient, worked: Body) -> None:
    data = client.get(f"/api/jobs/{worked['id']}/archive").content
    other = client.get(f"/api/jobs/{put_in(client, data).json()['id']}/archive").content
    signature = json.loads(zipfile.ZipFile(io.BytesIO(data)).read("signature.json"))
    foreign = zipfile.ZipFile(io.BytesIO(other)).read("signature.json")

    def with_signature(text: bytes) -> bytes:
        out = io.BytesIO(_rebuilt(data, lambda document: document, lambda _: True))
        with zipfile.ZipFile(out, "a") as archive:
            archive.writestr("signature.json", text)
        return out.getvalue()

    later = _rebuilt(data, lambda one: one | {"created_at": "2024-05-01T09:00:00Z"}, lambda _: True, signed=True)
    wrong = json.dumps(signature | {"signature": "0" * 128}).encode()
    for bad in (later, with_signature(foreign), with_signature(wrong), with_signature(b"{}")):
        answer = put_in(client, bad)
        assert answer.status_code == 422
        assert "changed after it was signed" in answer.json()["detail"]


def test_two_readings_under_one_id_are_refused(client: TestClient, worked: Body) -> None:
    data = client.get(f"/api/jobs/{worked['id']}/archive").content

    def double(document: Body) -> Body:
        return document | {"readings": [*document["readings"], document["readings"][0]]}

    assert put_in(client, _rebuilt(data, double, lambda _: True)).status_code == 422


def _changed(data: bytes, name: str, value: object) -> bytes:
    return _rebuilt(data, lambda document: document | {name: value}, lambda _: True)


def _without_file(data: bytes) -> bytes:
    return _rebuilt(data, lambda document: document, lambda name: not name.startswith("files/"))


def _rebuilt(data: bytes, change: Any, keep: Any, *, signed: bool = False) -> bytes:
    """The archive with something changed; without its signature, which would show that, unless it is wanted."""
    out, old = io.BytesIO(), zipfile.ZipFile(io.BytesIO(data))
    with zipfile.ZipFile(out, "w") as new:
        for name in filter(keep, old.namelist()):
            if name == "signature.json" and not signed:
                continue
            text = old.read(name)
            new.writestr(name, json.dumps(change(json.loads(text))) if name == "archive.json" else text)
    return out.getvalue()


def test_an_archive_that_unpacks_to_far_more_is_refused_while_others_work(client: TestClient, worked: Body) -> None:
    data = client.get(f"/api/jobs/{worked['id']}/archive").content
    # Megabytes of nothing under a name that no job refers to: never read.
    assert put_in(client, _with_entry(data, "files/more", bytes(200_000_000))).status_code == 201
    # Millions of records that are none: whoever reads them needs gigabytes to say what is wrong with each.
    swollen = b'{"format":1,"readings":[' + b",".join([b"{}"] * 10_000_000) + b"]}"
    many = io.BytesIO()
    with zipfile.ZipFile(many, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("archive.json", swollen)
    assert len(many.getvalue()) < 200_000
    began = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    with ThreadPoolExecutor(4) as pool:
        answers = list(pool.map(lambda _: put_in(client, many.getvalue()), range(4)))
    assert {(answer.status_code, answer.json()["detail"]) for answer in answers} == {
        (422, "This job archive is too large to be read.")
    }
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - began < 100_000


def _with_entry(data: bytes, name: str, more: bytes) -> bytes:
    made = io.BytesIO(data)
    with zipfile.ZipFile(made, "a", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(name, more)
    return made.getvalue()
