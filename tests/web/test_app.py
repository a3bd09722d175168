"""What holds for every answer."""

import json
import logging
import re
import shutil
import subprocess
import sys
from contextlib import ExitStack
from pathlib import Path

import psycopg
import pytest
from psycopg.errors import DiskFull, LockNotAvailable, QueryCanceled
from sqlalchemy.exc import OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from starlette.testclient import TestClient

from upper_rook.core.common import errors
from upper_rook.core.common.errors import RookError
from upper_rook.core.common.units import QUANTITIES
from upper_rook.store import jobs  # noqa: F401  (its errors are counted too)
from upper_rook.web.app import create_app
from upper_rook.web.logs import log_to
from upper_rook.web.problems import status_of
from upper_rook.web.settings import Settings

ROOT = Path(__file__).parents[2]


def every_error(kind: type[RookError] = RookError) -> list[type[RookError]]:
    return [one for child in kind.__subclasses__() for one in (child, *every_error(child))]


# Raised before anybody can ask.
_NEVER_ANSWERED = (
    "upper_rook.cli.app",
    "upper_rook.web.network",
    "upper_rook.store.database",
    "upper_rook.store.dumps",
)


@pytest.mark.parametrize("kind", [one for one in every_error() if one.__module__ not in _NEVER_ANSWERED])
def test_every_error_has_a_status(kind: type[RookError]) -> None:
    assert status_of(kind.__new__(kind)) in (401, 403, 404, 409, 422, 428, 429, 503)


def test_an_unmapped_error_is_noticed() -> None:
    class Unmapped(errors.RookError):
        """Belongs to no status."""

    with pytest.raises(KeyError):
        status_of(Unmapped("?"))


def test_the_committed_schema_is_the_generated_one() -> None:
    committed = json.loads((ROOT / "docs" / "openapi.json").read_text("utf-8"))
    now = json.loads(json.dumps(create_app(Settings()).openapi()))
    assert committed == now, "run:  .venv/bin/upper-rook openapi > docs/openapi.json"


def test_the_committed_types_are_the_generated_ones(tmp_path: Path) -> None:
    out = tmp_path / "schema.d.ts"
    generator = ROOT / "frontend" / "node_modules" / ".bin" / "openapi-typescript"
    node = shutil.which("node")
    assert node is not None
    subprocess.run([generator, ROOT / "docs" / "openapi.json", "-o", out], check=True, capture_output=True)
    committed = (ROOT / "frontend" / "src" / "api" / "schema.d.ts").read_text("utf-8")
    assert out.read_text("utf-8") == committed, "run:  npm run types  in frontend/"


def test_the_front_ends_quantities_are_the_cores() -> None:
    theirs = json.loads((ROOT / "frontend" / "src" / "support" / "quantities.json").read_text("utf-8"))
    ours = {
        kind: {
            "unit": quantity.unit,
            "spellings": list(quantity.spellings),
            "lowest": quantity.lowest,
            "highest": quantity.highest,
        }
        for kind, quantity in QUANTITIES.items()
    }
    assert theirs == ours


def test_writes_from_other_sites_are_refused(client: TestClient) -> None:
    answer = client.post("/api/jobs", json={}, headers={"origin": "http://elsewhere.example"})
    assert (answer.status_code, answer.json()["title"]) == (403, "Not from here")


def test_other_host_names_are_refused(client: TestClient) -> None:
    assert client.get("/api/health", headers={"host": "elsewhere.example"}).json()["status"] == 400


def test_a_large_body_is_refused(client: TestClient) -> None:
    answer = client.post("/api/jobs", content=b"x" * 1_000_001)
    assert (answer.status_code, answer.headers["content-type"]) == (413, "application/problem+json")
    assert "at most 1,000,000 bytes" in answer.json()["detail"]
    # Without a length it is noticed while it arrives.
    pieces = (b"x" * 100_000 for _ in range(11))
    assert client.post("/api/jobs", content=pieces).status_code == 413


def test_answers_carry_the_security_headers(client: TestClient) -> None:
    headers = client.get("/api/health").headers
    assert "default-src 'self'" in headers["content-security-policy"]
    assert headers["x-content-type-options"] == "nosniff"


def test_every_address_of_the_app_is_its_page_and_no_file_outside_is_served(client: TestClient) -> None:
    page = client.get("/jobs/anything/run")
    assert '<div id="app">' in page.text
    assert client.get("/..%2f..%2fpyproject.toml").text == page.text
    assert client.get("/api/nowhere").status_code == 404
    assert client.delete("/api/jobs").status_code == 405
    assert "User-agent" in client.get("/robots.txt").text


def test_a_fault_is_logged_under_a_number_and_not_disguised(
    client: TestClient, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    def broken(*_: object, **_named: object) -> None:
        raise ZeroDivisionError("deliberate")

    monkeypatch.setattr("upper_rook.store.job_list.find", broken)
    answer = client.get("/api/jobs")
    assert answer.status_code == 500
    fault = answer.json()["detail"].split("fault ")[1].rstrip(".")
    assert fault in caplog.text
    assert "deliberate" in caplog.text
    assert "deliberate" not in answer.text
    assert answer.headers["connection"] == "close"
    assert answer.headers["content-security-policy"].startswith("default-src 'self'")


def test_a_log_has_times_and_no_statements(tmp_path: Path) -> None:
    file = log_to(tmp_path / "logs")
    log = logging.getLogger("upper_rook")
    try:
        raise OperationalError("select * from secrets", {"name": "Wren"}, Exception("gone"))
    except OperationalError as error:
        log.error("fault abc", exc_info=error)
    finally:
        for handler in [handler for handler in log.handlers if getattr(handler, "baseFilename", "") == str(file)]:
            for name in ("upper_rook", "uvicorn.error"):
                logging.getLogger(name).removeHandler(handler)
            handler.close()
    told = file.read_text("utf-8")
    assert re.match(r"\d{4}-\d\d-\d\d \d\d:\d\d:\d\d,\d+ ERROR upper_rook: fault abc", told)
    assert "OperationalError" in told
    quoted = told.split("OperationalError: ")[-1]
    assert "gone" in quoted
    assert "secrets" not in quoted
    assert "Wren" not in quoted
    assert file.parent.stat().st_mode & 0o077 == 0


@pytest.mark.parametrize(
    ("error", "title"),
    [
        (OperationalError("select", {}, DiskFull()), "The disk is full"),
        (OperationalError("select", {}, QueryCanceled()), "Busy"),
        (OperationalError("select", {}, LockNotAvailable()), "Busy"),
        (PoolTimeout(), "Busy"),
        (OperationalError("select", {}, psycopg.OperationalError()), "The database can’t be reached"),
    ],
)
def test_why_the_database_cannot_do_it_is_told_apart(
    client: TestClient, monkeypatch: pytest.MonkeyPatch, error: Exception, title: str
) -> None:
    def failing(*_: object, **_named: object) -> None:
        raise error

    monkeypatch.setattr("upper_rook.store.job_list.find", failing)
    answer = client.get("/api/jobs")
    assert (answer.status_code, answer.json()["title"]) == (503, title)
    assert "Unsaved entries stay on this device" in answer.json()["detail"]


def test_a_tone_is_a_wave_file(client: TestClient) -> None:
    answer = client.get("/api/signal.wav", params={"frequency_hz": 50, "level_dbfs": -5})
    assert answer.headers["content-type"] == "audio/wav"
    assert answer.content[:4] == b"RIFF"
    assert client.get("/api/signal.wav", params={"frequency_hz": 0}).status_code == 422
    wanted = {"kind": "sweep", "level_dbfs": -3, "seconds": 1}
    sweep = client.get("/api/signal.wav", params=wanted)
    assert 'filename="sweep-from-20-Hz-to-20-kHz-at--3-dBFS.wav"' in sweep.headers["content-disposition"]
    assert client.get("/api/signal", params=wanted).json()["label"] == "sweep from 20 Hz to 20 kHz at −3 dBFS"
    refused = client.get("/api/signal", params={"kind": "sweep", "from_hz": 500, "to_hz": 50})
    assert (refused.status_code, refused.json()["errors"][0]["sentence"]) == (
        422,
        "A sweep goes up: give a lower frequency to begin with.",
    )


def test_a_machine_without_a_built_front_end_says_so(database_url: str, tmp_path: Path) -> None:
    app = create_app(Settings(database_url=database_url, front_end=tmp_path))
    with TestClient(app, base_url="http://localhost") as bare:
        assert "./rook setup" in bare.get("/").json()["detail"]


@pytest.mark.parametrize("place", ["assets/%00", "a" * 5000, "assets/gone.js", ".built", "assets/../.built"])
def test_names_that_no_file_has_are_no_fault(client: TestClient, place: str) -> None:
    answer = client.get(f"/{place}")
    assert answer.status_code in (200, 404)
    assert answer.status_code == 404 or '<div id="app">' in answer.text
    assert (answer.status_code == 404) == place.startswith("assets/") or place.startswith("assets/..")


def test_a_write_from_another_site_is_refused_by_what_the_browser_says_of_it(client: TestClient) -> None:
    for site, status in (("cross-site", 403), ("same-site", 403), ("same-origin", 422), ("none", 422)):
        assert client.post("/api/jobs", json={}, headers={"sec-fetch-site": site}).status_code == status


@pytest.mark.skipif(sys.version_info[:2] != (3, 11), reason="the lock pins other versions for other Pythons")
def test_what_ships_is_listed_with_its_licences(client: TestClient) -> None:
    command = [sys.executable, ROOT / "scripts" / "third_party.py", "--check"]
    checked = subprocess.run(command, capture_output=True, text=True, check=False)
    assert checked.returncode == 0, checked.stderr
    listed = client.get("/third-party.txt")
    assert listed.headers["content-type"].startswith("text/plain")
    rows = [line.split("|") for line in listed.text.splitlines() if line.startswith("| ")]
    assert len(rows) > 60
    assert all(name.strip() and version.strip() and licence.strip() for _, name, version, licence, _ in rows)


def test_three_hundred_streams_cost_nothing_that_stays(client: TestClient) -> None:
    """Subscribing and leaving, as pages do: nothing is left of any of them."""
    changes = client.app.state.changes
    before = dict(changes._queues)
    with ExitStack() as pages:
        for number in range(300):
            pages.enter_context(changes.subscribe({f"job-{number % 7}", "shared"}))
        assert sum(map(len, changes._queues.values())) == 600
    assert dict(changes._queues) == before
