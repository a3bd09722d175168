"""Every command that README and docs name, run as it stands there; and data in places and of versions that are odd."""

import fcntl
import os
import re
import subprocess
from collections.abc import Iterator
from itertools import chain
from pathlib import Path

import psycopg
import pytest

from tests import command
from upper_rook.instruments.simulated import Fault

ROOT = Path(__file__).parents[1]
DOCUMENTS = ("README.md", "CONTRIBUTING.md", *(f"docs/{name}.md" for name in ("doors", "design", "decisions")))
_COMMAND = re.compile(r"(?:`|^)\./rook ([^`\n]*?)(?:`|\s{2,}|$)", re.MULTILINE)
# They start the app, set something up or test: what they do is tested by itself.
_ELSEWHERE = ("demo", "serve", "test", "bench", "setup", "upper-rook")
_ON_DATA = ("backup", "let-in", "check-trail", "help")
_TESTS_OWN = ("DATABASE_URL", "ROOK_CLUSTER", "ROOK_ROLE", "ROOK_CLUSTER_SETTINGS", "ROOK_TEST_DATABASE")


@pytest.fixture(scope="module")
def data(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Path]:
    """A place for the app's data whose name no shell, setting or socket likes."""
    data = tmp_path_factory.mktemp("odd") / f"the shop's data, {'x' * 180}"
    assert ran(data, "start", script="scripts/postgres.sh").returncode == 0
    # As another user of it would: the database isn't started and stopped with each command.
    with (data / "pg.users").open("w") as users:
        fcntl.flock(users, fcntl.LOCK_SH)
        yield data
    ran(data, "stop", script="scripts/postgres.sh")


def ran(data: Path, *words: str | Path, script: str = "rook") -> subprocess.CompletedProcess[str]:
    own = {name: value for name, value in os.environ.items() if name not in _TESTS_OWN}
    return subprocess.run(
        [ROOT / script, *words],
        env=own | {"ROOK_DATA": str(data)},
        cwd=data.parent,
        capture_output=True,
        text=True,
        timeout=120,
        check=False,
    )


def documented() -> set[str]:
    """Commands as they are written, with all that stands in brackets."""
    written = chain.from_iterable(_COMMAND.findall((ROOT / name).read_text("utf-8")) for name in DOCUMENTS)
    wanted = {words for words in written if words and words.split()[0] not in _ELSEWHERE}
    return {re.sub(r"\[([^]|]*)[^]]*\]", r"\1", words) for words in wanted}


def test_every_command_in_the_documents_works_as_written(data: Path, tmp_path: Path) -> None:
    assert ran(data, "backup", tmp_path / "kept.zip").returncode == 0
    assert command.run("tones", tmp_path / "tones").returncode == 0
    steps = tmp_path / "steps.csv"
    steps.write_text("volume,voltage_v\n" + "".join(f"{n},{0.1 * n}\n" for n in range(10, 30)), "utf-8")
    files = {
        "analyse": next((tmp_path / "tones").iterdir()),
        "source": ROOT / "examples/sources/windhover-p1.source.json",
        "volume-steps": steps,
    }
    sheet = ROOT / "examples/active-two-way.json"
    more = {"N": "3", "ID": None, "DIR": tmp_path / "more", "JOB.json": sheet, "FILE…": files["analyse"]}
    more["OUT.pdf"] = tmp_path / "sheet.pdf"
    # Somebody has to be here to get a new password, and a restore needs an empty place or the word for it.
    commands = {
        text for text in documented() if not text.startswith(("let-in --for", "restore", "verify", "plan --json"))
    }
    assert {"let-in", "let-in --device", "backup", "analyse FILE… --json", "openapi"} <= commands
    for written in sorted(commands):
        name, *rest = written.split()
        words: list[str | Path] = []
        for word in rest:
            place = {"FILE": files.get(name), "NAME": "loudness_on", **more}.get(word, word)
            if place is not None:
                words.append(place)
            else:
                words.pop()
        if "--fault" in words:
            words[words.index("--fault") + 1] = Fault.LOUDNESS.value
        if name in _ON_DATA:
            ended = ran(data, name, *words)
            assert (ended.returncode, "Traceback" in ended.stderr) == (0, False), (written, ended.stderr)
        else:
            # As ./rook passes it on, without a process for each.
            assert command.run(name, *words).returncode == 0, written
    assert (tmp_path / "sheet.pdf").read_bytes().startswith(b"%PDF")
    for words in (["verify", tmp_path / "kept.zip"], ["restore", "--over", tmp_path / "kept.zip"]):
        assert ran(data, *words).returncode == 0, words
    ended = ran(data, "let-in", "--for", "Wren")
    assert (ended.returncode, "Wren" in ended.stderr) == (2, True)


def test_an_act_that_is_changed_or_taken_out_shows(data: Path) -> None:
    for _ in range(3):
        assert ran(data, "let-in").returncode == 0
    ended = ran(data, "check-trail")
    assert "The trail is whole" in ended.stdout, ended.stderr
    url = ran(data, "url", "rook", script="scripts/postgres.sh").stdout.strip()
    plain = url.replace("postgresql+psycopg://", "postgresql://")
    with psycopg.connect(plain) as connection:
        # The database isn't the app's own to drop, with the trail in it.
        owner = "select datdba::regrole::text from pg_database where datname = 'rook'"
        assert connection.execute(owner).fetchone() == ("rook_owner",)
    elsewhere = plain.removesuffix("/rook") + "/postgres"
    with (
        psycopg.connect(elsewhere, autocommit=True) as connection,
        pytest.raises(psycopg.errors.InsufficientPrivilege),
    ):
        connection.execute("drop database rook")
    # Whoever is the server's superuser can change the rows, and the digests tell.
    password = data.joinpath("pg.password").read_text("utf-8")
    host = re.sub(r"//rook:[^@]*@", f"//app:{password}@", plain)
    with psycopg.connect(host, autocommit=True) as connection:
        for change in (
            "update trail.act set what = 'nothing' where number = 2",
            "delete from trail.act where number = (select max(number) - 1 from trail.act)",
        ):
            connection.execute(change)
            ended = ran(data, "check-trail")
            assert ended.returncode == 2
            assert "The trail is broken at act" in ended.stderr


def test_data_of_another_major_version_is_left_alone_and_said_at_once(data: Path) -> None:
    ran(data, "stop", script="scripts/postgres.sh")
    version = data / "pg" / "data" / "PG_VERSION"
    written = version.read_text("utf-8")
    version.write_text("9\n", "utf-8")
    try:
        ended = ran(data, "backup")
    finally:
        version.write_text(written, "utf-8")
    assert ended.returncode != 0
    assert "was written by PostgreSQL 9" in ended.stderr
    assert "postgresql-9" in ended.stderr
    assert ran(data, "backup").returncode == 0
