"""Findings by cause."""

import re
from pathlib import Path

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.plan.causes import by_cause

CORE = Path(__file__).parents[2] / "src/upper_rook/core"


def told(key: str, *paths: str, severity: Severity = Severity.NOTE, title: str = "") -> Finding:
    kind, *about = key.split(".")
    return Finding(
        kind=FindingKind(kind),
        about=tuple(about),
        severity=severity,
        title=title or key,
        reason="r",
        remedy="m",
        paths=paths,
    )


def test_a_note_stays_a_note_where_nothing_causes_it() -> None:
    # Both paths have the same note; only one of them has the stop that it follows from.
    root, *others = by_cause(
        (
            told("load-too-low", "front", severity=Severity.STOP),
            told("rating-estimated", "front"),
            told("rating-estimated", "rear"),
        )
    )
    assert [(consequence.kind, consequence.paths) for consequence in root.consequences] == [
        ("rating-estimated", ("front",))
    ]
    assert [(finding.kind, finding.paths) for finding in others] == [("rating-estimated", ("rear",))]


def test_the_same_note_is_told_once_with_its_paths() -> None:
    (note,) = by_cause((told("supply", "front"), told("supply", "rear")))
    assert note.paths == ("front", "rear")
    both = by_cause((told("supply", "front", title="one"), told("supply", "rear", title="another")))
    assert len({finding.key for finding in both}) == 2


def test_a_chain_of_causes_stands_under_its_first_and_is_as_grave_as_its_gravest() -> None:
    (root,) = by_cause(
        (
            told("source-strong", "front", severity=Severity.RISK),
            told("amplifier-input-over", "front", severity=Severity.STOP),
            told("input-over.dsp", "front", severity=Severity.RISK),
        )
    )
    assert (root.kind, root.severity) == ("input-over", Severity.STOP)
    assert [consequence.kind for consequence in root.consequences] == ["amplifier-input-over", "source-strong"]
    assert all(consequence.consequences == () for consequence in root.consequences)


def test_a_source_causes_nothing_on_a_path_of_another() -> None:
    found = by_cause((told("source-far-off.radio.front", "front", severity=Severity.RISK), told("noise", "rear")))
    assert [finding.consequences for finding in found] == [(), ()]


def test_every_kind_of_finding_is_found_somewhere() -> None:
    """A kind that no module makes a finding of is a leftover."""
    modules = [file for folder in ("plan/findings", "crossover") for file in (CORE / folder).glob("*.py")]
    named = {name for file in modules for name in re.findall(r"FindingKind\.([A-Z_]+)", file.read_text("utf-8"))}
    assert named == set(FindingKind.__members__)


def test_a_boost_and_a_wrong_tone_stand_above_what_they_make_of_the_volts() -> None:
    risk = Severity.RISK
    (root,) = by_cause((told("source-strong", "sub", severity=risk), told("boost", "sub", severity=risk)))
    assert (root.kind, [finding.kind for finding in root.consequences]) == ("boost", ["source-strong"])
    found = (told("noise", "front"), told("source-weak", "front", severity=risk), told("tone-misses-peak", "front"))
    (root,) = by_cause(found)
    assert (root.kind, root.severity) == ("tone-misses-peak", risk)
    assert {finding.kind for finding in root.consequences} == {"noise", "source-weak"}
