"""
What years of work cost: the list of jobs among 10,000, and a job of 10,000 readings, opened and added to.

./rook bench
"""

import statistics
import sys
import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx2
import psycopg
from sqlmodel import Session

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.conftest import empty_database
from tests.servers import Server

from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.layouts import templates
from upper_rook.desk import job_list, jobs
from upper_rook.store.database import make_engine, migrate

JOBS = 10_000
READINGS = 10_000
ROUNDS = 60
WORDS = ("gannet", "heron", "petrel", "avocet", "dunlin", "curlew", "plover", "knot")
STEP = "ceiling.source.line"


_COPIES = """
insert into job (id, version, created_at, changed_at, changes, vehicle, note, words, summed_up, stands, summary)
select gen_random_uuid(), 1, now(), now() - n * interval '1 minute', 1,
       (NAMES)[1 + mod(n, 8)] || ' ' || n, 'keys on hook ' || mod(n, 50),
       (NAMES)[1 + mod(n, 8)] || ' ' || n || ' keys on hook ' || mod(n, 50) || ' ' || words,
       1, (array['open', 'redo', 'finished'])[1 + mod(n, 3)],
       jsonb_set(summary, '{stands}', to_jsonb((array['open', 'redo', 'finished'])[1 + mod(n, 3)]))
from job, generate_series(1, %s) as n
"""
_SHEETS = """
insert into sheet (job_id, version, sheet, changes, by, saved_at)
select job.id, 1, first.sheet, '[]', '', now()
from job, (select sheet from sheet limit 1) as first where job.id <> %s
"""
_READINGS = """
insert into reading (id, job_id, step, quantity, value, uncertainty, instrument, point, circumstances, seen,
                     sheet_version, taken_at, by, saved_at)
select gen_random_uuid(), job.id, %s, 'ac_volts', 1.0 + n / 100.0, 0.01, 'true-rms',
       '{"kind": "output", "source": "source", "output": "line"}', jsonb_build_object('volume', 10 + mod(n, 30)),
       'clean', 1, now(), '', now()
from job, generate_series(1, %s) as n
"""


def p95(times: list[float]) -> float:
    return statistics.quantiles(times, n=20)[-1]


def timed(work: Callable[[int], Any], rounds: int = ROUNDS) -> list[float]:
    """Milliseconds of each of so many calls."""
    times = []
    for number in range(rounds):
        begun = time.perf_counter()
        work(number)
        times.append(1000 * (time.perf_counter() - begun))
    return times


def fill(url: str) -> str:
    """10,000 jobs, 20 readings in each, and one with 10,000; gives the latter's id."""
    engine = make_engine(url)
    with Session(engine) as session:
        sheet = JobSheet(vehicle="Van", chain=templates()[0].chain)
        job = jobs.begin_with(session, uuid4(), sheet)
        job_list.sum_up(session, 10)
    engine.dispose()
    names = "array[" + ",".join(f"'{word}'" for word in WORDS) + "]"
    with psycopg.connect(url.replace("postgresql+psycopg://", "postgresql://")) as connection:
        connection.execute(_COPIES.replace("NAMES", names), (JOBS - 1,))
        connection.execute(_SHEETS, (job.id,))
        connection.execute(_READINGS, (STEP, 20))
        connection.execute(_READINGS + " where job.id = %s", (STEP, READINGS - 20, job.id))
        connection.commit()
        connection.autocommit = True
        connection.execute("vacuum analyze")
    return str(job.id)


def list_of_jobs(client: httpx2.Client) -> None:
    def ask(**wanted: Any) -> dict[str, Any]:
        answer = client.get("/api/jobs", params=wanted)
        assert answer.status_code == 200, answer.text
        return dict(answer.json())

    first = ask()
    assert first["total"] == JOBS
    assert len(first["jobs"]) == 30
    kinds: dict[str, Callable[[int], Any]] = {
        "newest": lambda _: ask(),
        "next page": lambda _: ask(after=first["after"]),
        "two words": lambda n: ask(search=f"{WORDS[n % 8]} {n}"),
        "a rare word": lambda n: ask(search=f"hook {n % 50}"),
        "to redo": lambda _: ask(stands="redo"),
        "finished with a word": lambda n: ask(stands="finished", search=WORDS[n % 8]),
    }
    for name, work in kinds.items():
        times = timed(work)
        median = statistics.median(times)
        print(f"list of {JOBS:,} jobs, {name}: median {median:.1f} ms, p95 {p95(times):.1f} ms (limit 50)")


def work_of_a_year(client: httpx2.Client) -> None:
    today = datetime.now(UTC).date()
    period = {"since": str(today - timedelta(days=365)), "until": str(today)}
    times = timed(lambda _: client.get("/api/logbook", params=period).raise_for_status(), 5)
    print(f"logbook of a year, {JOBS:,} jobs with 20 readings each: median {statistics.median(times):.0f} ms")


def a_large_job(client: httpx2.Client, job: str) -> None:
    begun = time.perf_counter()
    answer = client.get(f"/api/jobs/{job}/run")
    first = 1000 * (time.perf_counter() - begun)
    times = timed(lambda _: client.get(f"/api/jobs/{job}/run"), 10)
    print(
        f"job of {READINGS:,} readings opened for the first time: {first:.0f} ms (limit 1000), again: median "
        f"{statistics.median(times):.0f} ms; {len(answer.content) / 1e3:.0f} kB"
    )
    health = statistics.median(timed(lambda _: client.get("/api/health")))
    archive = statistics.median(timed(lambda _: client.get(f"/api/jobs/{job}/archive"), 3))
    again = statistics.median(times)
    print(
        f"a health check {health:.1f} ms: opened again {again / health:.1f} × (limit 10), "
        f"its archive {archive / health:.0f} × (limit 60)"
    )
    page = timed(lambda _: client.get(f"/api/jobs/{job}/readings"), 20)
    print(f"a page of its readings: median {statistics.median(page):.1f} ms")
    begun, sent, asked = time.perf_counter(), 0, 0.0
    while time.perf_counter() - begun < 5:
        body = {
            "id": str(uuid4()),
            "step": STEP,
            "value": 1.5,
            "instrument": "true-rms",
            "circumstances": {"volume": 20},
            "sheet_version": 1,
            "taken_at": "2026-05-01T09:00:00Z",
            "builds_on": [],
        }
        assert client.post(f"/api/jobs/{job}/readings", json=body).status_code == 201
        sent += 1
        # As a page does: the run is asked for now and then.
        if time.perf_counter() - asked > 0.6:
            client.get(f"/api/jobs/{job}/run")
            asked = time.perf_counter()
    rate = sent / (time.perf_counter() - begun)
    print(f"drained into it, its run asked for as a page does: {rate:.0f} a second (limit 50)")


def main(url: str) -> None:
    migrate(url)
    job = fill(url)
    server = Server(url).start()
    with httpx2.Client(base_url=server.url, timeout=60) as client:
        list_of_jobs(client)
        work_of_a_year(client)
        a_large_job(client, job)
    server.stop()


if __name__ == "__main__":
    with empty_database() as url:
        main(url)
