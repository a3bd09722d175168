"""Customers over HTTP: by whom they are seen, what leaves the shop of them, and that taking one out is for good."""

from datetime import date, timedelta
from pathlib import Path
from typing import Any
from urllib.parse import quote
from uuid import uuid4

import icalendar
import pytest
from alembic import command
from fastapi.testclient import TestClient
from sqlalchemy import text
from sqlmodel import Session

from tests.conftest import empty_database, migrated_database
from tests.web.people import invited, store
from upper_rook.core.common.roles import Act, Role, may
from upper_rook.desk import backups
from upper_rook.store.database import make_engine, migrate, migration_config
from upper_rook.web.app import create_app
from upper_rook.web.settings import Settings

Body = dict[str, Any]
ADA = {
    "name": "Ada Brook",
    "phone": "0555 0134",
    "plate": "KX 12-34",
    "consent_on": "2026-11-30",
    "stays": [{"arrived_on": "2026-11-30", "due_on": "2026-12-04", "mileage_km": 48_200}],
}


def app_on(url: str) -> TestClient:
    """The app on a database of its own."""
    return TestClient(create_app(Settings(database_url=url)), base_url="http://localhost")


def at(job: Body) -> str:
    return f"/api/jobs/{job['id']}/customer"


def keep(client: TestClient, job: Body, customer: Body, base: int = 0, status: int = 200) -> Body:
    answer = client.put(at(job), json={"base_version": base, "customer": customer})
    assert answer.status_code == status, answer.text
    return dict(answer.json())


def test_a_customer_is_kept_edited_and_refused_where_somebody_was_quicker(client: TestClient, job: Body) -> None:
    assert client.get(at(job)).json() == {
        "version": 0,
        "customer": {"name": "", "phone": "", "plate": "", "note": "", "consent_on": None, "stays": []},
        "changed_at": None,
        "by": "",
    }
    kept = keep(client, job, ADA)
    assert (kept["version"], kept["customer"]["name"]) == (1, "Ada Brook")
    assert "changed the customer a moment ago" in keep(client, job, ADA | {"name": "Bea"}, 0, 409)["detail"]
    keep(client, job, ADA | {"name": "Bea"}, 1)
    assert client.get(at(job)).json()["customer"]["name"] == "Bea"
    # It is no part of the system: neither its version nor a sign-off's standing moves.
    assert client.get(f"/api/jobs/{job['id']}").json()["version"] == job["version"]
    early = ADA | {"stays": [{"arrived_on": "2026-11-30", "due_on": "2026-11-29"}]}
    assert "is due on 29 Nov 2026, before it arrived" in keep(client, job, early, 2, 422)["detail"]
    for day in ("4016-09-04", "0428-02-16", "yesterday", "2026-11-31", 5, True):
        refused = keep(client, job, ADA | {"consent_on": day}, 2, 422)
        assert refused["errors"][0]["field"] == "customer.consent_on"
    assert keep(client, {"id": str(uuid4())}, ADA, 0, 404)["detail"] == "There is no such job."
    practice = client.post("/api/jobs", json={"id": str(uuid4()), "practice": True}).json()
    assert keep(client, practice, ADA, 0, 409)["detail"] == "A practice job has no customer."


def test_what_is_due_is_listed_in_order_and_as_a_calendar_without_names() -> None:
    with (
        migrated_database() as url,
        TestClient(create_app(Settings(database_url=url)), base_url="http://localhost") as client,
    ):
        days = {"Kombi Gannet": "2026-12-09", "Van Petrel": "2026-12-04", "Kombi Dunlin": "2026-12-05"}
        jobs = {name: client.post("/api/jobs", json={"id": str(uuid4()), "vehicle": name}).json() for name in days}
        for name, day in days.items():
            keep(client, jobs[name], ADA | {"stays": [{"arrived_on": "2026-11-30", "due_on": day}]})
        assert [one["vehicle"] for one in client.get("/api/due").json()] == [
            "Van Petrel",
            "Kombi Dunlin",
            "Kombi Gannet",
        ]
        listed = {job["vehicle"]: job["due_on"] for job in client.get("/api/jobs").json()["jobs"]}
        assert listed == days
        answer = client.get("/api/due.ics")
        assert answer.headers["content-type"] == "text/calendar; charset=utf-8"
        assert "Ada" not in answer.text
        events = icalendar.Calendar.from_ical(answer.content).walk("VEVENT")
        assert [(str(event["summary"]), event["dtstart"].dt) for event in events] == [
            ("Due: Van Petrel", date(2026, 12, 4)),
            ("Due: Kombi Dunlin", date(2026, 12, 5)),
            ("Due: Kombi Gannet", date(2026, 12, 9)),
        ]
        assert {event["dtend"].dt - event["dtstart"].dt for event in events} == {timedelta(days=1)}
        # Once it has left, and where it is put away, nothing is due.
        left = ADA | {"stays": [{"due_on": "2026-12-04", "left_on": "2026-12-03"}]}
        keep(client, jobs["Van Petrel"], left, 1)
        client.put(f"/api/jobs/{jobs['Kombi Dunlin']['id']}/archived", json={"there": True})
        assert [one["vehicle"] for one in client.get("/api/due").json()] == ["Kombi Gannet"]


def test_only_some_roles_see_customers_and_find_jobs_by_them(shut: TestClient) -> None:
    job = shut.post("/api/jobs", json={"id": str(uuid4()), "vehicle": "Dory"}).json()
    keep(shut, job, ADA)
    for role in (Role.FITTER, Role.APPRENTICE, Role.LOOKER_ON, Role.LEARNER):
        browser = invited(shut, role, f"One who is {role.value}")
        sees = may(role, Act.CUSTOMERS)
        assert (browser.get(at(job)).status_code == 200) == sees
        assert (browser.delete(at({"id": str(uuid4())})).status_code == 404) == sees
        for words in ("brook", "kx1234", "0555 0134"):
            found = browser.get("/api/jobs", headers={"rook-search": quote(words)}).json()["total"]
            assert (found == 1) == sees, (role, words)
            # In an address, which others log, no customer is looked for.
            assert browser.get("/api/jobs", params={"search": words}).json()["total"] == 0
        paper = browser.get(f"/api/jobs/{job['id']}/handover.json")
        assert ("Ada Brook, 0555 0134, KX 12-34, 48,200 km" in paper.text) == sees
        assert ("Ada Brook" in browser.get(f"/api/jobs/{job['id']}/sheet.html").text) == sees
        if role is Role.LEARNER:
            assert browser.get("/api/due").json() == []
    # The card is the customer's own, and the archive leaves the shop.
    for name in ("card.html", "archive", "file"):
        assert b"Brook" not in shut.get(f"/api/jobs/{job['id']}/{name}").content


def test_taken_out_the_trail_names_only_the_job(shut: TestClient) -> None:
    job = shut.post("/api/jobs", json={"id": str(uuid4()), "vehicle": "Dory"}).json()
    keep(shut, job, ADA | {"name": "Cleo Marsh"})
    assert shut.delete(at(job)).status_code == 204
    assert shut.get(at(job)).json()["version"] == 0
    assert shut.get("/api/jobs", headers={"rook-search": "marsh"}).json()["total"] == 0
    told = shut.get("/api/people/trail").text
    assert "took a customer out" in told
    assert "Marsh" not in told
    with store(shut) as session:
        tables = session.execute(text("select tablename from pg_tables where schemaname = 'public'")).scalars()
        for table in tables.all():
            rows = session.execute(text(f'select * from "{table}"'))  # noqa: S608 names of our own tables
            assert not any("Cleo Marsh" in str(row) for row in rows), table


@pytest.mark.parametrize("over", [True, False])
def test_an_older_backup_brings_none_back_that_was_taken_out(tmp_path: Path, *, over: bool) -> None:
    old, newer = tmp_path / "old.zip", tmp_path / "newer.zip"
    with migrated_database() as url, empty_database() as fresh:
        with app_on(url) as client:
            jobs = [client.post("/api/jobs", json={"id": str(uuid4())}).json() for _ in range(3)]
            for job in jobs:
                keep(client, job, ADA)
            backups.back_up(url, old)
            client.delete(at(jobs[0]))
            client.delete(at(jobs[1]))
            # Whoever comes again is entered again, and that stays.
            keep(client, jobs[1], ADA | {"name": "Ada again"})
            backups.back_up(url, newer)
        backups.restore(url if over else fresh, old if over else newer, tmp_path / "aside.zip" if over else None)
        engine = make_engine(url if over else fresh)
        with Session(engine) as session:
            kept = set(session.execute(text("select job_id::text from customer")).scalars())
            due = set(session.execute(text("select id::text from job where due_on is not null")).scalars())
        engine.dispose()
    if over:
        # The old backup has both as they were before they were taken out.
        assert kept == due == {jobs[2]["id"]}
    else:
        assert kept == due == {jobs[1]["id"], jobs[2]["id"]}


def test_the_list_of_those_taken_out_lasts_over_a_backup_that_has_no_place_for_it(tmp_path: Path) -> None:
    before, with_customer = tmp_path / "before.zip", tmp_path / "with.zip"
    with migrated_database() as url:
        with app_on(url) as client:
            job = client.post("/api/jobs", json={"id": str(uuid4())}).json()
            keep(client, job, ADA)
        backups.back_up(url, with_customer)
        command.downgrade(migration_config(url), "0014")
        backups.back_up(url, before)
        migrate(url)
        with app_on(url) as client:
            client.delete(at(job))
        for number, file in enumerate((before, with_customer)):
            backups.restore(url, file, tmp_path / f"aside-{number}.zip")
        with app_on(url) as client:
            assert client.get(at(job)).json()["version"] == 0
