"""The list of jobs: searched, sorted out and paged by what is kept beside each job."""

from collections.abc import Iterator
from datetime import UTC, datetime, timedelta, tzinfo
from uuid import UUID, uuid4

import pytest
from sqlalchemy import text
from sqlmodel import Session

from tests.core.helpers import answers, reading, steps_of
from upper_rook.core.common.errors import BadInput, NotFound
from upper_rook.core.run.result.summary import Standing
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.desk import job_list, jobs
from upper_rook.desk.transaction import transaction
from upper_rook.store import job_list as stored
from upper_rook.store import jobs as stored_jobs
from upper_rook.store import trail
from upper_rook.store.captures import list_captures
from upper_rook.store.database import make_engine, migrate
from upper_rook.store.job_list import Shelf, Wanted
from upper_rook.store.record_keeping import add_mark, add_reading
from upper_rook.store.records import records_of


@pytest.fixture
def shop(fresh_database: str) -> Iterator[Session]:
    """A session on a database that only one test's jobs are in."""
    migrate(fresh_database)
    engine = make_engine(fresh_database)
    with Session(engine) as session:
        yield session
    engine.dispose()


def begin(session: Session, sheet: JobSheet, vehicle: str, note: str = "") -> UUID:
    return jobs.begin_with(session, uuid4(), sheet.model_copy(update={"vehicle": vehicle, "note": note})).id


def names(session: Session, **wanted: object) -> list[str]:
    return [job.vehicle for job in job_list.page(session, Wanted.model_validate(wanted)).jobs]


def test_every_word_is_found_wherever_it_stands_whatever_its_case_and_accents(shop: Session, sheet: JobSheet) -> None:
    begin(shop, sheet, "Möwe IV", "Keys on hook 4")
    begin(shop, sheet, "Gannet 6", "100 % wool_seats")
    assert names(shop, search="MOWE hook") == ["Möwe IV"]
    assert names(shop, search="möwe gannet") == []
    # The names of parts count, and what stands for anything in SQL is only itself.
    assert set(names(shop, search=sheet.chain.paths[0].name)) == {"Möwe IV", "Gannet 6"}
    assert names(shop, search="100 %") == names(shop, search="wool_s") == ["Gannet 6"]
    assert names(shop, search="w%l") == []


def test_an_edit_is_found_at_once(shop: Session, sheet: JobSheet) -> None:
    job_id = begin(shop, sheet, "Gannet 6")
    jobs.save_sheet(shop, job_id, 1, sheet.model_copy(update={"vehicle": "Heron"}))
    assert names(shop, search="heron") == ["Heron"]
    assert names(shop, search="gannet") == []


def test_pages_follow_one_another_without_gap_or_repetition(shop: Session, sheet: JobSheet) -> None:
    begun = [begin(shop, sheet, f"Van {number}") for number in range(25)]
    found, after = [], None
    while True:
        page = job_list.page(shop, Wanted(), after, 10)
        assert page.total == 25
        found += [job.id for job in page.jobs]
        after = page.after
        if after is None:
            break
    assert found == begun[::-1]
    for bad in ("yesterday", "2026-01-01_x", f"2026-01-01T00:00:00_{uuid4()}"):
        with pytest.raises(BadInput, match="place in the list"):
            job_list.page(shop, Wanted(), bad)


def test_what_a_record_changes_shows_in_the_next_list(shop: Session, sheet: JobSheet) -> None:
    job_id = begin(shop, sheet, "Van")
    assert names(shop, stands="open") == ["Van"]
    with transaction(shop):
        for said in answers(sheet):
            add_mark(shop, job_id, said)
        add_reading(shop, job_id, reading(steps_of(sheet)["ceiling.source.line"], 20, 1.5))
    (entry,) = job_list.page(shop, Wanted()).jobs
    assert entry.summary is not None
    assert entry.summary.states.count("done") == sum(bool(step.items) for step in steps_of(sheet).values())
    assert entry.summary.current == steps_of(sheet)["ceiling.source.line"].title


def test_a_summary_that_was_overtaken_does_not_stand(shop: Session, sheet: JobSheet) -> None:
    job_id = begin(shop, sheet, "Van")
    (entry,) = job_list.page(shop, Wanted()).jobs
    assert entry.summary is not None
    seen = stored.changes_of(shop, job_id)
    with transaction(shop):
        add_reading(shop, job_id, reading(steps_of(sheet)["ceiling.source.line"], 20, 1.5))
        stored.keep_summary(shop, job_id, seen, entry.summary, None)
    assert stored.not_summed_up(shop, 5) == [job_id]


def test_a_sheet_that_cannot_be_read_is_listed_with_why_and_hides_no_other(shop: Session, sheet: JobSheet) -> None:
    begin(shop, sheet, "Good")
    newer, torn = begin(shop, sheet, "Newer"), begin(shop, sheet, "Torn")
    shop.execute(text("insert into sheet_format values (9, '4.2.0')"))
    change = "update sheet set sheet = jsonb_set(sheet, '{%s}', '%s') where job_id = :job"
    shop.execute(text(change % ("format", "9")), {"job": newer})
    shop.execute(text(change % ("chain", "{}")), {"job": torn})
    shop.execute(text("update job set changes = changes + 1"))
    shop.commit()
    shop.expire_all()
    page = job_list.page(shop, Wanted())
    told = {job.vehicle: job.summary for job in page.jobs}
    assert told["Good"] is not None
    assert told["Good"].stands is Standing.OPEN
    assert told["Newer"] is not None
    assert "version 4.2.0 or newer" in told["Newer"].current
    assert told["Torn"] is not None
    assert "can’t be read: chain" in told["Torn"].current
    assert names(shop, stands="unreadable") == ["Torn", "Newer"]
    with pytest.raises(stored_jobs.Unreadable):
        stored_jobs.get_job(shop, newer)


def test_a_job_that_cannot_be_worked_out_hides_no_other(shop: Session, sheet: JobSheet) -> None:
    begin(shop, sheet, "Good")
    torn = begin(shop, sheet, "Torn")
    with transaction(shop):
        add_reading(shop, torn, reading(steps_of(sheet)["ceiling.source.line"], 20, 1.5))
        shop.execute(text("update reading set point = '{}'"))
    told = {job.vehicle: job.summary for job in job_list.page(shop, Wanted()).jobs}
    assert told["Good"] is not None
    assert told["Good"].stands is Standing.OPEN
    assert told["Torn"] is not None
    assert "can’t be worked out" in told["Torn"].current


def test_jobs_not_looked_through_yet_are_told_whatever_is_searched(shop: Session, sheet: JobSheet) -> None:
    for number in range(12):
        begin(shop, sheet, f"Van {number}")
    shop.execute(text("update job set words = ''"))
    shop.commit()
    # As after an update of the app: a list brings up some itself and tells of the rest.
    assert job_list.page(shop, Wanted(search="van")).unread == 2
    assert job_list.page(shop, Wanted(search="van")).unread == 0


def test_a_job_put_away_is_out_of_the_list_and_comes_back(shop: Session, sheet: JobSheet) -> None:
    job_id = begin(shop, sheet, "Van")
    for put, shelf in ((jobs.archive, Shelf.ARCHIVE), (jobs.delete, Shelf.BIN)):
        put(shop, job_id, True)
        put(shop, job_id, True)
        assert names(shop) == []
        assert names(shop, shelf=shelf) == ["Van"]
        put(shop, job_id, False)
        assert names(shop) == ["Van"]


def test_only_what_lay_in_the_bin_for_thirty_days_is_gone_for_good(shop: Session, sheet: JobSheet) -> None:
    old, new, kept = (begin(shop, sheet, name) for name in ("Old", "New", "Kept"))
    with transaction(shop):
        for job_id in (old, kept):
            add_reading(shop, job_id, reading(steps_of(sheet)["ceiling.source.line"], 20, 1.5))
    for job_id in (old, new):
        jobs.delete(shop, job_id, True)
    # One that somebody went on with, a device that was away perhaps, is spared.
    worked = begin(shop, sheet, "Worked on")
    jobs.delete(shop, worked, True)
    for job_id, days, changed in ((old, 31, 40), (new, 29, 40), (worked, 31, 2)):
        then = {"then": datetime.now(UTC) - timedelta(days=days), "job": job_id}
        then["changed"] = datetime.now(UTC) - timedelta(days=changed)
        shop.execute(text("update job set deleted_at = :then, changed_at = :changed where id = :job"), then)
    shop.commit()
    ran_on(shop, 30)
    # Nothing goes without a backup.
    with pytest.raises(BadInput, match="no room"):
        jobs.empty_bin(shop, no_room)
    assert names(shop, shelf="bin") == ["Worked on", "New", "Old"]
    assert jobs.empty_bin(shop, lambda: None) == 1
    assert names(shop, shelf="bin") == ["Worked on", "New"]
    noted = trail.read(shop, most=1)[0]
    assert (noted.act, noted.by, noted.what) == ("emptied the bin", "the app", f"1 for good: {old}")
    assert len(records_of(shop, kept).readings) == 1
    assert records_of(shop, old).readings == ()
    assert list_captures(shop, old) == []
    with pytest.raises(NotFound):
        stored_jobs.get_job(shop, old)


def test_a_clock_that_leaps_empties_nothing(shop: Session, sheet: JobSheet, monkeypatch: pytest.MonkeyPatch) -> None:
    binned = begin(shop, sheet, "Van")
    jobs.delete(shop, binned, True)
    backups: list[int] = []

    class Leaped(datetime):
        ahead = timedelta(0)

        @classmethod
        def now(cls, tz: tzinfo | None = None) -> datetime:
            return datetime.now(tz) + cls.ahead

    monkeypatch.setattr(jobs, "datetime", Leaped)
    # A month and years ahead, and back: days that nobody worked on count for nothing.
    for days in (0, 31, 3650, 3651, -400, 0):
        Leaped.ahead = timedelta(days=days)
        assert jobs.empty_bin(shop, lambda: backups.append(1)) == 0
    assert names(shop, shelf="bin") == ["Van"]
    for day in range(1, 32):
        Leaped.ahead = timedelta(days=day)
        gone = jobs.empty_bin(shop, lambda: backups.append(1))
        if gone:
            break
    # Day by day it is due: three of the thirty had been seen in the leaps.
    assert (gone, day, backups) == (1, 27, [1])


def ran_on(session: Session, days: int) -> None:
    """The app ran on each of the last so many days."""
    for day in range(days):
        stored_jobs.note_running(session, (datetime.now(UTC) - timedelta(days=day)).date())
    session.commit()


def no_room() -> None:
    raise BadInput("There is no room.")


def test_a_copy_has_the_sheet_and_nothing_that_was_measured(shop: Session, sheet: JobSheet) -> None:
    job_id = begin(shop, sheet, "V" * 80)
    with transaction(shop):
        add_reading(shop, job_id, reading(steps_of(sheet)["ceiling.source.line"], 20, 1.5))
    new_id = uuid4()
    copy = jobs.duplicate(shop, job_id, new_id)
    assert copy.sheet.chain == sheet.chain
    assert jobs.duplicate(shop, job_id, new_id).id == new_id
    assert records_of(shop, new_id).readings == ()
