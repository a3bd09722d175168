"""The logbook over HTTP, against a day of work that is counted by hand."""

import csv
import io
from typing import Any
from uuid import uuid4

from starlette.testclient import TestClient

from tests.conftest import migrated_database
from tests.web.people import invited
from tests.web.test_customers import app_on
from upper_rook.core.common.roles import Role
from upper_rook.core.run.readings.step_families import FAMILY_NAMES
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import run_sheet
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.layouts import templates

Body = dict[str, Any]
DAY = {"since": "2026-05-02", "until": "2026-05-02"}
STEP = "ceiling.source.line"


def _job(client: TestClient, **more: Any) -> str:
    return str(client.post("/api/jobs", json={"id": str(uuid4()), "vehicle": "Dory"} | more).json()["id"])


def _moment(time: str) -> str:
    """A moment of the day, or of another one where that is said."""
    return f"{time}Z" if "T" in time else f"2026-05-02T{time}Z"


def _read(client: TestClient, job: str, taken_at: str, by: str, volume: int) -> str:
    body = {"id": str(uuid4()), "step": STEP, "value": 1.0 + volume / 100, "instrument": "true-rms"}
    body |= {"circumstances": {"volume": volume}, "sheet_version": 1, "by": by, "taken_at": _moment(taken_at)}
    answer = client.post(f"/api/jobs/{job}/readings", json=body)
    assert answer.status_code == 201, answer.text
    return str(answer.json()["id"])


def _say(client: TestClient, job: str, taken_at: str, by: str, **said: Any) -> None:
    body = {"id": str(uuid4()), "sheet_version": 1, "by": by, "taken_at": _moment(taken_at)} | said
    answer = client.post(f"/api/jobs/{job}/marks", json=body)
    assert answer.status_code == 201, answer.text


def test_a_day_of_two_people_is_counted() -> None:
    with migrated_database() as url, app_on(url) as at:
        first, second, practice = _job(at), _job(at), _job(at, practice=True)
        # Wren: 30 s and 60 s at the numbers, an hour's pause, the supply left out, and back to one number.
        _read(at, first, "09:00:00", "Wren", 20)
        _read(at, first, "09:00:30", "Wren", 21)
        slip = _read(at, first, "09:01:30", "Wren", 22)
        at.post(f"/api/jobs/{first}/records/{slip}/strike", json={"reason": "slip"})
        _say(at, first, "10:01:30", "Wren", step="supply", skipped=True, note="in a hurry")
        _read(at, first, "10:02:00", "Wren", 22)
        # Ada: one reading, one answer; another of the day before, practice, and a job in the bin don't count.
        _read(at, second, "11:00:00", "Ada", 20)
        _say(at, second, "11:00:10", "Ada", step="safe", item="speakers-off", answer="done")
        _read(at, second, "2026-05-01T11:00:20", "Ada", 21)
        _read(at, practice, "12:00:00", "Ada", 20)
        gone = _job(at)
        _read(at, gone, "12:00:00", "Ada", 20)
        at.put(f"/api/jobs/{gone}/deleted", json={"there": True})
        changes = at.get(f"/api/jobs/{second}/sign-offs").json()["changes"]
        signed = at.post(f"/api/jobs/{second}/sign-offs", json={"id": str(uuid4()), "changes": changes, "by": "Kit"})
        today = signed.json()["signed"][0]["at"][:10]

        told = at.get("/api/logbook", params=DAY).json()
        assert (told["since"], told["until"], told["jobs"]) == ("2026-05-02", "2026-05-02", 2)
        assert told["people"] == [
            {"name": "Wren", "jobs": 1, "readings": 3, "answers": 1, "signed": 0},
            {"name": "Ada", "jobs": 1, "readings": 1, "answers": 1, "signed": 0},
        ]
        steps = {step["family"]: step for step in told["steps"]}
        assert steps["ceiling"] == {
            "family": "ceiling",
            "name": "Clean maximum",
            "done": 2,
            "skipped": 0,
            "redone": 1,
            "struck": 1,
            # 30 + 60 + 30 s of Wren's; Ada's first reading has none before it.
            "median_s": 120.0,
        }
        assert (steps["supply"]["done"], steps["supply"]["skipped"], steps["supply"]["median_s"]) == (0, 1, None)
        assert (steps["safe"]["done"], steps["safe"]["median_s"]) == (1, 10.0)
        # The second of May 2026 is a Saturday; what came the day before lies in the same week.
        assert told["weeks"] == [{"monday": "2026-04-27", "jobs": 2, "readings": 4, "answers": 2}]
        more = at.get("/api/logbook", params=DAY | {"since": "2026-05-01"}).json()["weeks"]
        assert more == [{"monday": "2026-04-27", "jobs": 2, "readings": 5, "answers": 2}]
        (week,) = csv.DictReader(io.StringIO(at.get("/api/logbook/weeks.csv", params=DAY).text))
        assert week == {"monday": "2026-04-27", "jobs": "2", "readings": "4", "answers": "2"}
        (row, *_) = csv.DictReader(io.StringIO(at.get("/api/logbook/people.csv", params=DAY).text))
        assert row == {"name": "Wren", "jobs": "1", "readings": "3", "answers": "1", "signed": "0"}
        rows = list(csv.DictReader(io.StringIO(at.get("/api/logbook/steps.csv", params=DAY).text)))
        assert {row["family"]: row["done"] for row in rows} == {"ceiling": "2", "safe": "1", "supply": "0"}
        # Who only signed is there as well, on the day of that.
        people = at.get("/api/logbook", params={"since": today, "until": today}).json()["people"]
        assert people == [{"name": "Kit", "jobs": 0, "readings": 0, "answers": 0, "signed": 1}]
        assert at.get("/api/logbook").json()["jobs"] == 0
        for wrong in ({"since": "2026-05-03", "until": "2026-05-02"}, {"since": "1970-01-01"}, {"since": "May"}):
            assert at.get("/api/logbook", params=wrong).status_code == 422, wrong


def test_who_practises_sees_no_work_of_others(shut: TestClient) -> None:
    learner = invited(shut, Role.LEARNER, "Runa")
    for path in ("/api/logbook", "/api/logbook/people.csv", "/api/logbook/steps.csv"):
        assert learner.get(path).status_code == 403
        assert invited(shut, Role.LOOKER_ON, f"Sees {path}").get(path).status_code == 200


def test_every_kind_of_step_has_a_name() -> None:
    keys = {
        step.key.partition(".")[0]
        for template in templates()
        for step in run_sheet(JobSnapshot(sheet=JobSheet(chain=template.chain)))
    }
    assert keys <= FAMILY_NAMES.keys()
