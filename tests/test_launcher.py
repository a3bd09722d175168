"""The one command, and the command line behind it."""

import json
import os
import shutil
import signal
import socket
import subprocess
import time
from pathlib import Path

import httpx2
import psycopg
import pytest

from tests import command
from tests.conftest import empty_database
from tests.servers import COMMAND, Server, free_port, wait_until_up
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.formats.job_file import write_job

ROOT = Path(__file__).parents[1]
_TESTS_OWN = ("DATABASE_URL", "ROOK_CLUSTER", "ROOK_ROLE", "ROOK_CLUSTER_SETTINGS")


def run(*words: str | Path, **environment: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [COMMAND, *words], capture_output=True, text=True, timeout=60, env=os.environ | environment, check=False
    )


def test_a_taken_port_is_said_in_one_sentence() -> None:
    with socket.socket() as holder, empty_database() as url:
        holder.bind(("127.0.0.1", 0))
        holder.listen()
        port = holder.getsockname()[1]
        ended = run("serve", "--port", str(port), DATABASE_URL=url)
    assert ended.returncode == 2
    assert ended.stderr.startswith(f"upper-rook: Port {port} can’t be used")
    assert ended.stderr.count("\n") == 1


def test_a_set_up_step_that_a_signal_ended_runs_once_more(tmp_path: Path) -> None:
    crashing = tmp_path / "crashing"
    crashing.write_text(f"#!/bin/bash\n[ -e {tmp_path}/once ] && exit 0\ntouch {tmp_path}/once\nkill -SEGV $$\n")
    refusing = tmp_path / "refusing"
    refusing.write_text(f"#!/bin/bash\necho tried >>{tmp_path}/tries\nexit 3\n")
    for path in (crashing, refusing):
        path.chmod(0o755)
    source = f"set -euo pipefail; ROOT={ROOT}; ROOK_DATA={tmp_path}; . {ROOT}/scripts/setup.sh; step 'trying' "
    ended = subprocess.run(["bash", "-c", source + str(crashing)], capture_output=True, text=True, check=False)
    assert ended.returncode == 0
    assert "trying was ended by signal 11; running it once more" in ended.stderr
    ended = subprocess.run(["bash", "-c", source + str(refusing)], capture_output=True, text=True, check=False)
    assert ended.returncode == 1
    assert (tmp_path / "tries").read_text() == "tried\n"


@pytest.mark.parametrize("command", ["serve", "let-in", "check-trail", "backup"])
def test_a_database_that_is_not_there_is_said_in_one_sentence(command: str) -> None:
    url = f"postgresql+psycopg://app:x@127.0.0.1:{free_port()}/rook"
    port = ("--port", str(free_port())) if command == "serve" else ()
    ended = run(command, *port, DATABASE_URL=url)
    assert ended.returncode == 2
    assert "The database can’t be reached" in ended.stderr
    assert "Traceback" not in ended.stderr


@pytest.mark.parametrize("how", [signal.SIGINT, pytest.param(signal.SIGTERM, marks=pytest.mark.deep)])
def test_rook_starts_and_stops_within_five_seconds(how: signal.Signals) -> None:
    port = free_port()
    with empty_database() as url:
        rook = subprocess.Popen(
            [ROOT / "rook", "serve", "--port", str(port)],
            env=os.environ | {"DATABASE_URL": url},
            stdout=subprocess.PIPE,
            text=True,
            start_new_session=True,
        )
        wait_until_up(f"http://127.0.0.1:{port}")
        assert rook.stdout is not None
        assert f"http://127.0.0.1:{port}" in rook.stdout.readline()
        # An open page holds a stream that never ends by itself.
        page = socket.create_connection(("127.0.0.1", port))
        page.sendall(b"GET /api/jobs HTTP/1.1\r\nHost: localhost\r\n\r\n")
        asked = time.monotonic()
        # As a terminal does on Ctrl-C: the whole group is told.
        os.killpg(rook.pid, how)
        assert rook.wait(10) == 0
        assert time.monotonic() - asked < 5
        page.close()
        rook.stdout.close()


def test_an_app_that_was_killed_is_no_clean_stop() -> None:
    port = free_port()
    with empty_database() as url:
        rook = subprocess.Popen(
            [ROOT / "rook", "serve", "--port", str(port)],
            env=os.environ | {"DATABASE_URL": url},
            stdout=subprocess.DEVNULL,
            start_new_session=True,
        )
        wait_until_up(f"http://127.0.0.1:{port}")
        children = Path(f"/proc/{rook.pid}/task/{rook.pid}/children").read_text("utf-8").split()
        os.kill(int(children[0]), signal.SIGKILL)
        assert rook.wait(10) == 128 + signal.SIGKILL


def test_any_address_but_this_machines_is_refused() -> None:
    with empty_database() as url:
        ended = run("serve", "--port", str(free_port()), DATABASE_URL=url, ROOK_HOST="0.0.0.0")  # noqa: S104
    assert ended.returncode == 2
    assert "without sign-in the app listens on this machine only" in ended.stderr


def test_rook_brings_its_own_database_and_takes_it_away_again(tmp_path: Path) -> None:
    port = free_port()
    own = {name: value for name, value in os.environ.items() if name not in _TESTS_OWN}
    rook = subprocess.Popen(
        [ROOT / "rook", "demo", "--port", str(port)],
        env=own | {"ROOK_DATA": str(tmp_path)},
        stdout=subprocess.DEVNULL,
        start_new_session=True,
    )
    wait_until_up(f"http://127.0.0.1:{port}", rook)
    running = tmp_path / "pg" / "data" / "postmaster.pid"
    assert running.exists()
    assert (tmp_path / "setup.lock").stat().st_mode & 0o077 == 0
    _is_an_ordinary_role(tmp_path)
    _comes_back(port, int(running.read_text("utf-8").split()[0]))
    os.killpg(rook.pid, signal.SIGINT)
    assert rook.wait(10) == 0
    assert not running.exists()


def _is_an_ordinary_role(data: Path) -> None:
    """The app's role may do nothing beyond its own data, and torn pages would be noticed."""
    own = {name: value for name, value in os.environ.items() if name not in _TESTS_OWN}
    environment = own | {"ROOK_DATA": str(data)}
    told = subprocess.run(
        [ROOT / "scripts" / "postgres.sh", "url", "rook_demo"],
        env=environment,
        check=True,
        capture_output=True,
        text=True,
    )
    url = told.stdout.strip().replace("postgresql+psycopg://", "postgresql://")
    with psycopg.connect(url) as connection:
        role = "select rolsuper, rolcreatedb, rolcreaterole from pg_roles where rolname = current_user"
        assert connection.execute(role).fetchone() == (False, False, False)
        assert connection.execute("show data_checksums").fetchone() == ("on",)


def _comes_back(port: int, postmaster: int) -> None:
    """A database that is killed is started again, and the app goes on with it."""
    os.kill(postmaster, signal.SIGKILL)
    deadline = time.monotonic() + 30
    while time.monotonic() < deadline:
        time.sleep(0.2)
        if not Path(f"/proc/{postmaster}").exists():
            break
    for _ in range(150):
        answer = httpx2.get(f"http://127.0.0.1:{port}/api/health", timeout=10)
        if answer.status_code == 200:
            return
        assert answer.status_code == 503
        time.sleep(0.2)
    raise AssertionError("the database did not come back")


def test_an_app_whose_rook_was_killed_keeps_its_database(tmp_path: Path) -> None:
    own = {name: value for name, value in os.environ.items() if name not in _TESTS_OWN}
    environment = own | {"ROOK_DATA": str(tmp_path)}
    ports = [free_port(), free_port()]
    rooks = []
    for port in ports:
        command = [ROOT / "rook", "serve", "--port", str(port)]
        rooks.append(subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL, start_new_session=True))
        wait_until_up(f"http://127.0.0.1:{port}", rooks[-1])
    first = Path(f"/proc/{rooks[0].pid}/task/{rooks[0].pid}/children").read_text("utf-8").split()
    rooks[0].kill()
    rooks[0].wait(10)
    os.killpg(rooks[1].pid, signal.SIGINT)
    assert rooks[1].wait(15) == 0
    assert httpx2.get(f"http://127.0.0.1:{ports[0]}/api/health", timeout=10).status_code == 200
    for child in first:
        os.kill(int(child), signal.SIGTERM)
    stop = [ROOT / "scripts" / "postgres.sh", "stop"]
    subprocess.run(stop, env=environment | {"ROOK_CLUSTER": "pg"}, check=True, capture_output=True)


def test_demo_data_is_added_once_and_leaves_a_users_job_alone() -> None:
    with empty_database() as url:
        server = Server(url, "demo").start()
        jobs = httpx2.get(f"{server.url}/api/jobs").json()["jobs"]
        assert len(jobs) == 11
        finished = next(job for job in jobs if job["summary"]["stands"] == "finished")
        place = f"{server.url}/api/jobs/{finished['id']}"
        job = httpx2.get(place).json()
        body = {"base_version": job["version"], "sheet": job["sheet"] | {"note": "mine now"}}
        httpx2.put(f"{place}/sheet", json=body)
        server.stop()
        server.start()
        again = httpx2.get(f"{server.url}/api/jobs").json()["jobs"]
        server.stop()
    assert len(again) == 11
    assert "mine now" in [one["note"] for one in again]
    assert {one["summary"]["stands"] for one in again} == {"redo", "finished", "open"}


def test_plan_of_a_job_file(tmp_path: Path, sheet: JobSheet) -> None:
    file = tmp_path / "job.json"
    file.write_text(write_job(sheet), "utf-8")
    told = command.run("plan", file)
    assert (told.returncode, told.stderr) == (0, "")
    assert "Front: 15.49 V across the speaker terminals" in told.stdout
    document = json.loads(command.run("plan", file, "--json").stdout)
    assert document["paths"][0]["target"]["value"] == pytest.approx(15.49, abs=0.01)


@pytest.mark.parametrize("text", [None, "", "{}", '{"format": 9}', "\x00"])
def test_a_bad_job_file_is_one_sentence_and_exit_two(tmp_path: Path, text: str | None) -> None:
    file = tmp_path / "job.json"
    if text is not None:
        file.write_text(text, "utf-8")
    ended = command.run("plan", file, "--json")
    assert (ended.returncode, ended.stdout) == (2, "")
    assert ended.stderr.startswith("upper-rook: ")
    assert "Traceback" not in ended.stderr


def test_schema_and_tones(tmp_path: Path) -> None:
    assert json.loads(command.run("schema").stdout)["title"] == "Upper Rook job file"
    assert command.run("tones", tmp_path / "stick").returncode == 0
    names = [file.name for file in (tmp_path / "stick").iterdir()]
    assert "1-kHz-sine-at-0-dBFS.wav" in names
    assert "40-Hz-sine-at--5-dBFS.wav" in names
    refused = command.run("tones", "/proc/nowhere")
    assert refused.returncode == 2
    assert "Can’t write" in refused.stderr


def test_what_is_mistyped_is_exit_two() -> None:
    assert command.run("serve", "--port", "abc").returncode == 2
    assert command.run("no-such-thing").returncode == 2
    assert command.run("plan").returncode == 2


PIECES = {
    "postgresql": "usr/lib/postgresql/15/bin/initdb",
    "libpango-1.0-0": "usr/lib/x86_64-linux-gnu/libpango-1.0.so.0",
    "libpangoft2-1.0-0": "usr/lib/x86_64-linux-gnu/libpangoft2-1.0.so.0",
    "libharfbuzz-subset0": "usr/lib/x86_64-linux-gnu/libharfbuzz-subset.so.0",
    "python3": "bin/python3",
    "python3-venv": "bin/with-venv",
    "ca-certificates": "etc/ssl/certs/ca-certificates.crt",
    "chromium-headless-shell": "usr/bin/chromium-headless-shell",
    "ngspice": "bin/ngspice",
    "sox": "bin/sox",
    "nginx-light": "usr/sbin/nginx",
    "libatomic1": "usr/lib/x86_64-linux-gnu/libatomic.so.1",
}
TOOLS = ("bash", "tr", "apt-get", "env", "tail", "grep")


def machine(root: Path, *without: str) -> dict[str, str]:
    """A machine with everything but some pieces, and no right to install; its environment."""
    for package, place in PIECES.items():
        file = root / place
        file.parent.mkdir(parents=True, exist_ok=True)
        if package not in without:
            file.write_text("#!/bin/sh\nexit 0\n", "utf-8")
            file.chmod(0o755)
    if "python3" not in without:
        # Answers that it is new enough, and whether Debian's split-off parts are there.
        told = f'#!/bin/sh\ncase "$2" in *venv*) [ -e {root}/bin/with-venv ] ;; esac\n'
        (root / "bin/python3").write_text(told, "utf-8")
    for tool in TOOLS:
        if not (root / "bin" / tool).exists():
            (root / "bin" / tool).symlink_to(shutil.which(tool) or "/bin/false")
    (root / "bin/id").write_text("#!/bin/sh\necho 1000\n", "utf-8")
    (root / "bin/id").chmod(0o755)
    return {"PATH": str(root / "bin"), "ROOK_SYSTEM": str(root), "ROOT": str(ROOT), "ROOK_DATA": str(root)}


def launcher(command: str, environment: dict[str, str]) -> subprocess.CompletedProcess[str]:
    script = f". {ROOT}/scripts/setup.sh; {command}"
    return subprocess.run(["/bin/bash", "-c", script], capture_output=True, text=True, env=environment, check=False)


@pytest.mark.parametrize("package", PIECES)
def test_each_missing_piece_is_asked_for_by_its_package(tmp_path: Path, package: str) -> None:
    asked = launcher("missing_packages test", machine(tmp_path, package)).stdout.split()
    # Without Python nobody can say whether its parts are there: both are asked for in one go.
    assert set(asked) == ({"python3", "python3-venv"} if package == "python3" else {package})


def test_everything_missing_is_asked_for_in_one_go_and_by_what_is_run(tmp_path: Path) -> None:
    environment = machine(tmp_path, *PIECES)
    assert set(launcher("missing_packages test", environment).stdout.split()) == set(PIECES)
    for_tests = {"chromium-headless-shell", "ngspice", "sox", "nginx-light", "libatomic1"}
    assert set(launcher("missing_packages run", environment).stdout.split()) == set(PIECES) - for_tests
    assert "postgresql" not in launcher("missing_packages python", environment).stdout.split()
    (tmp_path / "whole").mkdir()
    assert launcher("missing_packages test", machine(tmp_path / "whole")).stdout == ""


def test_an_ordinary_user_is_told_in_one_sentence_what_to_have_installed(tmp_path: Path) -> None:
    ended = launcher("set_up_packages test", machine(tmp_path, "postgresql", "python3-venv", "libatomic1"))
    assert ended.returncode == 1
    assert ended.stderr.count("\n") == 1
    wanted = "apt-get install --no-install-recommends python3-venv postgresql libatomic1 , then run"
    assert f"ask an administrator for  {wanted}" in ended.stderr
