"""Jobs and the versions of their sheets, on the real server."""

from concurrent.futures import ThreadPoolExecutor
from uuid import uuid4

import pytest
from sqlalchemy import Engine
from sqlmodel import Session

from upper_rook.core.common.errors import Conflict, NotFound
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.desk.transaction import transaction
from upper_rook.store.jobs import SheetConflict, create_job, get_job, get_sheet, history, save_sheet


def noted(sheet: JobSheet, note: str) -> JobSheet:
    return sheet.model_copy(update={"note": note})


def test_every_edit_is_a_version_with_who_and_what(session: Session, sheet: JobSheet) -> None:
    job = create_job(session, uuid4(), sheet, "Wren")
    save_sheet(session, job.id, 1, noted(sheet, "first"), "Dunlin")
    newest = save_sheet(session, job.id, 2, noted(sheet, "second"), "Wren")
    assert newest.version == 3
    told = history(session, job.id)
    assert [(sheet_version.version, sheet_version.by) for sheet_version in told] == [
        (3, "Wren"),
        (2, "Dunlin"),
        (1, "Wren"),
    ]
    assert [(change.place, change.was, change.now) for change in told[0].changes] == [("note", "first", "second")]
    assert get_sheet(session, job.id, 2).note == "first"


def test_an_unchanged_sheet_makes_no_version(session: Session, sheet: JobSheet) -> None:
    job = create_job(session, uuid4(), sheet)
    assert save_sheet(session, job.id, 1, sheet).version == 1


def test_an_edit_of_an_old_version_shows_both(session: Session, sheet: JobSheet) -> None:
    job = create_job(session, uuid4(), sheet)
    save_sheet(session, job.id, 1, noted(sheet, "theirs"))
    with pytest.raises(SheetConflict) as conflict:
        save_sheet(session, job.id, 1, noted(sheet, "mine"))
    assert conflict.value.newest.sheet.note == "theirs"
    assert [(difference.was, difference.now) for difference in conflict.value.differs] == [("theirs", "mine")]
    assert get_job(session, job.id).sheet.note == "theirs"


def test_of_edits_at_the_same_time_one_wins_and_the_rest_are_told(engine: Engine, sheet: JobSheet) -> None:
    with Session(engine) as session:
        job = create_job(session, uuid4(), sheet)
        session.commit()

    def edit(number: int) -> bool:
        with Session(engine) as own:
            try:
                with transaction(own):
                    save_sheet(own, job.id, 1, noted(sheet, f"edit {number}"))
            except SheetConflict:
                return False
            return True

    with ThreadPoolExecutor(8) as pool:
        won = list(pool.map(edit, range(16)))
    assert sum(won) == 1
    with Session(engine) as session:
        assert get_job(session, job.id).version == 2


def test_creating_twice_creates_once(session: Session, sheet: JobSheet) -> None:
    job_id = uuid4()
    create_job(session, job_id, sheet)
    save_sheet(session, job_id, 1, noted(sheet, "edited since"))
    assert create_job(session, job_id, sheet).sheet.note == "edited since"
    with pytest.raises(Conflict, match="Another job"):
        create_job(session, job_id, noted(sheet, "another"))


def test_twenty_beginnings_of_one_job_at_once_begin_it_once(engine: Engine, sheet: JobSheet) -> None:
    job_id = uuid4()

    def begin(_: int) -> int:
        with Session(engine) as own, transaction(own):
            return create_job(own, job_id, sheet).version

    with ThreadPoolExecutor(10) as pool:
        assert set(pool.map(begin, range(20))) == {1}


def test_unknown_jobs_and_versions_are_said_to_be(session: Session, sheet: JobSheet) -> None:
    with pytest.raises(NotFound):
        get_job(session, uuid4())
    job = create_job(session, uuid4(), sheet)
    with pytest.raises(NotFound, match="no version 9"):
        get_sheet(session, job.id, 9)
