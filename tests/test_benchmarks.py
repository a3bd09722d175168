"""The benchmarks go on working: each can be read, and what drives the screens finds them, once and small."""

import os
import subprocess
import sys
from importlib import import_module
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
# Those that only measure when they are run themselves.
NAMES = sorted(path.stem for path in (ROOT / "benchmarks").glob("*.py") if "__main__" in path.read_text("utf-8"))


@pytest.mark.parametrize("name", NAMES)
def test_every_benchmark_can_be_read(name: str) -> None:
    import_module(f"benchmarks.{name}")


@pytest.mark.parametrize(
    ("name", "small", "says"),
    [
        ("editing", {"PATHS": "2", "CHANGES": "2"}, "the result in "),
        pytest.param("opening", {"TIMES": "1"}, "plan: first letters ", marks=pytest.mark.deep),
        pytest.param("planning", {}, " ms", marks=pytest.mark.deep),
    ],
)
def test_a_benchmark_runs(name: str, small: dict[str, str], says: str) -> None:
    done = subprocess.run(
        [sys.executable, ROOT / "benchmarks" / f"{name}.py"],
        cwd=ROOT,
        env=os.environ | small,
        capture_output=True,
        text=True,
        timeout=300,
        check=False,
    )
    assert done.returncode == 0, done.stderr[-2000:]
    assert says in done.stdout
