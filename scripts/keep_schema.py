"""
Keeps a database of the present schema for the tests of upgrades; run it before the next migration is written.

DATABASE_URL names an empty database: it is filled with the demo, its files over 60 kB are left out, and it goes as
inserts into tests/shared/schemas, with the readings and states of steps that this version shows.

DATABASE_URL=… python scripts/keep_schema.py
"""

import json
import lzma
import os
import re
import subprocess
from pathlib import Path

import psycopg
from sqlmodel import Session, select

from upper_rook.demo import fill
from upper_rook.desk import runs
from upper_rook.store.database import make_engine, migrate
from upper_rook.store.tables import JobRow

SCHEMAS = Path(__file__).parents[1] / "tests" / "shared" / "schemas"
_LARGEST = 60_000
_OF_THE_SESSION = re.compile(r"^(\\|--|SET |SELECT pg_catalog\.set_config).*\n", re.MULTILINE)


def main() -> None:
    """Fills, empties of what is large, and writes."""
    url = os.environ["DATABASE_URL"]
    migrate(url)
    fill(url)
    engine = make_engine(url)
    with Session(engine) as session:
        views = {str(job): runs.run_view(session, job) for job in session.exec(select(JobRow.id))}
    engine.dispose()
    shown = {
        job: {
            "readings": view.taken,
            "states": {state.step: state.state.value for state in view.run.states},
        }
        for job, view in views.items()
    }
    plain = url.replace("postgresql+psycopg://", "postgresql://")
    with psycopg.connect(plain) as connection:
        large = "select id from capture where size > %s"
        connection.execute(f"delete from capture_part where capture_id in ({large})", (_LARGEST,))  # noqa: S608
        connection.execute(f"delete from capture where id in ({large})", (_LARGEST,))  # noqa: S608
        (name,) = connection.execute("select version_num from alembic_version").fetchone() or ("",)
    dump = subprocess.run(
        ["pg_dump", "--inserts", "--no-owner", "--no-privileges", "-N", "trail", plain],  # noqa: S607
        check=True,
        capture_output=True,
        text=True,
    ).stdout
    (SCHEMAS / f"{name}.sql.xz").write_bytes(lzma.compress(_OF_THE_SESSION.sub("", dump).encode(), preset=9))
    (SCHEMAS / f"{name}.json").write_text(json.dumps(shown, indent=1, sort_keys=True), "utf-8")


if __name__ == "__main__":
    main()
