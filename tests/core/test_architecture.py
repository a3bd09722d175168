"""Every module has its layer, keeps its private parts, and a plan loads nothing that it doesn't need."""

import ast
import subprocess
import sys
import tomllib
from pathlib import Path

ROOT = Path(__file__).parents[2]
CORE = ROOT / "src" / "upper_rook" / "core"
MODULES = sorted(path for path in CORE.rglob("*.py") if path.name != "__init__.py")
CONTRACTS = tomllib.loads((ROOT / "pyproject.toml").read_text("utf-8"))["tool"]["importlinter"]["contracts"]


def test_every_module_of_the_core_is_in_a_layer() -> None:
    contract = next(contract for contract in CONTRACTS if contract.get("containers") == ["upper_rook.core"])
    assert contract["exhaustive"]
    layers = {wing for layer in contract["layers"] for wing in layer.replace("|", " ").split()}
    wings = {module.relative_to(CORE).parts[0] for module in MODULES}
    assert wings - layers == set()


def test_nobody_reaches_into_the_private_parts_of_another_module() -> None:
    reached = [
        f"{path.relative_to(ROOT)}: {name.name}"
        for path in (ROOT / "src").rglob("*.py")
        for node in ast.walk(ast.parse(path.read_text("utf-8")))
        if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("upper_rook")
        for name in node.names
        if name.name.startswith("_") and name.name != "__version__"
    ]
    assert reached == []


_SAYS_NOTHING = {"one", "each", "some", "thing"}
"""Names for anything: a variable is called after what it holds."""


def test_no_name_stands_for_anything() -> None:
    named = [
        f"{path.relative_to(ROOT)}:{node.lineno}: {name}"
        for path in (ROOT / "src").rglob("*.py")
        for node in ast.walk(ast.parse(path.read_text("utf-8")))
        if (name := _name_of(node)) in _SAYS_NOTHING
    ]
    assert named == []


def _name_of(node: ast.AST) -> str:
    """Name that `node` gives or uses; empty where it has none."""
    if isinstance(node, ast.Name):
        return node.id
    if isinstance(node, ast.arg):
        return node.arg
    return node.name if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef) else ""


def test_a_plan_loads_neither_the_judge_nor_scipy() -> None:
    asked = (
        "import sys; from upper_rook.core.plan.plan import plan;"
        "from upper_rook.core.system.chain import line_output_pair;"
        "from upper_rook.core.system.job_sheet import JobSheet; plan(JobSheet(chain=line_output_pair()));"
        "print([name for name in sys.modules if name.startswith(('scipy', 'upper_rook.core.judge'))])"
    )
    ended = subprocess.run([sys.executable, "-c", asked], capture_output=True, text=True, check=True)
    assert ended.stdout.strip() == "[]"


def test_no_act_is_written_in_the_web() -> None:
    """Routers translate: nothing there opens a transaction or writes a row."""
    for path in (ROOT / "src" / "upper_rook" / "web").glob("*.py"):
        text = path.read_text("utf-8")
        assert "commit()" not in text
        assert "session.add" not in text
