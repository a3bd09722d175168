"""
Makes small changes to the core, one at a time, and looks whether a test notices.

    .venv/bin/python scripts/mutate.py [--count 200] [--seed 1] [--workers 2] [--only judge]

Draws places at random (a comparison, a sign, a factor, min for max, a constant, a truth), changes each in a copy of the
tree and runs those core and reference tests there that pass through the line, until one fails. Prints what went
unnoticed. A change that alters nothing anybody could see is named in scripts/mutants-that-change-nothing.txt and isn't
counted.
"""

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import Queue

from coverage import CoverageData

ROOT = Path(__file__).parents[1]
CORE = Path("src/upper_rook/core")
NOTHING = ROOT / "scripts" / "mutants-that-change-nothing.txt"
# Turned round, not moved by one: between two volts a boundary is never met.
COMPARISONS: dict[type[ast.cmpop], type[ast.cmpop]] = {
    ast.Lt: ast.GtE,
    ast.GtE: ast.Lt,
    ast.Gt: ast.LtE,
    ast.LtE: ast.Gt,
    ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq,
    ast.Is: ast.IsNot,
    ast.IsNot: ast.Is,
    ast.In: ast.NotIn,
    ast.NotIn: ast.In,
}
ARITHMETIC: dict[type[ast.operator], type[ast.operator]] = {
    ast.Add: ast.Sub,
    ast.Sub: ast.Add,
    ast.Mult: ast.Div,
    ast.Div: ast.Mult,
}
QUIET = ("-q", "--no-header", "-p", "no:xdist", "-p", "no:playwright", "-p", "no:schemathesis")
SUITES = ("tests/core", "tests/reference")
NAMES = {"min": "max", "max": "min", "any": "all", "all": "any", "argmax": "argmin", "argmin": "argmax"}


@dataclass(frozen=True)
class Mutant:
    """One small change: a file, where, and both texts of the line's piece."""

    file: Path
    start: tuple[int, int]
    end: tuple[int, int]
    was: str
    now: str

    @property
    def place(self) -> str:
        """Its file and line."""
        return f"{self.file}:{self.start[0]}"

    @property
    def told(self) -> str:
        """As it is printed, and named in the list of those that change nothing."""
        return f"{self.file.relative_to(CORE)}: {self.was} -> {self.now}"


def mutants(file: Path) -> Iterator[Mutant]:
    """Every small change of a file that this can make."""
    text = (ROOT / file).read_text("utf-8")
    tree = ast.parse(text)
    lines = text.splitlines()
    skipped = {id(node) for part in _unseen(tree) for node in ast.walk(part)}
    for node in ast.walk(tree):
        if id(node) in skipped or not isinstance(node, ast.expr):
            continue
        changed = _changed(node)
        if changed is None or node.end_lineno is None or node.end_col_offset is None:
            continue
        if node.lineno != node.end_lineno:
            continue
        # Columns are counted in bytes of UTF-8.
        line = lines[node.lineno - 1].encode()
        was = line[node.col_offset : node.end_col_offset].decode()
        now = ast.unparse(changed)
        if ast.unparse(node) != now:
            yield Mutant(file, (node.lineno, node.col_offset), (node.lineno, node.end_col_offset), was, now)


def _unseen(tree: ast.AST) -> Iterator[ast.AST]:
    """What no test could notice: annotations, docstrings, words that are put together, decorators."""
    for node in ast.walk(tree):
        if isinstance(node, ast.AnnAssign | ast.arg) and node.annotation:
            yield node.annotation
        elif isinstance(node, ast.FunctionDef):
            yield from node.decorator_list
            if node.returns:
                yield node.returns
        elif isinstance(node, ast.JoinedStr) or _names_a_type(node):
            yield node


def _names_a_type(node: ast.AST) -> bool:
    """An alias such as `Volts = Annotated[…]`."""
    return isinstance(node, ast.Assign) and isinstance(node.value, ast.Subscript)


def _changed(node: ast.expr) -> ast.expr | None:
    if isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in COMPARISONS:
        return ast.Compare(node.left, [COMPARISONS[type(node.ops[0])]()], node.comparators)
    if isinstance(node, ast.BinOp) and type(node.op) in ARITHMETIC and not isinstance(node.left, ast.Constant):
        return ast.BinOp(node.left, ARITHMETIC[type(node.op)](), node.right)
    if isinstance(node, ast.BoolOp) and len(node.values) == 2:
        return ast.BoolOp(ast.Or() if isinstance(node.op, ast.And) else ast.And(), node.values)
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not | ast.USub):
        return node.operand
    if isinstance(node, ast.Call):
        return _other_call(node)
    if isinstance(node, ast.Constant):
        return _other_constant(node.value)
    return None


def _other_call(node: ast.Call) -> ast.expr | None:
    if isinstance(node.func, ast.Name) and node.func.id in NAMES:
        return ast.Call(ast.Name(NAMES[node.func.id]), node.args, node.keywords)
    if isinstance(node.func, ast.Attribute) and node.func.attr in NAMES:
        return ast.Call(ast.Attribute(node.func.value, NAMES[node.func.attr]), node.args, node.keywords)
    return None


def _other_constant(value: object) -> ast.expr | None:
    if isinstance(value, bool):
        return ast.Constant(not value)
    if isinstance(value, int):
        return ast.Constant(value + 1 if abs(value) < 4 else 2 * value)
    if isinstance(value, float):
        return ast.Constant(value * 1.5 if value else 1.0)
    return None


Reached = dict[tuple[str, int], set[str]]
"""Which tests run through a line of a file."""


def reached(copy: Path) -> Reached:
    """Runs everything once in `copy` and notes which test runs through which line."""
    data = copy / "reached"
    settings = copy / "reached.cfg"
    settings.write_text(
        f"[run]\ndynamic_context = test_function\ndata_file = {data}\nsource = {copy / CORE}\n", "utf-8"
    )
    command = [sys.executable, "-m", "coverage", "run", f"--rcfile={settings}", "-m", "pytest", *QUIET, *SUITES]
    ended = subprocess.run(command, cwd=copy, env=surroundings(copy), capture_output=True, text=True, check=False)
    if ended.returncode:
        sys.exit(f"The tests have to pass before anything is changed:\n{ended.stdout[-2000:]}")
    found = CoverageData(str(data))
    found.read()
    lines: Reached = {}
    for file in found.measured_files():
        for line, contexts in found.contexts_by_lineno(file).items():
            lines[str(Path(file).relative_to(copy)), line] = {context for context in contexts if context}
    return lines


def tests_for(mutant: Mutant, lines: Reached) -> list[str]:
    """The tests that run through the changed line; all of them for what is worked out before any test begins."""
    contexts = lines.get((str(mutant.file), mutant.start[0]))
    if not contexts:
        return list(SUITES)
    parts = [context.rsplit(".", 1) for context in sorted(contexts)]
    return [f"{module.replace('.', '/')}.py::{name}" for module, name in parts]


def surroundings(copy: Path) -> dict[str, str]:
    """The environment of tests in a copy; none of them needs the database."""
    return os.environ | {"PYTHONPATH": str(copy / "src"), "ROOK_TEST_DATABASE": "postgresql+psycopg://none/none"}


def noticed(mutant: Mutant, copy: Path, lines: Reached) -> bool:
    """Whether a test fails with the change made in `copy`."""
    file = copy / mutant.file
    tests = tests_for(mutant, lines)
    text = file.read_text("utf-8")
    rows = text.splitlines(keepends=True)
    row = rows[mutant.start[0] - 1].encode()
    rows[mutant.start[0] - 1] = (row[: mutant.start[1]] + f"({mutant.now})".encode() + row[mutant.end[1] :]).decode()
    file.write_text("".join(rows), "utf-8")
    try:
        ended = subprocess.run(
            [sys.executable, "-m", "pytest", "-x", *QUIET, *tests],
            cwd=copy,
            env=surroundings(copy),
            capture_output=True,
            timeout=120,
            check=False,
        )
    except subprocess.TimeoutExpired:
        return True
    finally:
        file.write_text(text, "utf-8")
    return ended.returncode != 0


def main() -> int:
    """Draws, changes, runs, tells; 0 when at least 85 % were noticed."""
    asked = argparse.ArgumentParser(description=(__doc__ or "").splitlines()[1])
    asked.add_argument("--count", type=int, default=200)
    asked.add_argument("--seed", type=int, default=1)
    asked.add_argument("--workers", type=int, default=2)
    asked.add_argument("--only", default="", help="a wing of the core, or a module of it")
    asked.add_argument("--again", type=Path, help="what an earlier run printed: only what it found unnoticed")
    options = asked.parse_args()
    nothing = set(NOTHING.read_text("utf-8").splitlines()) if NOTHING.exists() else set()
    files = sorted(path.relative_to(ROOT) for path in (ROOT / CORE).rglob("*.py"))
    pool = [
        mutant for file in files if options.only in str(file) for mutant in mutants(file) if mutant.told not in nothing
    ]
    if options.again:
        rows = options.again.read_text("utf-8").splitlines()
        left = {line.partition(" ")[2] for line in rows if line.startswith("UNNOTICED")}
        pool = [mutant for mutant in pool if f"{mutant.place} {mutant.told}" in left]
    drawn = random.Random(options.seed).sample(pool, min(options.count, len(pool)))  # noqa: S311
    with tempfile.TemporaryDirectory() as folder:
        copies: Queue[Path] = Queue()
        for number in range(options.workers):
            copy = Path(folder) / str(number)
            for part in ("src", "tests", "examples", "docs"):
                shutil.copytree(ROOT / part, copy / part, ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
            shutil.copy(ROOT / "pyproject.toml", copy)
            copies.put(copy)

        lines = reached(copies.queue[0])

        def tried(mutant: Mutant) -> bool:
            copy = copies.get()
            try:
                seen = noticed(mutant, copy, lines)
            finally:
                copies.put(copy)
            print("noticed  " if seen else "UNNOTICED", mutant.place, mutant.told, flush=True)
            return seen

        with ThreadPoolExecutor(options.workers) as threads:
            seen = sum(threads.map(tried, drawn))
    print(f"{seen} of {len(drawn)} noticed: {100 * seen / len(drawn):.0f} %  ({len(pool)} places, seed {options.seed})")
    return 0 if seen >= 0.85 * len(drawn) else 1


if __name__ == "__main__":
    sys.exit(main())
