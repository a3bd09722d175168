"""What people read: one name for one thing, as the glossary says, and sentences that are read once."""

import ast
import json
import re
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parents[2]
_TEXT = re.compile(r">([^<>{}]+)<")
_ATTRIBUTE = re.compile(r"""\b(?:label|title|placeholder|hint|words|really|name|unknown|aria-label)="([^"]+)\"""")
_WORDS = re.compile(r"""(['"`])([A-Za-z—“](?:(?!\1)[^\\\n]|\\.)* (?:(?!\1)[^\\\n]|\\.)*)\1""")
_QUOTED = re.compile(r"'([^'\n]* [^'\n]*)'")
_FILLED = re.compile(r"`([^`]*)`")
_NAMED = re.compile(r"""\b(?:text|does|label|title): (['"`])([^'"`]+)\1""")


def glossary() -> dict[str, str]:
    """Every word that must not be read, and what stands for it."""
    words, _, _ = (ROOT / "docs/glossary.md").read_text("utf-8").partition("## Names in code")
    rows = (line.split("|")[1:4] for line in words.splitlines())
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
            *_QUOTED.findall(template),
            *(re.sub(r"\$\{[^}]*\}", "…", one) for one in _FILLED.findall(template + code) if " " in one),
            *(one for pattern in (_WORDS, _NAMED) for _, one in pattern.findall(code)),
        ]
        yield from ((file.name, text) for text in texts)


def of_sentences() -> Iterator[tuple[str, str]]:
    """Every sentence and label that the core, its desk and its doors say."""
    for file in sorted((ROOT / "src/upper_rook").rglob("*.py")):
        if "migrations" in file.parts:
            continue
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


def of_first_pages() -> Iterator[tuple[str, str]]:
    """The README, line by line, without its commands."""
    text = re.sub(r"```.*?```", "", (ROOT / "README.md").read_text("utf-8"), flags=re.DOTALL)
    for line in re.sub(r"`[^`]*`|!\[[^\]]*\]\([^)]*\)|\]\([^)]*\)", "", text).splitlines():
        yield "README.md", line


def read() -> list[tuple[str, str]]:
    """All of it."""
    found = [(file, " ".join(text.split())) for file, text in (*of_screens(), *of_sentences(), *of_first_pages())]
    assert len(found) > 2000
    return found


def test_one_name_for_one_thing() -> None:
    never = glossary()
    assert len(never) > 60
    pattern = re.compile(r"\b(" + "|".join(map(re.escape, never)) + r")\b", re.IGNORECASE)
    wrong = [
        f"{file}: “{text[:90]}” has “{found}”: say {never.get(found.lower(), '')}"
        for file, text in read()
        for found in pattern.findall(text)
    ]
    assert not wrong, "\n".join(wrong)


# Ways of putting things that had to be read twice, whatever they were about.
HARD = {
    r"^(?:What|Who|Whoever|Which)\b(?! if)": "begin with the actor or the thing",
    r"\b(?:is|are|was|were) told\b": "say who says it",
    r"\bit comes to\b|\bcame to\b": "say is or gives",
    r"\bby itself\b|\bby themselves\b": "say automatically, or leave it out",
    r"\bheld against\b": "say compared with",
    r"\b(?:is|be) had\b|\bhad back\b": "say restored",
    r"\bgone for good\b": "say deleted permanently",
    r"\bNext to nothing\b|\bA quarter of it\b|\bHalf of it\b": "begin with Only, and name the target",
    r"\bat hand\b(?= *$)": "say current",
    r"\btake what\b|\btake that\b|\band take\b": "say save",
    r"\bback a hair\b|\ba hair\b": "say slightly",
    r"\bwas [^ ]+, is now\b": "write was → now",
    r"\bthat is not yours\b(?! to do here)": "say what is missing",
    r"[a-z]'(?:t|s|re|ll|ve)\b": "curly apostrophes",
}


def test_no_sentence_has_to_be_read_twice() -> None:
    wrong = [
        f"{file}: “{text[:100]}”: {advice}"
        for file, text in read()
        for pattern, advice in HARD.items()
        if file != "README.md" or "apostrophes" not in advice
        if re.search(pattern, text)
    ]
    assert not wrong, "\n".join(wrong)


# The same for those who read code and documents.
HARD_IN_DOCUMENTS = {
    r"(?:^|[.:;!?] )(?:What|Who|Whoever|Which)\b(?! if)": "begin with the actor or the thing",
    r"\b(?:is|are|was|were) told\b|\btold apart\b": "say who says it, or is known",
    r"\bby itself\b|\bby themselves\b": "say on its own, automatically, or leave it out",
    r"\b(?:held|holds|hold) (?:\w+ )?against\b": "say compared with",
    r"\b(?:is|be|are) had\b": "say is available, is restored",
}


def of_docstrings() -> Iterator[tuple[str, str]]:
    """Every docstring, of attributes too, and where it stands."""
    for file in sorted((ROOT / "src/upper_rook").rglob("*.py")):
        for node in ast.walk(ast.parse(file.read_text("utf-8"))):
            if (
                isinstance(node, ast.Expr)
                and isinstance(node.value, ast.Constant)
                and isinstance(node.value.value, str)
            ):
                yield f"{file.name}:{node.lineno}", node.value.value


def of_documents() -> Iterator[tuple[str, str]]:
    """Every paragraph of the documents without their code; the history names things as they were called."""
    for file in (ROOT / "CONTRIBUTING.md", ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))):
        text = re.sub(r"```.*?```", "", file.read_text("utf-8"), flags=re.DOTALL)
        for paragraph in re.split(r"\n(?=\s*(?:[-*|#]|\d+\.))|\n\n", text):
            yield file.name, re.sub(r"^[\s*#>-]*(?:\d+\. )?|[*`]", "", paragraph)


def test_docstrings_and_documents_are_read_once() -> None:
    found = [(file, " ".join(text.split())) for file, text in (*of_docstrings(), *of_documents())]
    assert len(found) > 3000
    wrong = [
        f"{file}: “…{text[max(0, match.start() - 30) : match.end() + 60]}…”: {advice}"
        for file, text in found
        if file != "glossary.md"
        for pattern, advice in HARD_IN_DOCUMENTS.items()
        for match in re.finditer(pattern, text)
    ]
    assert not wrong, "\n".join(wrong)


def test_no_wording_that_was_hard_to_read_has_come_back() -> None:
    """Seventy sentences and labels that people stumbled over, kept as a list."""
    hard = json.loads((ROOT / "tests/shared/hard_wordings.json").read_text("utf-8"))
    assert len(hard) >= 70
    texts = read()
    wrong = [f"{file}: “{text[:100]}”" for file, text in texts for one in hard if one in text and _is_whole(one, text)]
    assert not wrong, "\n".join(wrong)


def _is_whole(wording: str, text: str) -> bool:
    """A short label counts only where it is all there is."""
    return len(wording.split()) > 2 or wording == text.strip()
