"""
Data of an older major version of PostgreSQL, brought to a newer one by the launcher's own scripts.

One version is installed here. The newer one's programs are this one's behind a few lines of shell that write its number
into a new cluster and take it away while the server looks; both servers, dump, restore and comparison are real.
"""

import os
import re
import subprocess
from collections.abc import Iterator
from pathlib import Path
from tempfile import TemporaryDirectory
from uuid import UUID, uuid4

import psycopg
import pytest
from sqlmodel import Session

from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.layouts import templates
from upper_rook.desk import jobs
from upper_rook.store.database import make_engine, migrate

SCRIPT = Path(__file__).parents[1] / "scripts" / "postgres.sh"
_TESTS_OWN = ("DATABASE_URL", "ROOK_CLUSTER", "ROOK_ROLE", "ROOK_TEST_DATABASE")
_NEWER = """#!/bin/bash
# {name} of a version {new}, made of one of {old}.
data=$(sed -n 's/.* -D \\([^ ]*\\).*/\\1/p' <<<" $* ")
[ -z "$data" ] || [ ! -f "$data/PG_VERSION" ] || echo {old} >"$data/PG_VERSION"
status=0
"{real}/{name}" "$@" || status=$?
[ -z "$data" ] || [ ! -f "$data/PG_VERSION" ] || echo {new} >"$data/PG_VERSION"
exit $status
"""


class Machine:
    """A machine with one or two versions of PostgreSQL, and a place for data."""

    def __init__(self, folder: Path) -> None:
        self._folder, self.data = folder, folder / "data"
        self.data.mkdir()
        self._real = max(Path("/usr/lib/postgresql").iterdir(), key=lambda path: int(path.name))
        self.old = self._real.name
        self.new = str(int(self.old) + 1)
        self._installed = folder / "usr" / "lib" / "postgresql"
        self._installed.mkdir(parents=True)
        (self._installed / self.old).symlink_to(self._real)

    def install_newer(self, restore: str = "") -> None:
        """The newer version beside the older; `restore` are words of a shell in place of its pg_restore."""
        programs = self._installed / self.new / "bin"
        programs.mkdir(parents=True)
        for real in (self._real / "bin").iterdir():
            if real.name not in ("initdb", "pg_ctl", "postgres", restore and "pg_restore"):
                (programs / real.name).symlink_to(real)
        words = {"old": self.old, "new": self.new, "real": self._real / "bin"}
        self._write(programs / "initdb", _NEWER.format(name="initdb", **words))
        self._write(programs / "pg_ctl", _NEWER.format(name="pg_ctl", **words))
        self._write(programs / "postgres", f"#!/bin/bash\necho 'postgres (PostgreSQL) {self.new}.1'\n")
        if restore:
            self._write(programs / "pg_restore", f"#!/bin/bash\n{restore.format(real=self._real / 'bin')}\n")

    @staticmethod
    def _write(place: Path, text: str) -> None:
        place.write_text(text, "utf-8")
        place.chmod(0o755)

    def do(self, *words: str) -> subprocess.CompletedProcess[str]:
        """Runs postgres.sh there."""
        own = {name: value for name, value in os.environ.items() if name not in _TESTS_OWN}
        environment = own | {"ROOK_DATA": str(self.data), "ROOK_SYSTEM": str(self._folder)}
        return subprocess.run(
            [SCRIPT, *words], env=environment, capture_output=True, text=True, timeout=120, check=True
        )

    @property
    def written_by(self) -> str:
        """The version of the data."""
        return (self.data / "pg" / "data" / "PG_VERSION").read_text("utf-8").strip()


@pytest.fixture
def machine() -> Iterator[Machine]:
    """In a folder that the user postgres may look into, as /usr is."""
    with TemporaryDirectory() as folder:
        Path(folder).chmod(0o755)
        yield Machine(Path(folder))


def _with_a_job(machine: Machine) -> tuple[UUID, str]:
    """Data of the older version with a job in it: its id, and the number of tables' rows."""
    machine.do("start")
    url = machine.do("url", "rook").stdout.strip()
    migrate(url)
    engine, job = make_engine(url), uuid4()
    with Session(engine) as session:
        jobs.begin_with(session, job, JobSheet(vehicle="Kombi Gannet", chain=templates()[0].chain))
    engine.dispose()
    told = _told(url)
    machine.do("stop")
    return job, told


def _told(url: str) -> str:
    with psycopg.connect(url.replace("postgresql+psycopg://", "postgresql://")) as connection:
        return str(connection.execute("select id, version, vehicle, changed_at from job").fetchall())


def test_data_is_copied_compared_and_the_old_kept(machine: Machine) -> None:
    job, told = _with_a_job(machine)
    machine.install_newer()
    said = machine.do("start").stderr
    try:
        assert machine.written_by == machine.new
        assert re.search(f"written by PostgreSQL {machine.old} and {machine.new} is here too", said)
        assert (machine.data / "pg" / f"data-{machine.old}" / "PG_VERSION").read_text("utf-8").strip() == machine.old
        url = machine.do("url", "rook").stdout.strip()
        assert str(job) in _told(url)
        assert _told(url) == told
        with psycopg.connect(url.replace("postgresql+psycopg://", "postgresql://")) as connection:
            # The app's role is as bound as before: it neither owns the database nor writes the trail.
            owner = "select rolname from pg_roles join pg_database on datdba = pg_roles.oid where datname = 'rook'"
            assert connection.execute(owner).fetchone() == ("rook_owner",)
            with pytest.raises(psycopg.errors.InsufficientPrivilege):
                connection.execute("drop schema trail cascade")
    finally:
        machine.do("stop")
    # Killed between the two moves: the data isn't begun anew.
    (machine.data / "pg" / "data").rename(machine.data / "pg" / "data-new")
    machine.do("start")
    assert _told(machine.do("url", "rook").stdout.strip()) == told
    machine.do("stop")
    # From then on it is simply started.
    assert machine.do("start").stderr == ""
    machine.do("stop")


@pytest.mark.parametrize(
    ("restore", "why"),
    [
        pytest.param(
            "echo 'No space left on device' >&2; exit 1", "No space left on device", marks=pytest.mark.deep, id="full"
        ),
        pytest.param(
            # The first six words say where the server is.
            '{real}/pg_restore "$@" && {real}/psql -qX "${{@:1:6}}" -d rook -c "update job set note = note || \'x\'"',
            "rook is not the same after it was copied",
            id="differs",
        ),
    ],
)
def test_a_copy_that_fails_or_differs_leaves_the_old_data_at_work(machine: Machine, restore: str, why: str) -> None:
    _, told = _with_a_job(machine)
    machine.install_newer(restore)
    said = machine.do("start").stderr
    try:
        assert f"the data stays with PostgreSQL {machine.old}, which goes on working" in said
        assert machine.written_by == machine.old
        assert not (machine.data / "pg" / "data-new").exists()
        assert why in (machine.data / "pg" / "upgrade.log").read_text("utf-8")
        assert _told(machine.do("url", "rook").stdout.strip()) == told
    finally:
        machine.do("stop")
