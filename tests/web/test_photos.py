"""Photos through the API: kept once, changed by one at a time, on the sheet, in archives and backups, gone for good."""

import hashlib
import io
import json
import zipfile
from concurrent.futures import ThreadPoolExecutor
from typing import Any
from uuid import UUID, uuid4

import pytest
from starlette.testclient import TestClient

from tests.shot import photo
from tests.web.test_archives import elsewhere, put_in
from upper_rook.store import photos as stored

__all__ = ["elsewhere"]
Body = dict[str, Any]
ARROW = {"kind": "arrow", "x": 0.25, "y": 0.5, "x2": 0.5, "y2": 0.25, "text": ""}


def send(client: TestClient, job: Body, data: bytes, **more: object) -> Any:
    query = {"id": str(uuid4()), "taken_at": "2026-05-02T10:00:00Z"} | more
    return client.post(f"/api/jobs/{job['id']}/photos", params=query, content=data)


def wanted(photo: Body, **more: object) -> Body:
    return {name: photo[name] for name in ("revision", "name", "part", "step", "drawn")} | more


@pytest.fixture
def shot(client: TestClient, job: Body) -> Body:
    """A photo of the front amplifier, as answered."""
    answer = send(
        client, job, photo(), part=f"amplifiers.{job['sheet']['chain']['amplifiers'][0]['id']}", name="Knobs", by="Wren"
    )
    assert answer.status_code == 201
    return answer.json()


def files(client: TestClient, job: Body, shot: Body) -> tuple[bytes, bytes]:
    place = f"/api/jobs/{job['id']}/photos/{shot['id']}/file"
    answers = [client.get(place, params=query) for query in ({}, {"small": True})]
    assert [answer.headers["content-type"] for answer in answers] == ["image/jpeg"] * 2
    return answers[0].content, answers[1].content


def test_a_photo_sent_twice_is_kept_once_and_comes_without_its_place(client: TestClient, job: Body, shot: Body) -> None:
    again = send(client, job, photo(), part=shot["part"], name="Knobs", by="Wren", id=shot["id"])
    assert (again.status_code, again.json()) == (201, shot)
    assert send(client, job, photo(400, 300), id=shot["id"]).status_code == 409
    assert client.get(f"/api/jobs/{job['id']}/photos").json() == [shot]
    full, small = files(client, job, shot)
    assert b"Somebody" in photo()
    assert b"Somebody" not in full + small
    digests = tuple(hashlib.sha256(data).hexdigest() for data in (full, small))
    assert digests == (shot["digest"], shot["small_digest"])


def test_two_who_change_a_photo_do_not_overwrite_each_other(client: TestClient, job: Body, shot: Body) -> None:
    place = f"/api/jobs/{job['id']}/photos/{shot['id']}"
    changed = client.put(place, json=wanted(shot, drawn=[ARROW])).json()
    assert (changed["drawn"], changed["revision"]) == ([ARROW], 2)
    late = client.put(place, json=wanted(shot, name="Other"))
    assert late.status_code == 409
    assert "meanwhile" in late.json()["detail"]
    assert client.put(place, json=wanted(changed, step="gain.front", part=None)).json()["drawn"] == [ARROW]
    for bad in ({**ARROW, "x": 1.2}, {**ARROW, "x2": 0.25, "y2": 0.5}, {**ARROW, "kind": "word"}):
        refused = client.put(place, json=wanted(changed, revision=3, drawn=[bad]))
        assert refused.status_code == 422


def test_the_sheet_shows_what_was_drawn(client: TestClient, job: Body, shot: Body) -> None:
    place = f"/api/jobs/{job['id']}"
    word = {"kind": "word", "x": 0.1, "y": 0.1, "text": "<b>this & that"}
    client.put(f"{place}/photos/{shot['id']}", json=wanted(shot, drawn=[ARROW, word]))
    amplifier = job["sheet"]["chain"]["amplifiers"][0]
    (told,) = client.get(f"{place}/handover.json").json()["photos"]
    assert (told["caption"], told["shows"]) == ("Knobs", f"Amplifier {amplifier['name']}".rstrip())
    html = client.get(f"{place}/sheet.html").text
    assert "data:image/jpeg;base64," in html
    # The arrow on a photo of 1200 × 900 in thousandths of its width; its letters are letters.
    assert 'd="M250.0 375.0L500.0 187.5' in html
    assert "&lt;b&gt;this &amp; that" in html
    assert client.get(f"{place}/sheet.pdf").content.count(b"/Subtype /Image") >= 1
    assert "data:image" not in client.get(f"{place}/card.html").text


def test_a_photo_goes_byte_by_byte_into_another_installation(
    client: TestClient, elsewhere: TestClient, job: Body, shot: Body
) -> None:
    shot = client.put(f"/api/jobs/{job['id']}/photos/{shot['id']}", json=wanted(shot, drawn=[ARROW])).json()
    data = client.get(f"/api/jobs/{job['id']}/archive").content
    assert put_in(elsewhere, data).status_code == 201
    (there,) = elsewhere.get(f"/api/jobs/{job['id']}/photos").json()
    assert there | {"arrival": 0} == shot | {"arrival": 0}
    # Who took it is as the file says, there and nowhere else.
    told = [at.get(f"/api/jobs/{job['id']}/handover.json").json()["photos"][0]["by"] for at in (client, elsewhere)]
    assert told == ["Wren", "Wren, as the file says"]
    assert files(elsewhere, job, shot) == files(client, job, shot)
    # Under another id where it is already, with the same picture.
    copied = put_in(client, data).json()
    (other,) = client.get(f"/api/jobs/{copied['id']}/photos").json()
    assert other["id"] != shot["id"]
    assert files(client, copied, other) == files(client, job, shot)


def test_an_archive_with_a_photo_that_none_of_ours_would_be_is_refused(
    client: TestClient, elsewhere: TestClient, job: Body, shot: Body
) -> None:
    whole = client.get(f"/api/jobs/{job['id']}/archive").content
    place = f"photos/{shot['id']}.jpg"
    script = b"<svg xmlns='http://www.w3.org/2000/svg'><script>alert(1)</script></svg>"
    for data, word in ((None, "lacks"), (photo(), "isn’t one that was kept"), (script, "can’t be read")):
        refused = put_in(elsewhere, _with_file(whole, place, data))
        assert refused.status_code == 422
        assert word in refused.json()["detail"]
    refused = put_in(elsewhere, _with_file(whole, place, photo(), honest=False))
    assert "is not the one that was archived" in refused.json()["detail"]


def _with_file(archive: bytes, place: str, data: bytes | None, *, honest: bool = True) -> bytes:
    """The archive, unsigned, with another file at a place; an `honest` one says its digest."""
    written = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(archive)) as old, zipfile.ZipFile(written, "w") as new:
        document = json.loads(old.read("archive.json"))
        if honest and data is not None:
            document["photos"][0]["digest"] = hashlib.sha256(data).hexdigest()
        new.writestr("archive.json", json.dumps(document))
        for name in old.namelist():
            if name not in {"archive.json", "signature.json", place}:
                new.writestr(name, old.read(name))
        if data is not None:
            new.writestr(place, data)
    return written.getvalue()


def test_a_removed_photo_is_gone_for_good(client: TestClient, job: Body, shot: Body) -> None:
    place = f"/api/jobs/{job['id']}/photos/{shot['id']}"
    assert client.delete(place).status_code == 204
    assert client.delete(place).status_code == 204
    assert client.get(f"{place}/file").status_code == 404
    assert client.get(f"/api/jobs/{job['id']}/photos").json() == []
    assert "photo_file" not in client.get(f"/api/jobs/{job['id']}/archive").text


def test_what_is_no_photo_is_refused_and_another_jobs_is_not_found(client: TestClient, job: Body, shot: Body) -> None:
    assert send(client, job, b"none at all").json()["detail"].startswith("This isn’t a photo that can be read")
    other = client.post("/api/jobs", json={"id": str(uuid4()), "vehicle": "Other van"}).json()
    assert client.get(f"/api/jobs/{other['id']}/photos/{shot['id']}/file").status_code == 404
    assert client.put(f"/api/jobs/{other['id']}/photos/{shot['id']}", json=wanted(shot)).status_code == 404
    assert client.delete(f"/api/jobs/{other['id']}/photos/{shot['id']}").status_code == 204
    assert client.get(f"/api/jobs/{job['id']}/photos").json() == [shot]


def test_a_job_keeps_as_many_photos_as_its_archive_may_hold(
    client: TestClient, job: Body, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(stored, "MOST_PHOTOS", 3)
    data = photo(64, 48)
    with ThreadPoolExecutor(4) as pool:
        statuses = sorted(answer.status_code for answer in pool.map(lambda _: send(client, job, data), range(6)))
    # Four files are received at a time; whoever has no place is asked to send it again.
    assert statuses.count(201) == 3
    assert set(statuses) <= {201, 422, 503, 429}
    (kept, *_) = client.get(f"/api/jobs/{job['id']}/photos").json()
    with client.app.state.store() as session:  # type: ignore[attr-defined]
        # One that comes a second time needs no place, even where its first was kept only just now.
        stored.need_room(session, UUID(job["id"]), UUID(kept["id"]))
    full = send(client, job, data)
    assert (full.status_code, full.json()["detail"]) == (422, "A job keeps 3 photos: remove one first.")
