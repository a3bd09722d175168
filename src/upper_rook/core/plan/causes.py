"""Findings by cause: what follows from another stands under it, and the same note is told once for all its paths."""

from collections.abc import Iterable, Iterator

from upper_rook.core.common.finding import Finding, gravest, ranked
from upper_rook.core.plan.parts import PARTS

_FOLLOWS: tuple[tuple[str, frozenset[str]], ...] = (
    ("no-processor", frozenset({"tone-misses-peak", "output-over", "noise-input"})),
    ("no-signal", frozenset({"one-lead", "half-of-music", "noise", "source-weak"})),
    ("joined", frozenset({"taps-apart", "no-ground-side"})),
    ("taps-gap", frozenset({"tap-band"})),
    ("no-ground-side", frozenset({"amplifier-input-over", "source-strong", "source-weak", "noise"})),
    ("input-over", frozenset({"output-over", "amplifier-input-over", "source-strong"})),
    ("trim-too-high", frozenset({"amplifier-input-over", "input-over", "source-strong"})),
    ("amplifier-input-over", frozenset({"source-strong"})),
    ("converter-weak", frozenset({"source-weak", "noise", "noise-input"})),
    ("load-too-low", frozenset({"rating-estimated", "amplifier-weak", "amplifier-strong"})),
    ("rating-distorted", frozenset({"rating-corrected"})),
    ("ratings-contradict", frozenset({"rating-distorted", "rating-corrected", "amplifier-strong", "amplifier-weak"})),
    (
        "nothing-left",
        frozenset({"stacked", "gap", "no-bass", "no-treble", "above-range", "below-range", "cancel", "noise"}),
    ),
    ("starved", frozenset({"near-passive", "no-treble", "no-bass", "above-range", "below-range"})),
    ("tweeter", frozenset({"below-range", "overlap", "no-high-pass"})),
    ("no-low-pass", frozenset({"overlap", "above-range", "bump", "cancel"})),
    ("no-high-pass", frozenset({"overlap", "below-range", "bump"})),
    ("cancel-beside", frozenset({"cancel", "gap"})),
    ("no-subsonic", frozenset({"below-range"})),
    ("idle-filter", frozenset({"no-low-pass", "no-high-pass", "no-subsonic", "below-range", "above-range", "overlap"})),
    ("boost", frozenset({"tone-misses-peak", "source-strong"})),
    ("tone-misses-peak", frozenset({"source-weak", "noise", "noise-input"})),
    ("noise-input", frozenset({"noise"})),
    ("source-far-off", frozenset({"source-weak", "source-strong", "noise", "converter-weak"})),
)
"""Root and what follows from it, by the kinds of their keys, where both hold for a path in common; roots in order."""


def kind_of(finding: Finding) -> str:
    """What a finding is, without the part or place it is about."""
    head = finding.key.partition(".")[0]
    stem, _, tail = head.rpartition("-")
    while stem and tail.isdigit():
        head = stem
        stem, _, tail = head.rpartition("-")
    return head


def by_cause(found: Iterable[Finding]) -> tuple[Finding, ...]:
    """
    Every finding once: consequences under their root, equal ones merged over their paths, the gravest first.

    A root is as grave as what follows from it. What follows is looked for path by path, before anything is merged: the
    same note on another path, where nothing causes it, stays a note of its own.
    """
    by_kind: dict[str, list[Finding]] = {}
    for one in found:
        by_kind.setdefault(kind_of(one), []).append(one)
    for root_kind, kinds in _FOLLOWS:
        for place, root in enumerate(by_kind.get(root_kind, ())):
            own, under = set(root.paths), []
            for kind in kinds & by_kind.keys():
                under += [one for one in by_kind[kind] if own.intersection(one.paths)]
                by_kind[kind] = [one for one in by_kind[kind] if own.isdisjoint(one.paths)]
            if under:
                by_kind[root_kind][place] = _over(root, under)
    return ranked(_uniquely(_merged(one for same in by_kind.values() for one in same)))


def _over(root: Finding, under: list[Finding]) -> Finding:
    """A root with what follows from it, side by side."""
    flat = (next_one for one in under for next_one in (one.model_copy(update={"consequences": ()}), *one.consequences))
    grave = gravest(root.severity, *(one.severity for one in under))
    return root.model_copy(update={"severity": grave, "consequences": ranked((*root.consequences, *flat))})


def _merged(found: Iterable[Finding]) -> Iterable[Finding]:
    same: dict[tuple[object, ...], list[Finding]] = {}
    for one in found:
        follows = tuple((next_one.title, next_one.reason) for next_one in one.consequences)
        same.setdefault((kind_of(one), one.severity, one.title, one.reason, one.remedy, follows), []).append(one)
    for rows in same.values():
        paths = tuple(dict.fromkeys(path for row in rows for path in row.paths))
        yield rows[0] if len(rows) == 1 else rows[0].model_copy(update={"paths": paths})


def _uniquely(found: Iterable[Finding]) -> Iterator[Finding]:
    """With a key of its own each, made of what it is and where it holds."""
    taken: dict[str, int] = {}
    for one in found:
        where = "" if "." in one.key else ".".join(("", *one.paths[:3]))
        key = f"{one.key}{where}"[:190]
        taken[key] = taken.get(key, 0) + 1
        unique = key if taken[key] == 1 else f"{key}.{taken[key]}"
        yield one.model_copy(update={"key": unique, "part": PARTS.get(kind_of(one), "")})
