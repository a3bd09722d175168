"""Paths that sound together: by their group, else by the bands of their speakers."""

from collections.abc import Iterator
from dataclasses import dataclass

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.signal.filters import Pass
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.loads import Band
from upper_rook.core.system.path import Path

_WAYS_APART = 1.5
"""So many times higher another driver must end to be a way of its own (common practice, no source)."""
_LEFT_TO_IT = 4.0
"""A way that begins at least this far below its neighbour's top could play nearly all of it (common practice)."""
_TOUCHING = 2.0
"""So far apart two ranges may lie and still be meant for each other (common practice, no source)."""


def named(path: Path) -> str:
    """Name of a path."""
    return path.name or "Speakers"


def is_sub(chain: Chain, path: Path) -> bool:
    """Whether a path ends in a subwoofer, which belongs to every group."""
    return chain.load_of(path).band is Band.SUB


def subs_of(chain: Chain) -> set[str]:
    """The paths that end in a subwoofer, by their ids."""
    loads = {load.id for load in chain.loads if load.band is Band.SUB}
    return {path.id for path in chain.paths if path.load in loads} if loads else set()


def members_of(chain: Chain) -> tuple[tuple[str, tuple[Path, ...]], ...]:
    """Every group with its paths, in the order of its first one; a sub belongs to each of them."""
    low = subs_of(chain)
    found: dict[str, list[Path]] = {path.group or named(path): [] for path in chain.paths if path.id not in low}
    for path in chain.paths:
        for rows in found.values() if path.id in low else (found[path.group or named(path)],):
            rows.append(path)
    return tuple((name, tuple(rows)) for name, rows in found.items())


@dataclass(frozen=True)
class _Way:
    """A path with what it covers, by its speakers and its filters."""

    path: Path
    low_hz: float | None
    high_hz: float | None


def as_grouped(chain: Chain) -> tuple[Chain, tuple[Finding, ...]]:
    """`chain` with ungrouped ways that plainly belong together in one group, and the question whether they do."""
    loose = [_way(chain, path) for path in chain.paths if not path.group and not is_sub(chain, path)]
    pairs = list(_pairs(loose))
    if not pairs:
        return chain, ()
    joined = {path.id: f"{named(lower)} and {named(upper)}" for lower, upper in pairs for path in (lower, upper)}
    paths = tuple(
        path.model_copy(update={"group": joined[path.id][:80]}) if path.id in joined else path for path in chain.paths
    )
    return chain.model_copy(update={"paths": paths}), tuple(_question(*pair) for pair in pairs)


def _way(chain: Chain, path: Path) -> _Way:
    load = chain.load_of(path)
    highs = [high.corner_hz for high in path.passes(Pass.HIGH)]
    lows = [low.corner_hz for low in path.passes(Pass.LOW)]
    return _Way(path, load.lowest_hz or max(highs, default=None), load.highest_hz or min(lows, default=None))


def _pairs(ways: list[_Way]) -> Iterator[tuple[Path, Path]]:
    """Lower and upper ways that complete each other, each used once."""
    taken: set[str] = set()
    for lower in ways:
        for upper in ways:
            if lower.path.id in taken or upper.path.id in taken or lower is upper:
                continue
            if _complete(lower, upper):
                taken |= {lower.path.id, upper.path.id}
                yield lower.path, upper.path


def _complete(lower: _Way, upper: _Way) -> bool:
    if lower.high_hz is None or upper.low_hz is None:
        return False
    reaches = upper.high_hz is None or upper.high_hz >= lower.high_hz * _WAYS_APART
    begins = lower.low_hz is None or upper.low_hz >= lower.low_hz * _WAYS_APART
    plain = lower.high_hz / _LEFT_TO_IT <= upper.low_hz <= lower.high_hz * _TOUCHING
    return reaches and begins and plain


def _question(lower: Path, upper: Path) -> Finding:
    both = f"{named(lower)} and {named(upper)}"
    return Finding(
        kind=FindingKind.BELONG_TOGETHER,
        about=(lower.id, upper.id),
        severity=Severity.NOTE,
        title=f"Do {both} sound together?",
        reason=f"{named(upper)} begins where {named(lower)} ends, and neither has a group: they are summed as if "
        "they were ways of one set.",
        remedy="Give both the same group, or each one of its own if they are apart.",
        paths=(lower.id, upper.id),
    )
