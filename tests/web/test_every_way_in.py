"""
Every operation of the API done once with success by somebody who is signed in, and tried with rubbish.

One day of a workshop in order. After each request the same one goes out with values that nobody should send, one at a
time, and from every role that doesn't cover it: no value makes a fault, and the roles are refused.
"""

import copy
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any, NamedTuple
from uuid import uuid4

import pytest
from starlette.testclient import TestClient

from tests.shot import photo
from tests.web.people import WORDS, another, come_in, invited
from tests.web.recordings import swept
from tests.web.test_handovers import GRID
from tests.web.test_sources import source
from upper_rook.core.common.roles import Role, may
from upper_rook.instruments.simulated import BenchState
from upper_rook.web.acts import Acts
from upper_rook.web.app import ROUTERS

DOCUMENT = json.loads((Path(__file__).parents[2] / "docs/openapi.json").read_text("utf-8"))
EVERY = {(method.upper(), path) for path, operations in DOCUMENT["paths"].items() for method in operations}
# A key that signs is needed, or the answer never ends; test_passkeys and test_live have them.
ELSEWHERE = {
    ("POST", "/api/doors/passkeys"),
    ("DELETE", "/api/doors/passkeys/{key_id}"),
    ("POST", "/api/doors/passkey"),
    ("GET", "/api/live"),
    # There is one only where the app made its own certificate.
    ("GET", "/api/doors/authority"),
}
SECRETS = ("password", "former", "pin", "person", "name", "end_passkeys")
TAKEN = "2026-05-02T10:00:00Z"
RUBBISH = (
    None,
    "",
    "\x00\u202e",
    "x" * 5000,
    -1,
    1e308,
    10**400,
    [],
    {},
    [[[[[[[[[[]]]]]]]]]],
    True,
    "00000000-0000-0000-0000-000000000000",
)


class Ask(NamedTuple):
    """A request that succeeds; `path` as the document has it."""

    method: str
    path: str
    at: dict[str, str]
    body: Any = None
    query: dict[str, Any] = {}  # noqa: RUF012 nobody writes into it
    content: bytes | None = None

    @property
    def address(self) -> str:
        """The path with its values."""
        return self.path.format(**self.at)


class Day:
    """Who is there, and what they have done."""

    def __init__(self, owner: TestClient) -> None:
        self.owner = owner
        self.job, self.copied, self.practice = str(uuid4()), str(uuid4()), str(uuid4())
        self.reading, self.second, self.mark = str(uuid4()), str(uuid4()), str(uuid4())
        self.capture, self.photo, self.offer = str(uuid4()), str(uuid4()), str(uuid4())
        self.source, self.other, self.part = str(uuid4()), str(uuid4()), str(uuid4())
        self.kept: dict[str, Any] = {}

    def get(self, path: str) -> Any:
        """An answer that the next request is made of."""
        return self.owner.get(path.format(job_id=self.job, source_id=self.source)).json()

    def reading_of(
        self, reading_id: str, volume: int = 20, step: str = "ceiling.source.line", volts: float = 1.5
    ) -> dict[str, Any]:
        """A reading of the volume steps, or of another step."""
        return {
            "id": reading_id,
            "step": step,
            "value": volts,
            "instrument": "scope",
            "circumstances": {"volume": volume},
            "seen": "clean",
            "sheet_version": 1,
            "taken_at": TAKEN,
        }


def _looks(day: Day) -> Iterator[Ask]:
    """What is only looked at, as often as there is something of each kind."""
    at = {
        "job_id": day.job,
        "record_id": day.reading,
        "capture_id": day.capture,
        "photo_id": day.photo,
        "version": "1",
        "unit": "shelf",
    }
    at |= {
        "part_id": day.part,
        "source_id": day.source,
        "other_id": day.other,
        "sheet": "sheet",
        "part": "steps",
        "file": "flac",
    }
    queries: dict[str, dict[str, Any]] = {
        "/api/calculator/output": {"watts": 75, "ohms": 4},
        "/api/calculator/level": {"db": 3},
        "/api/calculator/corner": {"volts": 8},
        "/api/calculator/impedance": {"ohms": 4},
        "/api/jobs/{job_id}/meter": {"step": "ceiling.source.line"},
        "/api/jobs/{job_id}/labels.svg": GRID,
        "/api/jobs/{job_id}/labels.pdf": GRID,
        "/api/signal": {"frequency_hz": 1000},
    }
    for method, path in sorted(EVERY - ELSEWHERE):
        if method == "GET":
            yield Ask(method, path, at, query=queries.get(path, {}))


def _work(day: Day) -> Iterator[Ask]:
    job, source_at = {"job_id": day.job}, {"source_id": day.source}
    yield Ask("POST", "/api/jobs", {}, {"id": day.job, "vehicle": "Dory"})
    yield Ask("PUT", "/api/jobs/{job_id}/bench", job, BenchState().model_dump(mode="json"))
    yield Ask("POST", "/api/jobs/{job_id}/readings", job, day.reading_of(day.reading))
    mark = {
        "id": day.mark,
        "step": "safe",
        "item": "speakers-off",
        "answer": "done",
        "sheet_version": 1,
        "taken_at": TAKEN,
    }
    yield Ask("POST", "/api/jobs/{job_id}/marks", job, mark)
    yield Ask("POST", "/api/jobs/{job_id}/readings", job, day.reading_of(str(uuid4()), 31, volts=3.8))
    taking = {"id": str(uuid4()), "step": "ceiling.source.line", "basis": "marked", "volume": 31}
    yield Ask("POST", "/api/jobs/{job_id}/marks", job, taking | {"sheet_version": 1, "taken_at": TAKEN})
    yield Ask("POST", "/api/jobs/{job_id}/readings", job, day.reading_of(str(uuid4()), 31, "gain.front", 15.4))
    record = job | {"record_id": day.reading}
    yield Ask("POST", "/api/jobs/{job_id}/records/{record_id}/strike", record, {"reason": "slip"})
    yield Ask("POST", "/api/jobs/{job_id}/records/{record_id}/put-back", record)
    told = {"id": day.capture, "name": "sweep.wav", "taken_at": TAKEN, "full_scale_v": 40.0}
    yield Ask("POST", "/api/jobs/{job_id}/captures", job, query=told, content=swept(15.4, 40.0))
    capture = job | {"capture_id": day.capture}
    yield Ask("PUT", "/api/jobs/{job_id}/captures/{capture_id}/reading", capture, {"reading_id": day.reading})
    yield Ask("PUT", "/api/jobs/{job_id}/captures/{capture_id}/name", capture, {"name": "left door"})
    used = {"step": "prove.front", "sheet_version": 1, "taken_at": TAKEN}
    yield Ask("POST", "/api/jobs/{job_id}/captures/{capture_id}/readings", capture, used)
    yield Ask("POST", "/api/jobs/{job_id}/captures/{capture_id}/strike", capture, {"reason": "slip"})
    yield Ask("POST", "/api/jobs/{job_id}/captures/{capture_id}/put-back", capture)
    told = {"id": day.photo, "taken_at": TAKEN, "part": "amplifiers.front"}
    yield Ask("POST", "/api/jobs/{job_id}/photos", job, query=told, content=photo())
    circle = {"kind": "circle", "x": 0.5, "y": 0.5, "x2": 0.6, "y2": 0.5}
    change = {"revision": 1, "name": "Knobs", "part": None, "step": "safe", "drawn": [circle]}
    yield Ask("PUT", "/api/jobs/{job_id}/photos/{photo_id}", job | {"photo_id": day.photo}, change)
    sheet = day.get("/api/jobs/{job_id}")["sheet"]
    yield Ask("POST", "/api/jobs/{job_id}/preview", job, sheet)
    yield Ask("PUT", "/api/jobs/{job_id}/sheet", job, {"base_version": 1, "sheet": sheet | {"note": "hook 3"}})
    yield Ask("POST", "/api/jobs/{job_id}/copy", job, {"id": day.copied})
    yield Ask("PUT", "/api/jobs/{job_id}/presence", job, {"step": "safe"})
    yield Ask("POST", "/api/jobs/{job_id}/holding", job, {"wish": "ask"})
    yield Ask("POST", "/api/jobs/{job_id}/offers", job, day.reading_of(day.offer, 23))
    offer = job | {"offer_id": day.offer}
    yield Ask("POST", "/api/jobs/{job_id}/offers/{offer_id}/take", offer)
    second = job | {"offer_id": str(uuid4())}
    yield Ask("POST", "/api/jobs/{job_id}/offers", job, day.reading_of(second["offer_id"], 24))
    yield Ask("DELETE", "/api/jobs/{job_id}/offers/{offer_id}", second)
    yield Ask("POST", "/api/sources/{source_id}/file", source_at, source())
    yield Ask("POST", "/api/sources/{source_id}/file", {"source_id": day.other}, source("Another"))
    from_job = {"job_id": day.job, "source": sheet["chain"]["sources"][0]["id"]}
    yield Ask("POST", "/api/sources/{source_id}/from-job", {"source_id": str(uuid4())}, from_job)
    into = {"sheet": sheet, "source": from_job["source"]}
    yield Ask("POST", "/api/sources/{source_id}/into-job", source_at, into)
    kept = day.get("/api/sources/{source_id}")["kept"]
    edit = {"base_version": kept["version"], "sheet": kept["sheet"]}
    yield Ask("PUT", "/api/sources/{source_id}", source_at, edit)
    yield from _parts(day, sheet)
    yield Ask(
        "POST",
        "/api/corner",
        {},
        {
            "kind": "high",
            "readings": [
                {"frequency_hz": 80.0, "open_v": 8.0, "filtered_v": 5.66},
                {"frequency_hz": 40.0, "open_v": 8.0, "filtered_v": 1.94},
            ],
        },
    )
    yield Ask("POST", "/api/impedance", {}, content=b"40;5.8\n100;6.1\n1000;7.2\n")
    customer = {"base_version": 0, "customer": {"name": "Ada Brook", "stays": [{"due_on": "2026-12-04"}]}}
    yield Ask("PUT", "/api/jobs/{job_id}/customer", job, customer)
    yield from _looks(day)
    yield Ask("DELETE", "/api/jobs/{job_id}/photos/{photo_id}", job | {"photo_id": day.photo})
    yield Ask("DELETE", "/api/jobs/{job_id}/customer", job)
    changes = day.get("/api/jobs/{job_id}/sign-offs")["changes"]
    yield Ask("POST", "/api/jobs/{job_id}/sign-offs", job, {"id": str(uuid4()), "changes": changes})
    file = day.owner.get(f"/api/jobs/{day.job}/file").json()
    yield Ask("POST", "/api/jobs/{job_id}/file", {"job_id": str(uuid4())}, file)
    archive = day.owner.get(f"/api/jobs/{day.job}/archive").content
    yield Ask("POST", "/api/archives", {}, query={"new_id": str(uuid4())}, content=archive)
    for there in (True, False):
        yield Ask("PUT", "/api/jobs/{job_id}/archived", job, {"there": there})
        yield Ask("PUT", "/api/jobs/{job_id}/deleted", job, {"there": there})
        yield Ask("PUT", "/api/sources/{source_id}/deleted", source_at, {"there": there})


def _parts(day: Day, sheet: dict[str, Any]) -> Iterator[Ask]:
    """What is done with the parts of the shop."""
    at = {"part_id": day.part}
    speakers = {"format": 1, "speakers": {"id": "part", "name": "Marram 130", "impedance_ohm": 4.0, "power_w": 80.0}}
    yield Ask("POST", "/api/parts/{part_id}/file", at, speakers)
    load = f"loads.{sheet['chain']['loads'][0]['id']}"
    yield Ask("POST", "/api/parts/{part_id}/into-job", at, {"sheet": sheet, "place": load})
    kept = day.owner.get(f"/api/parts/{day.part}").json()["kept"]
    yield Ask("PUT", "/api/parts/{part_id}", at, {"base_version": 1, "sheet": kept["sheet"] | {"note": "hook 4"}})
    for there in (True, False):
        yield Ask("PUT", "/api/parts/{part_id}/deleted", at, {"there": there})
    for kind in ("amplifier", "speakers"):
        yield Ask("POST", f"/api/spec-text/{kind}", {}, {"text": "75 W x 4 @ 4 ohm (1 % THD, 14.4 V)"})
    named = sheet["chain"]["amplifiers"][0] | {"name": "Brackwater"}
    chain = sheet["chain"] | {"amplifiers": [named, *sheet["chain"]["amplifiers"][1:]]}
    yield Ask(
        "PUT", "/api/jobs/{job_id}/sheet", {"job_id": day.job}, {"base_version": 2, "sheet": sheet | {"chain": chain}}
    )
    of_job = {"job_id": day.job, "place": f"amplifiers.{named['id']}"}
    yield Ask("POST", "/api/parts/{part_id}/from-job", {"part_id": str(uuid4())}, of_job)


def _doors(day: Day) -> Iterator[Ask]:
    """What is done about people, devices and oneself; the last ends the session."""
    yield Ask("POST", "/api/doors/prove", {}, {"password": WORDS})
    yield Ask("PUT", "/api/doors/own-pin", {}, {"password": WORDS, "pin": "4071"})
    yield Ask("POST", "/api/doors/lock", {})
    yield Ask("POST", "/api/doors/unlock", {}, {"pin": "4071"})
    yield Ask("POST", "/api/people/invitations", {}, {"role": "fitter"})
    link = day.kept["/api/people/invitations"]["link"].partition("#")[2]
    yield Ask("POST", "/api/doors/link", {}, {"link": link})
    yield Ask("PUT", "/api/people/trail/seen", {}, {"number": 1})
    device = day.owner.get("/api/doors").json()["device"]["id"]
    yield Ask("PUT", "/api/people/devices/{device_id}", {"device_id": device}, {"name": "tablet, bay 2"})
    yield Ask("POST", "/api/doors/passkeys/offer", {})
    yield Ask("POST", "/api/doors/passkey/ask", {})
    gone = next(one for one in day.owner.get("/api/people").json() if one["name"] == "Old hand")
    yield Ask("DELETE", "/api/people/{person_id}", {"person_id": gone["id"]}, query={"nameless": True})
    others = [one["id"] for one in day.owner.get("/api/people/devices").json() if one["id"] != device]
    yield Ask("DELETE", "/api/people/devices/{device_id}", {"device_id": others[-1]})
    me = day.owner.get("/api/doors").json()["person"]["id"]
    yield Ask("POST", "/api/doors/sign-out", {})
    yield Ask("POST", "/api/doors/pin", {}, {"person": me, "pin": "4071"})
    yield Ask("DELETE", "/api/doors/own-pin", {})
    yield Ask("POST", "/api/doors/password", {}, {"former": WORDS, "password": f"{WORDS} anew"})
    yield Ask("POST", "/api/doors/sign-out", {})
    yield Ask("POST", "/api/doors/sign-in", {}, {"name": "Mara", "password": f"{WORDS} anew"})


def sent(browser: TestClient, ask: Ask, body: Any = None, query: Any = None, *, spoiled: bool = False) -> Any:
    content = ask.content
    if content is not None and spoiled:
        # A few bytes of it are no file either, and nobody judges a whole sweep for a name that can't be.
        content = content[:40]
    if body is not None:
        # What JSON has no word for is written as no client would.
        content = json.dumps(body).encode()
    headers = {"content-type": "application/json" if ask.content is None else "application/octet-stream"}
    params = ask.query if query is None else query
    return browser.request(ask.method, ask.address, params=params, content=content, headers=headers)


def _spoiled(ask: Ask) -> Iterator[tuple[Any, Any]]:
    """Body and query with a value that nobody should send, one at a time."""
    for number, name in enumerate(ask.body if isinstance(ask.body, dict) else {}):
        # Words that would be tried as a password are counted, and after a few nobody gets in.
        rubbish = [value for value in RUBBISH if name not in SECRETS or not isinstance(value, str)]
        for value in rubbish[number % 3 :: 3]:
            fresh = {"id": str(uuid4())} if "id" in ask.body else {}
            yield copy.deepcopy(ask.body) | fresh | {name: value}, None
    if ask.body is not None:
        yield [], None
        yield "x", None
    for number, name in enumerate(ask.query):
        for value in ("", "\x00", "x" * 3000, "-1", "1e999", "9" * 5000)[number % 3 :: 3]:
            yield None, ask.query | {name: value}
    if ask.content is not None:
        yield None, None


@pytest.fixture(scope="module")
def crew(shut: TestClient) -> dict[Role, TestClient]:
    """A browser of each other role, and somebody who is to leave."""
    invited(shut, Role.FITTER, "Old hand")
    return {role: invited(shut, role, f"The {role.value}") for role in Role if role is not Role.OWNER}


def test_every_operation_succeeds_once_and_none_makes_a_fault(shut: TestClient, crew: dict[Role, TestClient]) -> None:
    acts, day, done, tried = Acts(ROUTERS), Day(shut), set(), 0
    for ask in (ask for part in (_work, _doors) for ask in part(day)):
        act = acts.of({"type": "http", "method": ask.method, "path": ask.address, "headers": []})
        for role, browser in crew.items():
            if act is not None and not may(role, act):
                assert sent(browser, ask, ask.body).status_code == 403, (role, ask.path)
        answer = sent(shut, ask, ask.body)
        assert answer.status_code < 400, (ask.method, ask.path, answer.status_code, answer.text[:300])
        if answer.content and answer.headers.get("content-type") == "application/json":
            day.kept[ask.path] = answer.json()
        for body, query in _spoiled(ask):
            tried += 1
            assert sent(shut, ask, body, query, spoiled=True).status_code < 500, (ask.method, ask.path, body, query)
        done.add((ask.method, ask.path))
    # The last two ways in take another browser.
    link = shut.post("/api/people/invitations", json={}).json()["link"].partition("#")[2]
    newcomer = another(shut)
    assert newcomer.post("/api/doors/pair", json={"link": link, "device": "phone"}).status_code == 201
    come_in(newcomer, shut.post("/api/people/invitations", json={"role": "fitter"}).json()["link"], "Eyja")
    done |= {("POST", "/api/doors/pair"), ("POST", "/api/doors/come-in")}
    assert EVERY - ELSEWHERE - done == set()
    assert tried > 300
