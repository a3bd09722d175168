"""The whole database as PostgreSQL's own custom dump, and every job in it as plain JSON."""

import hashlib
import json
import shutil
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from uuid import UUID

from sqlalchemy import Connection, create_engine, inspect, text
from sqlalchemy.engine import make_url

from upper_rook.core.common.errors import RookError

_TABLES_OF_A_JOB = ("sheet", "reading", "mark", "capture", "photo", "bench", "sign_off", "offer")

# It belongs to whoever restores it.
_NOBODYS = ("--no-owner", "--no-privileges")
OF_THE_DOOR = (
    "signed_in",
    "link",
    "knock",
    "password",
    "passkey",
    "challenge",
    "pin",
    "device",
    "present",
    "trail_seen",
    "signing_secret",
)
"""A backup opens no door: after a restore the owner comes in by a new link, and lets the others in."""


class ToolTrouble(RookError):
    """PostgreSQL's own tools couldn't do it."""


@contextmanager
def steady(url: str) -> Iterator[tuple[Connection, str]]:
    """A connection that sees the database as it is now, and the name under which a dump sees the same."""
    engine = create_engine(url, isolation_level="REPEATABLE READ", connect_args={"connect_timeout": 3})
    try:
        with engine.connect() as connection:
            yield connection, str(connection.execute(text("select pg_export_snapshot()")).scalar_one())
    finally:
        engine.dispose()


def dump(url: str, snapshot: str, to: Path) -> None:
    """Writes a custom dump of what `snapshot` sees, without what opens the door. Raises ToolTrouble."""
    left_out = (f"--exclude-table-data={table}" for table in OF_THE_DOOR)
    _run(
        "pg_dump",
        "--format=custom",
        f"--snapshot={snapshot}",
        "--exclude-schema=trail",
        *_NOBODYS,
        *left_out,
        f"--file={to}",
        url=url,
    )


def check(dump_file: Path) -> None:
    """Reads a dump from its beginning to its end. Raises ToolTrouble when it can't be."""
    _run("pg_restore", "--file=/dev/null", str(dump_file))


def job_ids(connection: Connection) -> list[UUID]:
    """Every job's id; none in a database that has no tables yet."""
    if not inspect(connection).has_table("job"):
        return []
    return list(connection.execute(text("select id from job order by id")).scalars())


def source_ids(connection: Connection) -> list[UUID]:
    """Every source sheet's id; none where there is no library yet."""
    if not inspect(connection).has_table("source_sheet"):
        return []
    return list(connection.execute(text("select id from source_sheet order by id")).scalars())


def part_ids(connection: Connection) -> list[UUID]:
    """Every shop part's id; none where there are none yet."""
    if not inspect(connection).has_table("shop_part"):
        return []
    return list(connection.execute(text("select id from shop_part order by id")).scalars())


def documents(connection: Connection) -> Iterator[tuple[str, str]]:
    """Every job, source sheet and shop part as JSON, each under the name that it has in a backup."""
    for job_id in job_ids(connection):
        yield f"jobs/{job_id}.json", job_rows(connection, job_id)
    for folder, table, ids in (
        ("sources", "source_sheet", source_ids(connection)),
        ("parts", "shop_part", part_ids(connection)),
    ):
        for sheet_id in ids:
            rows = _rows(connection, table, "id", sheet_id)
            yield f"{folder}/{sheet_id}.json", json.dumps(rows, indent=1, sort_keys=True, ensure_ascii=False)


def job_rows(connection: Connection, job_id: UUID) -> str:
    """
    Everything of a job, as JSON by the names of the tables and columns, whatever version of the app wrote them.

    The files of captures and photos are in it by their digests, worked out anew from what is kept.
    """
    found: dict[str, object] = {"job": _rows(connection, "job", "id", job_id)}
    for table in _TABLES_OF_A_JOB:
        if inspect(connection).has_table(table):
            found[table] = _rows(connection, table, "job_id", job_id)
    if "capture" in found:
        found["files"] = _digests(connection, job_id)
    if "photo" in found:
        found["photos"] = _photo_digests(connection, job_id)
    return json.dumps(found, indent=1, sort_keys=True, ensure_ascii=False)


def _rows(connection: Connection, table: str, column: str, wanted: UUID) -> list[object]:
    # Both names are of this module.
    rows = f"select to_jsonb(t) from {table} t where {column} = :wanted order by to_jsonb(t)::text"  # noqa: S608
    return list(connection.execute(text(rows), {"wanted": wanted}).scalars())


def _digests(connection: Connection, job_id: UUID) -> dict[str, str]:
    captures = connection.execute(text("select id from capture where job_id = :job"), {"job": job_id}).scalars()
    found = {}
    part = text("select data from capture_part where capture_id = :capture and number = :number")
    for capture in captures.all():
        digest, number = hashlib.sha256(), 0
        while (data := connection.execute(part, {"capture": capture, "number": number}).scalar()) is not None:
            digest.update(data)
            number += 1
        found[str(capture)] = digest.hexdigest()
    return found


def _photo_digests(connection: Connection, job_id: UUID) -> dict[str, list[str]]:
    files = text(
        "select photo_id::text, encode(sha256(f.full), 'hex'), encode(sha256(f.small), 'hex')"
        " from photo_file f join photo on photo.id = photo_id where job_id = :job order by photo_id"
    )
    return {photo: digests for photo, *digests in connection.execute(files, {"job": job_id})}


def others_connected(connection: Connection) -> int:
    """How many other connections there are to this database: of programs, not the server's own upkeep."""
    rows = (
        "select count(*) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()"
        " and backend_type = 'client backend'"
    )
    return int(connection.execute(text(rows)).scalar_one())


def _run(name: str, *words: str, url: str | None = None) -> None:
    where: tuple[str, ...] = ()
    environment = {"PATH": "/usr/bin:/bin"}
    if url is not None:
        parts = make_url(url)
        where = (
            f"--host={parts.host or '127.0.0.1'}",
            f"--port={parts.port or 5432}",
            f"--username={parts.username or ''}",
            f"--dbname={parts.database or ''}",
        )
        # Never on the command line, where every user of the machine can read it.
        environment["PGPASSWORD"] = str(parts.password or "")
    try:
        # The words are this module's own, but for names of files and of the database.
        subprocess.run([tool(name), *where, *words], check=True, capture_output=True, env=environment)  # noqa: S603
    except subprocess.CalledProcessError as error:
        last = error.stderr.decode(errors="replace").strip().splitlines()[-1:] or ["no reason given"]
        raise ToolTrouble(f"{name} couldn’t do it: {last[0]}") from None


def tool(name: str) -> str:
    """Path of one of PostgreSQL's own programs. Raises ToolTrouble where it isn't installed."""
    kept = sorted(Path("/usr/lib/postgresql").glob(f"*/bin/{name}"))
    found = str(kept[-1]) if kept else shutil.which(name)
    if not found:
        raise ToolTrouble(f"{name} isn’t on this machine: install Debian’s postgresql-client.")
    return found
