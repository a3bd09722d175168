"""A backup and the way back, with nothing lost on it."""

import hashlib
import json
import os
import re
import subprocess
import sys
import time
import zipfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any
from uuid import uuid4

import psycopg
import pytest
from alembic import command
from sqlalchemy import Connection, text
from sqlmodel import Session

from tests import forked
from tests.conftest import empty_database, migrated_database
from tests.core.helpers import reading, steps_of
from tests.servers import COMMAND, Server
from upper_rook.core.common.errors import BadInput, Conflict, RookError
from upper_rook.core.common.roles import Role
from upper_rook.core.sources.source_sheet import SourceSheet
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.demo import fill
from upper_rook.desk import backups, jobs, source_sheets
from upper_rook.desk.auth.links import Newcomer, NewDevice, come_in, first_link
from upper_rook.desk.backups import back_up, before_a_migration, new_name, restore, signed_in_words, verify
from upper_rook.desk.scratch import sweep
from upper_rook.desk.transaction import transaction
from upper_rook.store import trail
from upper_rook.store.database import make_engine, migrate, migration_config
from upper_rook.store.dumped_rows import load
from upper_rook.store.dumps import OF_THE_DOOR, job_ids, job_rows, steady, tool
from upper_rook.store.record_keeping import add_reading
from upper_rook.store.signing import signing_key

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
    """Every row of every table, files included, but for the key that leaves in no backup."""
    plain = url.replace("postgresql+psycopg://", "postgresql://")
    with psycopg.connect(plain) as connection:
        tables = connection.execute("select tablename from pg_tables where schemaname = 'public'").fetchall()
        return {
            name: str(connection.execute(f"select t::text from {name} t order by t::text").fetchall())  # noqa: S608
            for (name,) in tables
            if name != "signing_secret"
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
        assert {name for name in archive.namelist() if name.startswith("jobs/")} == {f"jobs/{job}.json" for job in ids}
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
            # A backup is signed: the key is made before.
            signing_key(session)
            session.commit()
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
        with empty_database() as other:
            with zipfile.ZipFile(made) as archive:
                archive.extract("database.dump", tmp_path)
            engine = make_engine(other)
            with engine.begin() as connection:
                load(connection, tmp_path / "database.dump", "0003")
            engine.dispose()
            assert every_row(other) == before


def test_the_three_commands(shop: str, tmp_path: Path) -> None:

    def run(*words: str | Path) -> subprocess.CompletedProcess[str]:
        return forked.run(*words, DATABASE_URL=shop, ROOK_DATA=str(tmp_path))

    made = run("backup")
    assert made.returncode == 0, made.stderr
    file = next((tmp_path / "backups").glob("rook-*.zip"))
    assert "is whole: 11 jobs, 3 sources" in run("verify", file).stdout
    # The key is this installation's own, and where it isn't known it is printed to be compared.
    printed = re.search(r"signed by this installation, key ([0-9a-f ]{19})", made.stdout)
    assert printed, made.stdout
    assert f"signed with the key {printed[1]}: compare it" in run("verify", file).stdout
    refused = run("restore", file)
    assert refused.returncode == 2
    assert "Give --over" in refused.stderr
    assert run("verify", tmp_path / "nothing.zip").returncode == 2


def test_two_backups_at_once_are_two_files_or_one_is_refused(shop: str, tmp_path: Path) -> None:
    def backed_up(file: Path) -> str:
        try:
            back_up(shop, file)
        except BadInput as error:
            return error.sentence
        return "ok"

    with ThreadPoolExecutor(4) as pool:
        same = sorted(pool.map(backed_up, [tmp_path / "same.zip"] * 4))
        others = list(pool.map(backed_up, [new_name(tmp_path, "rook") for _ in range(4)]))
    assert same[3] == "ok"
    assert all("already: give another name" in told for told in same[:3])
    assert others == ["ok"] * 4
    files = list(tmp_path.iterdir())
    assert len(files) == 5
    assert all(verify(file).jobs == 11 for file in files)
    # Nothing that is there is written over.
    kept = (tmp_path / "same.zip").read_bytes()
    assert "already" in backed_up(tmp_path / "same.zip")
    assert (tmp_path / "same.zip").read_bytes() == kept


def test_a_backup_that_the_disk_spoils_gets_no_name(shop: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    written = backups._write

    def spoiled(connection: Connection, dump: Path, to: Path, sign: Any) -> backups.Manifest:
        manifest = written(connection, dump, to, sign)
        whole = bytearray(to.read_bytes())
        whole[len(whole) // 2] ^= 1
        to.write_bytes(whole)
        return manifest

    monkeypatch.setattr(backups, "_write", spoiled)
    with pytest.raises(BadInput):
        back_up(shop, tmp_path / "rook.zip")
    assert list(tmp_path.iterdir()) == []


def test_a_full_disk_is_said_in_a_sentence(file: Path, tmp_path: Path) -> None:
    with pytest.raises(BadInput, match=r"Can’t write /dev/full/rook\.zip"):
        back_up("postgresql+psycopg://nobody@127.0.0.1:1/none", Path("/dev/full/rook.zip"))
    lines = ("from pathlib import Path", "from upper_rook.desk.backups import verify", f"verify(Path({str(file)!r}))")
    command = [sys.executable, "-c", "\n".join(lines)]
    # No file of this process may be larger than a few blocks, as on a disk without room.
    limited = ["bash", "-c", 'trap "" XFSZ; ulimit -f 8; exec "$@"', "bash", *command]
    environment = os.environ | {"TMPDIR": str(tmp_path)}
    done = subprocess.run(limited, capture_output=True, text=True, check=False, env=environment)
    assert f"There is no room in {tmp_path} to unpack this backup: free some of it." in done.stderr


def test_what_a_killed_process_left_is_swept_and_nothing_else(tmp_path: Path) -> None:
    gone = subprocess.run(["bash", "-c", "echo $$"], capture_output=True, text=True, check=True).stdout.strip()
    own, old = os.getpid(), time.time() - 3 * 86_400
    files = {f".rook.zip.{gone}-0a1b2c3d.part": False, f"rook-{gone}-up.part": False, "old.zip.part": False}
    folders = {f"rook-{gone}-x7": False, "rook-ab12cd34": False, f"rook-{own}-x7": True}
    # Names that people give their backups stay, however old.
    files |= dict.fromkeys(("rook-20261101", "rook-20261101.zip", f"rook-{gone}-x7.zip", "notes.part"), True)
    files |= {f".rook.zip.{own}-0a1b2c3d.part": True, f"rook-{own}-up.part": True}
    for name in folders:
        (tmp_path / name).mkdir()
        (tmp_path / name / "database.dump").write_text("a dump", "utf-8")
    for name in files:
        (tmp_path / name).write_text("a file", "utf-8")
    for path in tmp_path.iterdir():
        os.utime(path, (old, old))
    sweep(tmp_path)
    assert {path.name for path in tmp_path.iterdir()} == {name for name, stays in (files | folders).items() if stays}


_MORE_PARTS = """
    insert into capture_part (capture_id, number, data)
    select first.id, 100000 + n, decode(repeat(md5(n::text), 65536), 'hex')
    from (select capture_id as id from capture_part limit 1) first, generate_series(1, %s) n
"""


def test_a_large_backup_is_restored_in_the_memory_of_a_small_one(tmp_path: Path) -> None:
    peaks = []
    for size in (1, 40):
        with migrated_database() as url:
            fill(url)
            with psycopg.connect(url.replace("postgresql+psycopg://", "postgresql://")) as connection:
                connection.execute(_MORE_PARTS, [size])
            back_up(url, tmp_path / f"{size}.zip")
        with empty_database() as other:
            told = f"restore({other!r}, Path({str(tmp_path / f'{size}.zip')!r}), None)"
            lines = (
                "import resource",
                "from pathlib import Path",
                "from upper_rook.desk.backups import restore",
                told,
                "print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss)",
            )
            done = subprocess.run([sys.executable, "-c", "\n".join(lines)], capture_output=True, text=True, check=True)
            peaks.append(int(done.stdout) / 1024)
    # Megabytes of this process; what it held was four times the file before.
    assert peaks[1] - peaks[0] < 20


def test_a_backup_opens_no_door_and_where_people_sign_in_the_owner_agrees(sheet: JobSheet, tmp_path: Path) -> None:
    file, words = tmp_path / "rook.zip", "a few words of one’s own"
    with migrated_database() as url:
        engine = make_engine(url)
        with Session(engine) as session:
            jobs.begin_with(session, uuid4(), sheet)
            signing_key(session)
            come_in(session, first_link(session) or "", Newcomer("Mara", words, NewDevice("laptop, bench")), None)
        engine.dispose()
        back_up(url, file)
        before = every_row(url)
        with empty_database() as other:
            restore(other, file, None)
            kept = every_row(other)
            assert "Mara" in kept["person"]
            # What it signed before is still known as its own, and nobody who has the backup signs as it.
            assert kept["signing_key"] == before["signing_key"] != "[]"
            engine = make_engine(other)
            with Session(engine) as session:
                for table in ("password", "passkey", "pin", "device", "signed_in", "link", "knock", "signing_secret"):
                    assert session.execute(text(f"select count(*) from {table}")).scalar() == 0, table  # noqa: S608
                # Whoever is at the machine lets the owner choose a new password.
                person = come_in(
                    session, first_link(session) or "", Newcomer("", words, NewDevice("laptop")), None
                ).person
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
            acts = [(entry.by, entry.act) for entry in trail.read(session)]
            assert acts[0] == ("Mara", "put a backup in place")
            assert ("Mara", "came in") in acts
        engine.dispose()


_TAMPERED = """
create function crow() returns trigger language plpgsql as $$ begin delete from reading; return new; end $$;
create trigger crow after insert on job for each row execute function crow();
create table crows (id int);
insert into crows values (1);
insert into device (id, token, name, paired_at, seen_at) values (gen_random_uuid(), 'a', 'phone', now(), now());
insert into person (id, name, folded, role, created_at) values (gen_random_uuid(), 'C', 'c', 'owner', now());
insert into password select id, 'known' from person;
insert into signed_in (id, token, person_id, device_id, began_at, renewed_at, seen_at)
  select gen_random_uuid(), 'a', person.id, device.id, now(), now(), now() from person, device;
"""


def test_of_a_backup_that_was_tampered_with_only_rows_are_taken(file: Path, tmp_path: Path) -> None:
    plain_dump, crafted = tmp_path / "crafted.dump", tmp_path / "crafted.zip"
    with empty_database() as url:
        restore(url, file, None)
        plain = url.replace("postgresql+psycopg://", "postgresql://")
        with psycopg.connect(plain) as connection:
            connection.execute(_TAMPERED)
        # The whole of it, by PostgreSQL's own program.
        subprocess.run([tool("pg_dump"), "-Fc", "--schema=public", f"--file={plain_dump}", plain], check=True)
    _with_dump(file, plain_dump, crafted)
    with pytest.raises(BadInput, match="This backup was changed after it was signed"):
        verify(crafted)
    # Whoever writes one anew can leave the signature out: then nobody has signed it.
    _with_dump(file, plain_dump, crafted, signed=False)
    assert signed_in_words(crafted) == "nobody signed it: anybody may have written it"
    with empty_database() as url:
        restore(url, crafted, None)
        engine = make_engine(url)
        with engine.connect() as connection:
            shown = {table: connection.execute(text(f"select count(*) from {table}")).scalar() for table in OF_THE_DOOR}  # noqa: S608
            assert set(shown.values()) == {0}, shown
            assert connection.execute(text("select count(*) from reading")).scalar()
            assert connection.execute(text("select to_regclass('crows'), to_regproc('crow')")).one() == (None, None)
            triggers = "select count(*) from pg_trigger t join pg_class c on c.oid = tgrelid where not tgisinternal"
            # The trail has one of its own, elsewhere.
            own = "and relnamespace = 'public'::regnamespace"
            assert not connection.execute(text(f"{triggers} {own}")).scalar()
        engine.dispose()


def test_a_restore_that_fails_leaves_everything_as_it_was(file: Path, sheet: JobSheet, tmp_path: Path) -> None:
    crafted = tmp_path / "crafted.zip"
    with zipfile.ZipFile(file) as archive:
        archive.extract("database.dump", tmp_path)
    with migrated_database() as url:
        engine = make_engine(url)
        with Session(engine) as session:
            jobs.begin_with(session, uuid4(), sheet)
            # A backup is signed: the key is made before.
            signing_key(session)
            session.commit()
        engine.dispose()
        before = every_row(url)
        for changed, told in (({"revision": "0001"}, "columns that its version"), ({"revision": "9"}, "newer version")):
            _with_dump(file, tmp_path / "database.dump", crafted, changed, signed=False)
            with pytest.raises(RookError, match=told):
                restore(url, crafted, tmp_path / f"{changed['revision']}.zip")
            assert every_row(url) == before


def _with_dump(file: Path, dump: Path, to: Path, changed: dict[str, str] | None = None, *, signed: bool = True) -> None:
    """The same backup with another dump, its digests as if it were its own; the signature as it was, or left out."""
    with zipfile.ZipFile(file) as archive, zipfile.ZipFile(to, "w") as made:
        manifest = json.loads(archive.read("manifest.json")) | (changed or {})
        manifest["digests"]["database.dump"] = hashlib.sha256(dump.read_bytes()).hexdigest()
        for name in archive.namelist():
            if name not in ("manifest.json", "database.dump") and (signed or name != "signature.json"):
                made.writestr(name, archive.read(name))
        made.write(dump, "database.dump")
        made.writestr("manifest.json", json.dumps(manifest))
