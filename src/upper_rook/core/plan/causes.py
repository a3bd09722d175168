"""Findings by cause: what follows from another stands under it, and the same note is told once for all its paths."""

from collections.abc import Iterable, Iterator

from upper_rook.core.common.finding import Finding, Severity, ranked

_FOLLOWS: tuple[tuple[str, frozenset[str]], ...] = (
    ("no-processor", frozenset({"tone-misses-peak", "output-over", "noise-input"})),
    ("no-signal", frozenset({"one-lead", "half-of-music", "noise", "source-weak"})),
    ("no-ground-side", frozenset({"amplifier-input-over", "source-strong", "source-weak", "noise"})),
    ("input-over", frozenset({"output-over", "amplifier-input-over", "source-strong"})),
    ("trim-too-high", frozenset({"amplifier-input-over", "input-over", "source-strong"})),
    ("amplifier-input-over", frozenset({"source-strong"})),
    ("converter-weak", frozenset({"source-weak", "noise", "noise-input"})),
    ("load-too-low", frozenset({"rating-estimated", "amplifier-weak", "amplifier-strong"})),
    ("rating-distorted", frozenset({"rating-corrected"})),
    ("ratings-contradict", frozenset({"rating-distorted", "rating-corrected", "amplifier-strong", "amplifier-weak"})),
    ("nothing-left", frozenset({"stacked", "gap", "no-bass", "no-treble", "above-range", "below-range", "cancel"})),
    ("starved", frozenset({"near-passive", "no-treble", "no-bass", "above-range", "below-range"})),
    ("tweeter", frozenset({"below-range", "overlap", "no-high-pass"})),
    ("no-low-pass", frozenset({"overlap", "above-range", "bump", "cancel"})),
    ("no-high-pass", frozenset({"overlap", "below-range", "bump"})),
    ("cancel-beside", frozenset({"cancel", "gap"})),
    ("no-subsonic", frozenset({"below-range"})),
    ("idle-filter", frozenset({"no-low-pass", "no-high-pass", "no-subsonic", "below-range", "above-range", "overlap"})),
    ("boost", frozenset({"tone-misses-peak"})),
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
    Every finding once: equal ones merged over their paths, consequences under their root, the gravest first.

    A root is as grave as what follows from it.
    """
    left = _merged(found)
    for root_kind, kinds in _FOLLOWS:
        for root in [one for one in left if kind_of(one) == root_kind]:
            if root not in left:
                continue
            under = [one for one in left if one is not root and kind_of(one) in kinds and _touch(root, one)]
            if under:
                left = [one for one in left if one not in under]
                left[left.index(root)] = _over(root, under)
    return ranked(left)


def _merged(found: Iterable[Finding]) -> list[Finding]:
    same: dict[tuple[str, ...], Finding] = {}
    for one in found:
        what = (kind_of(one), one.severity, one.title, one.reason, one.remedy)
        before = same.get(what)
        if before is None:
            same[what] = one
        else:
            paths = tuple(dict.fromkeys((*before.paths, *one.paths)))
            same[what] = before.model_copy(update={"paths": paths})
    return list(_uniquely(same.values()))


def _uniquely(found: Iterable[Finding]) -> Iterator[Finding]:
    """With a key of its own each, made of what it is and where it holds."""
    taken: dict[str, int] = {}
    for one in found:
        where = "" if one.key.count(".") else ".".join(("", *one.paths[:3]))
        key = f"{one.key}{where}"[:190]
        taken[key] = taken.get(key, 0) + 1
        yield one.model_copy(update={"key": key if taken[key] == 1 else f"{key}.{taken[key]}"})


def _touch(root: Finding, other: Finding) -> bool:
    return not root.paths or not other.paths or bool(set(root.paths) & set(other.paths))


def _over(root: Finding, under: list[Finding]) -> Finding:
    gravity = list(Severity)
    gravest = min((root.severity, *(one.severity for one in under)), key=gravity.index)
    return root.model_copy(update={"severity": gravest, "consequences": ranked((*root.consequences, *(_flat(under))))})


def _flat(under: Iterable[Finding]) -> Iterator[Finding]:
    """Consequences stand side by side under their root."""
    for one in under:
        yield one.model_copy(update={"consequences": ()})
        yield from one.consequences
