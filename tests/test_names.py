"""One vocabulary: no identifier, API name, CSS class or file has a word that the glossary has done away with."""

import json
import re
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parents[1]
ENDS = {".py", ".ts", ".vue", ".scss", ".sql", ".sh", ".mjs"}
FOLDERS = ("src", "tests", "benchmarks", "scripts", "frontend/src", "frontend/tests")
# Written by a tool, kept as an earlier version wrote it, or the words themselves.
LEFT = ("schema.d.ts", "migrations", "shared", "test_names.py", "hard_wordings.json", "__pycache__", ".egg-info")
# Names that stay since documents, records and addresses hold them, each at the places that say so; and English.
STORED = re.compile(
    r"""ceiling\.[a-z<{]|ceiling_v|["']ceiling["']|startswith\("ceil|["'/]seal["']|run/seal|["']stale["']"""
    r"""|\brungs\b(?=["']|: \[|=)|["']ladder["']|examination\.ladder|staleTime|[Oo]f course|ceiling speakers"""
)
WORD = re.compile(r"[A-Z]?[a-z]+|[A-Z]+(?![a-z])")


def gone() -> frozenset[str]:
    """Words that no name may have, singular and plural, from the glossary's second table."""
    table = (ROOT / "docs/glossary.md").read_text("utf-8").partition("| Of before | Now |")[2]
    rows = [line.split("|")[1] for line in table.splitlines() if line.startswith("| ")]
    words = {word.strip() for row in rows for word in row.split(",")}
    assert len(words) > 12
    # Stone is a colour, and a wall stands in a vehicle too.
    words -= {"stone", "wall"}
    return frozenset(words | {f"{word}s" for word in words} | {"mended", "mending"})


def files() -> Iterator[Path]:
    for folder in FOLDERS:
        for file in sorted((ROOT / folder).rglob("*")):
            if file.suffix in ENDS and not any(part in str(file.relative_to(ROOT)) for part in LEFT):
                yield file


def words_of(text: str) -> set[str]:
    return {word.lower() for word in WORD.findall(STORED.sub("", text))}


def test_no_name_in_code_and_styles_has_a_word_of_before() -> None:
    found = [
        f"{file.relative_to(ROOT)}: {sorted(bad)}"
        for file in files()
        if (bad := words_of(file.read_text("utf-8")) & gone())
    ]
    assert found == []


def test_no_file_has_a_word_of_before() -> None:
    assert [str(file) for file in files() if words_of(str(file.relative_to(ROOT))) & gone()] == []


def test_no_name_of_the_api_has_a_word_of_before() -> None:
    document = json.loads((ROOT / "docs/openapi.json").read_text("utf-8"))
    fields = {name for model in document["components"]["schemas"].values() for name in model.get("properties", {})}
    names = fields | set(document["paths"]) | set(document["components"]["schemas"])
    stored = {"rungs", "ladder", "ceiling_v"}
    assert {name for name in names - stored if words_of(name) & gone()} == set()


def test_a_word_of_before_is_noticed() -> None:
    assert {"ladder", "ceiling"} <= words_of("judge_ladder(CeilingOf)") & gone()
    assert not words_of("step = 'ceiling.source.line'") & gone()
