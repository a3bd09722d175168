"""A backup and the way back, with nothing lost on it."""

import json
import os
import subprocess
import zipfile
from collections.abc import Iterator
from pathlib import Path
from uuid import uuid4

import psycopg
import pytest
from alembic import command
from sqlalchemy import text
from sqlmodel import Session

from tests import forked
from tests.conftest import empty_database, migrated_database
from tests.core.helpers import reading, steps_of
from tests.servers import COMMAND, Server
from upper_rook.core.common.errors import BadInput, Conflict
from upper_rook.core.common.roles import Role
from upper_rook.core.sources.source_sheet import SourceSheet
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.demo import fill
from upper_rook.desk import jobs, source_sheets
from upper_rook.desk.auth.links import Newcomer, come_in, first_link
from upper_rook.desk.backups import back_up, before_a_migration, restore, verify
from upper_rook.desk.transaction import transaction
from upper_rook.store import trail
from upper_rook.store.database import make_engine, migrate, migration_config
from upper_rook.store.dumps import job_ids, job_rows, steady
from upper_rook.store.record_keeping import add_reading

SHELVED = {"name": "Whimbrel", "top_volume": 40, "outputs": [{"id": "out"}]}


@pytest.fixture(scope="module")
def shop() -> Iterator[str]:
    """A database with the demo's jobs, readings, marks and captures."""
    with migrated_database() as url:
        fill(url)
        yield url


@pytest.fixture(scope="module")
def file(shop: str, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A backup of it."""
    file = tmp_path_factory.mktemp("backups") / "rook.zip"
    back_up(shop, file)
    return file


def every_row(url: str) -> dict[str, str]:
    """Every row of every table, files included."""
    plain = url.replace("postgresql+psycopg://", "postgresql://")
    with psycopg.connect(plain) as connection:
        tables = connection.execute("select tablename from pg_tables where schemaname = 'public'").fetchall()
        return {
            name: str(connection.execute(f"select t::text from {name} t order by t::text").fetchall())  # noqa: S608
            for (name,) in tables
        }


def test_what_is_restored_into_an_empty_database_is_everything(shop: str, file: Path) -> None:
    with empty_database() as empty:
        restore(empty, file, None)
        assert every_row(empty) == every_row(shop)
        # And it works: the app starts on it and numbers what comes next.
        server = Server(empty).start()
        server.stop()


def test_a_backup_can_be_read_without_the_app(shop: str, file: Path) -> None:
    with steady(shop) as (connection, _):
        ids = [str(job) for job in job_ids(connection)]
        rows = job_rows(connection, job_ids(connection)[0])
    with zipfile.ZipFile(file) as archive:
        assert {name for name in archive.namelist() if name.startswith("jobs/")} == {f"jobs/{one}.json" for one in ids}
        assert archive.read(f"jobs/{ids[0]}.json").decode() == rows
        manifest = json.loads(archive.read("manifest.json"))
    assert manifest["jobs"] == len(ids)
    assert verify(file).jobs == len(ids)
    assert file.stat().st_mode & 0o077 == 0


def test_any_byte_that_changed_is_noticed(file: Path, tmp_path: Path) -> None:
    whole = file.read_bytes()
    for place in range(100, len(whole), len(whole) // 12):
        torn = bytearray(whole)
        torn[place] ^= 0xFF
        bad = tmp_path / "torn.zip"
        bad.write_bytes(torn)
        try:
            verify(bad)
        except BadInput:
            continue
        # What isn't noticed is no part of what was written: names, dates and such of the zip file itself.
        assert _members(bad) == _members(file), place
    for nothing in (tmp_path / "none.zip", tmp_path):
        with pytest.raises(BadInput):
            verify(nothing)


def _members(file: Path) -> dict[str, bytes]:
    with zipfile.ZipFile(file) as archive:
        return {name: archive.read(name) for name in archive.namelist()}


def test_a_database_with_jobs_is_left_alone_unless_told_and_then_backed_up(
    file: Path, sheet: JobSheet, tmp_path: Path
) -> None:
    with migrated_database() as url:
        engine = make_engine(url)
        with Session(engine) as session:
            kept = jobs.begin_with(session, uuid4(), sheet.model_copy(update={"vehicle": "Mine"})).id
        engine.dispose()
        before = every_row(url)
        with pytest.raises(Conflict, match="holds 1 job: nothing was touched"):
            restore(url, file, None)
        assert every_row(url) == before
        aside = tmp_path / "aside.zip"
        restore(url, file, aside)
        assert verify(aside).jobs == 1
        restore(url, aside, tmp_path / "again.zip")
        assert str(kept) in every_row(url)["job"]
        assert every_row(url) == before


def test_a_library_without_a_job_is_left_alone_too_and_every_sheet_is_compared(file: Path, tmp_path: Path) -> None:
    assert verify(file).sources == 3
    with migrated_database() as url:
        engine = make_engine(url)
        with Session(engine) as session:
            kept = source_sheets.keep_new(session, uuid4(), SourceSheet.model_validate(SHELVED)).id
        engine.dispose()
        with pytest.raises(Conflict, match="holds 1 source: nothing was touched"):
            restore(url, file, None)
        aside = tmp_path / "aside.zip"
        restore(url, file, aside)
        with zipfile.ZipFile(aside) as archive:
            assert "Whimbrel" in archive.read(f"sources/{kept}.json").decode()
        restore(url, aside, tmp_path / "again.zip")
        assert "Whimbrel" in every_row(url)["source_sheet"]


def test_nothing_is_restored_under_a_working_app(file: Path, tmp_path: Path) -> None:
    with migrated_database() as url:
        server = Server(url).start()
        try:
            with pytest.raises(Conflict, match="stop it first"):
                restore(url, file, tmp_path / "aside.zip")
        finally:
            server.stop()


def test_a_backup_is_of_one_moment_while_others_save(shop: str, sheet: JobSheet, tmp_path: Path) -> None:
    with migrated_database() as url:
        engine = make_engine(url)
        with Session(engine) as session:
            job_id = jobs.begin_with(session, uuid4(), sheet).id
            step = steps_of(sheet)["ceiling.source.line"]
            with steady(url) as (connection, _):
                rows = job_rows(connection, job_id)
                with transaction(session):
                    add_reading(session, job_id, reading(step, 20, 1.5))
                assert job_rows(connection, job_id) == rows
        engine.dispose()


def test_data_is_backed_up_before_it_is_brought_up(tmp_path: Path) -> None:
    with empty_database() as url:
        command.upgrade(migration_config(url), "0003")
        told: list[str] = []
        assert before_a_migration(url, tmp_path, told.append) is None
        engine = make_engine(url)
        with engine.begin() as connection:
            connection.execute(text("insert into job values (gen_random_uuid(), 1, now(), now())"))
        engine.dispose()
        before = every_row(url)
        made = before_a_migration(url, tmp_path, told.append)
        assert made is not None
        assert "backed up" in told[0]
        migrate(url)
        assert before_a_migration(url, tmp_path, told.append) is None
        # The backup is of the schema that was.
        plain = url.replace("postgresql+psycopg://", "postgresql://")
        with empty_database() as other:
            with zipfile.ZipFile(made) as archive:
                archive.extract("database.dump", tmp_path)
            from upper_rook.store.dumps import load

            load(other, tmp_path / "database.dump")
            assert every_row(other) == before
        assert plain


def test_the_three_commands(shop: str, tmp_path: Path) -> None:

    def run(*words: str | Path) -> subprocess.CompletedProcess[str]:
        return forked.run(*words, DATABASE_URL=shop, ROOK_DATA=str(tmp_path))

    made = run("backup")
    assert made.returncode == 0, made.stderr
    file = next((tmp_path / "backups").glob("rook-*.zip"))
    assert "is whole: 11 jobs, 3 sources" in run("verify", file).stdout
    refused = run("restore", file)
    assert refused.returncode == 2
    assert "Give --over" in refused.stderr
    assert run("verify", tmp_path / "nothing.zip").returncode == 2


def test_a_backup_opens_no_door_and_where_people_sign_in_the_owner_agrees(sheet: JobSheet, tmp_path: Path) -> None:
    file, words = tmp_path / "rook.zip", "a few words of one’s own"
    with migrated_database() as url:
        engine = make_engine(url)
        with Session(engine) as session:
            jobs.begin_with(session, uuid4(), sheet)
            come_in(session, first_link(session) or "", Newcomer("Mara", words, "laptop, bench"), None)
        engine.dispose()
        back_up(url, file)
        with empty_database() as other:
            restore(other, file, None)
            kept = every_row(other)
            assert "Mara" in kept["person"]
            engine = make_engine(other)
            with Session(engine) as session:
                for table in ("password", "passkey", "pin", "device", "signed_in", "link", "knock"):
                    assert session.execute(text(f"select count(*) from {table}")).scalar() == 0, table  # noqa: S608
                # Whoever is at the machine lets the owner choose a new password.
                person = come_in(session, first_link(session) or "", Newcomer("", words, "laptop"), None).person
                assert (person.name, person.role) == ("Mara", Role.OWNER)
                assert first_link(session) is None
            engine.dispose()

        def asked(*typed: str) -> subprocess.CompletedProcess[str]:
            environment = os.environ | {"DATABASE_URL": url, "ROOK_DATA": str(tmp_path)}
            # Without a terminal: a password is asked for there first.
            return subprocess.run(
                [COMMAND, "restore", "--over", str(file)],
                env=environment,
                input="\n".join((*typed, "")),
                start_new_session=True,
                capture_output=True,
                text=True,
                check=False,
            )

        refused = asked("Mara", "not it, really")
        assert refused.returncode == 2
        assert "Name or password is wrong." in refused.stderr
        done = asked("Mara", words)
        assert done.returncode == 0, done.stderr
        assert words not in done.stdout + done.stderr
        engine = make_engine(url)
        with Session(engine) as session:
            # The trail was there before and goes on.
            acts = [(one.by, one.act) for one in trail.read(session)]
            assert acts[0] == ("Mara", "put a backup in place")
            assert ("Mara", "came in") in acts
        engine.dispose()
