"""What people read: one name for one thing, as the glossary says."""

import ast
import re
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parents[2]
_TEXT = re.compile(r">([^<>{}]+)<")
_ATTRIBUTE = re.compile(r"""\b(?:label|title|placeholder|hint|words|really|name|aria-label)="([^"]+)\"""")
_WORDS = re.compile(r"""(['"`])([A-Za-z—“](?:(?!\1)[^\\\n]|\\.)* (?:(?!\1)[^\\\n]|\\.)*)\1""")
_NAMED = re.compile(r"""\b(?:text|does|label|title): (['"`])([^'"`]+)\1""")


def glossary() -> dict[str, str]:
    """Every word that must not be read, and what stands for it."""
    rows = (line.split("|")[1:4] for line in (ROOT / "docs/glossary.md").read_text("utf-8").splitlines())
    found = [[cell.strip() for cell in row] for row in rows if len(row) == 3]
    return {bad.strip(): word for word, _, never in found[2:] for bad in never.split(",")}


def of_screens() -> Iterator[tuple[str, str]]:
    """Every text that the interface brings itself, and where it stands."""
    for file in sorted((ROOT / "frontend/src").rglob("*")):
        if file.suffix not in {".vue", ".ts"} or file.name == "schema.d.ts":
            continue
        text = file.read_text("utf-8")
        script, _, template = text.partition("<template>") if file.suffix == ".vue" else (text, "", "")
        template = re.sub(r"<!--.*?-->", "", template, flags=re.DOTALL).partition("<style")[0]
        code = re.sub(r"/\*.*?\*/|//[^\n]*|^import [^;]*;", "", script, flags=re.DOTALL | re.MULTILINE)
        texts = [
            *_TEXT.findall(template),
            *_ATTRIBUTE.findall(template),
            *(one for pattern in (_WORDS, _NAMED) for _, one in pattern.findall(code)),
        ]
        yield from ((file.name, one) for one in texts)


def of_sentences() -> Iterator[tuple[str, str]]:
    """Every sentence and label that the core, its desk and its doors say."""
    for file in sorted((ROOT / "src/upper_rook").rglob("*.py")):
        tree = ast.parse(file.read_text("utf-8"))
        told = {
            id(node.value)
            for node in ast.walk(tree)
            if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant)
        }
        for node in ast.walk(tree):
            if not isinstance(node, ast.Constant) or not isinstance(node.value, str) or id(node) in told:
                continue
            # A bare key is no word that anybody reads.
            if " " in node.value or node.value[:1].isupper():
                yield file.name, node.value


def test_one_name_for_one_thing() -> None:
    never = glossary()
    assert len(never) > 30
    read = [*of_screens(), *of_sentences()]
    assert len(read) > 2000
    pattern = re.compile(r"\b(" + "|".join(map(re.escape, never)) + r")\b", re.IGNORECASE)
    wrong = [
        f"{file}: “{text.strip()[:90]}” has “{found}”: say {never.get(found.lower(), '')}"
        for file, text in read
        for found in pattern.findall(text)
    ]
    assert not wrong, "\n".join(wrong)
