"""Findings by cause: what follows from another stands under it, and the same note appears once for all its paths."""

from collections.abc import Iterable, Iterator

from upper_rook.core.common.finding import Finding, gravest, ranked
from upper_rook.core.common.finding_kinds import FindingKind as Kind

_FOLLOWS: dict[Kind, frozenset[Kind]] = {
    Kind.NO_PROCESSOR: frozenset({Kind.TONE_MISSES_PEAK, Kind.OUTPUT_OVER, Kind.NOISE_INPUT}),
    Kind.NO_SIGNAL: frozenset({Kind.ONE_LEAD, Kind.HALF_OF_MUSIC, Kind.NOISE, Kind.SOURCE_WEAK}),
    Kind.JOINED: frozenset({Kind.TAPS_APART, Kind.NO_GROUND_SIDE}),
    Kind.TAPS_GAP: frozenset({Kind.TAP_BAND}),
    Kind.NO_GROUND_SIDE: frozenset({Kind.AMPLIFIER_INPUT_OVER, Kind.SOURCE_STRONG, Kind.SOURCE_WEAK, Kind.NOISE}),
    Kind.INPUT_OVER: frozenset({Kind.OUTPUT_OVER, Kind.AMPLIFIER_INPUT_OVER, Kind.SOURCE_STRONG}),
    Kind.TRIM_TOO_HIGH: frozenset({Kind.AMPLIFIER_INPUT_OVER, Kind.INPUT_OVER, Kind.SOURCE_STRONG}),
    Kind.AMPLIFIER_INPUT_OVER: frozenset({Kind.SOURCE_STRONG}),
    Kind.CONVERTER_WEAK: frozenset({Kind.SOURCE_WEAK, Kind.NOISE, Kind.NOISE_INPUT}),
    Kind.LOAD_TOO_LOW: frozenset({Kind.RATING_ESTIMATED, Kind.AMPLIFIER_WEAK, Kind.AMPLIFIER_STRONG}),
    Kind.RATING_DISTORTED: frozenset({Kind.RATING_CORRECTED}),
    Kind.RATINGS_CONTRADICT: frozenset(
        {Kind.RATING_DISTORTED, Kind.RATING_CORRECTED, Kind.AMPLIFIER_STRONG, Kind.AMPLIFIER_WEAK}
    ),
    Kind.NOTHING_LEFT: frozenset(
        {
            Kind.STACKED,
            Kind.GAP,
            Kind.NO_BASS,
            Kind.NO_TREBLE,
            Kind.ABOVE_RANGE,
            Kind.BELOW_RANGE,
            Kind.CANCEL,
            Kind.NOISE,
        }
    ),
    Kind.STARVED: frozenset({Kind.NEAR_PASSIVE, Kind.NO_TREBLE, Kind.NO_BASS, Kind.ABOVE_RANGE, Kind.BELOW_RANGE}),
    Kind.TWEETER: frozenset({Kind.BELOW_RANGE, Kind.OVERLAP, Kind.NO_HIGH_PASS}),
    Kind.NO_LOW_PASS: frozenset({Kind.OVERLAP, Kind.ABOVE_RANGE, Kind.BUMP, Kind.CANCEL}),
    Kind.NO_HIGH_PASS: frozenset({Kind.OVERLAP, Kind.BELOW_RANGE, Kind.BUMP}),
    Kind.ARRIVES_LATE: frozenset({Kind.CANCEL_BESIDE, Kind.CANCEL, Kind.HOLE, Kind.BUMP}),
    Kind.CANCEL_BESIDE: frozenset({Kind.CANCEL, Kind.GAP, Kind.HOLE}),
    Kind.NO_SUBSONIC: frozenset({Kind.BELOW_RANGE}),
    Kind.IDLE_FILTER: frozenset(
        {Kind.NO_LOW_PASS, Kind.NO_HIGH_PASS, Kind.NO_SUBSONIC, Kind.BELOW_RANGE, Kind.ABOVE_RANGE, Kind.OVERLAP}
    ),
    Kind.BOOST: frozenset({Kind.TONE_MISSES_PEAK, Kind.SOURCE_STRONG}),
    Kind.TONE_MISSES_PEAK: frozenset({Kind.SOURCE_WEAK, Kind.NOISE, Kind.NOISE_INPUT}),
    Kind.NOISE_INPUT: frozenset({Kind.NOISE}),
    Kind.SOURCE_FAR_OFF: frozenset({Kind.SOURCE_WEAK, Kind.SOURCE_STRONG, Kind.NOISE, Kind.CONVERTER_WEAK}),
}
"""Root and what follows from it, by the kinds of their keys, where both hold for a path in common; roots in order."""


_GENERAL = frozenset({Kind.SUPPLY, Kind.HAZARDOUS_LIVE})


def by_cause(found: Iterable[Finding]) -> tuple[Finding, ...]:
    """
    Every finding once: consequences under their root, equal ones merged over their paths, the gravest first.

    A root is as grave as what follows from it. Consequences are found path by path, before anything is merged:
    the same note on another path, where nothing causes it, stays a note of its own.
    """
    by_kind: dict[Kind, list[Finding]] = {}
    for finding in found:
        by_kind.setdefault(finding.kind, []).append(finding)
    for root_kind, kinds in _FOLLOWS.items():
        for place, root in enumerate(by_kind.get(root_kind, ())):
            own, under = set(root.paths), []
            for kind in kinds & by_kind.keys():
                under += [finding for finding in by_kind[kind] if own.intersection(finding.paths)]
                by_kind[kind] = [finding for finding in by_kind[kind] if own.isdisjoint(finding.paths)]
            if under:
                by_kind[root_kind][place] = _over(root, under)
    # What holds for nearly every system comes behind the other notes.
    found = sorted(
        _merged(finding for same in by_kind.values() for finding in same), key=lambda finding: finding.kind in _GENERAL
    )
    return ranked(_uniquely(found))


def _over(root: Finding, under: list[Finding]) -> Finding:
    """A root with what follows from it, side by side."""
    flat = (
        next_one
        for finding in under
        for next_one in (finding.model_copy(update={"consequences": ()}), *finding.consequences)
    )
    grave = gravest(root.severity, *(finding.severity for finding in under))
    return root.model_copy(update={"severity": grave, "consequences": ranked((*root.consequences, *flat))})


def _merged(found: Iterable[Finding]) -> Iterable[Finding]:
    same: dict[tuple[object, ...], list[Finding]] = {}
    for finding in found:
        follows = tuple((next_one.title, next_one.reason) for next_one in finding.consequences)
        same.setdefault(
            (finding.kind, finding.severity, finding.title, finding.reason, finding.remedy, follows), []
        ).append(finding)
    for rows in same.values():
        paths = tuple(dict.fromkeys(path for row in rows for path in row.paths))
        yield rows[0] if len(rows) == 1 else rows[0].model_copy(update={"paths": paths})


def _uniquely(found: Iterable[Finding]) -> Iterator[Finding]:
    """With a key of its own each, made of what it is and where it holds."""
    taken: dict[str, int] = {}
    for finding in found:
        key = finding.key if finding.about else ".".join((finding.key, *finding.paths[:3]))[:180]
        taken[key] = taken.get(key, 0) + 1
        unique = key if taken[key] == 1 else f"{key}.{taken[key]}"
        yield finding.model_copy(update={"key": unique})
