"""Files, modules, classes and functions that the documents name exist."""

import re
from functools import cache
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src/upper_rook"
# Where a path in a document may begin.
BASES = (
    ROOT,
    SOURCE,
    SOURCE / "core",
    SOURCE / "core/plan",
    SOURCE / "core/run",
    ROOT / "frontend",
    ROOT / "frontend/src",
)
ENDS = ("", ".py", ".ts", ".vue")
DOCUMENTS = (
    "README.md",
    "docs/design.md",
    "docs/adding-a-step.md",
    "docs/doors.md",
    "docs/decisions.md",
    "CONTRIBUTING.md",
)
NAMED = re.compile(r"`((?:[A-Za-z_-]+[./])+[A-Za-z_-]+/?)`")


@cache
def _words() -> frozenset[str]:
    """Every identifier and every file's name in the code."""
    files = [*SOURCE.rglob("*.py"), *(ROOT / "frontend/src").rglob("*.ts"), *(ROOT / "frontend/src").rglob("*.vue")]
    names = {part for file in files for part in (*file.parts, file.stem)}
    return frozenset(names.union(*(re.findall(r"[A-Za-z_]+", file.read_text("utf-8")) for file in files)))


def _is_a_file(place: str) -> bool:
    return any((base / (place + end)).exists() for base in BASES for end in ENDS)


def _is_there(name: str) -> bool:
    place = name.rstrip("/")
    if _is_a_file(place) or place in _words():
        return True
    # What is inside a file stands behind it with a dot.
    *folders, last = place.split("/")
    first, *inside = last.split(".")
    return (not folders or _is_a_file("/".join([*folders, first]))) and all(
        part in _words() for part in (first, *inside)
    )


@pytest.mark.parametrize("document", DOCUMENTS)
def test_what_a_document_names_is_there(document: str) -> None:
    named = set(NAMED.findall((ROOT / document).read_text("utf-8")))
    assert {one for one in named if not _is_there(one)} == set()


def test_a_name_that_is_gone_is_noticed() -> None:
    assert not _is_there("core/run/nowhere")
    assert not _is_there("desk.nowhere_at_all")


@pytest.mark.parametrize("document", [*DOCUMENTS, "docs/benchmarks.md", "docs/glossary.md"])
def test_what_a_document_links_is_there(document: str) -> None:
    file = ROOT / document
    linked = list(re.findall(r"\]\(([^)#:\s]+)[^)]*\)", file.read_text("utf-8")))
    assert [place for place in linked if not (file.parent / place).exists()] == []


def test_the_index_of_decisions_has_each_once() -> None:
    text = (ROOT / "docs/decisions.md").read_text("utf-8")
    index = [int(number) for row in re.findall(r"^\|[^|]+\|([ 0-9,]+)\|$", text, re.M) for number in row.split(",")]
    written = [int(number) for number in re.findall(r"^(\d+)\. \*\*", text, re.M)]
    assert written == list(range(1, len(written) + 1))
    assert sorted(index) == written
