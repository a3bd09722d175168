"""Whether the bands of one group that lie next to each other meet: gaps and wide overlaps."""

import math
from dataclasses import dataclass

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.common.units import format_hertz, format_value
from upper_rook.core.crossover.driver_groups import is_sub, members_of, named
from upper_rook.core.signal.filters import Pass
from upper_rook.core.signal.grid import GRID_HZ
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.loads import Load
from upper_rook.core.system.path import Path

GAP_OCTAVES = 0.35
OVERLAP_OCTAVES = 1.2


def _band_of(path: Path, load: Load) -> tuple[float, float]:
    """The path's pass band: from its filters, else from what its speakers are made for."""
    highs = [high.corner_hz for high in path.passes(Pass.HIGH)]
    lows = [low.corner_hz for low in path.passes(Pass.LOW)]
    low = max(highs, default=load.lowest_hz or float(GRID_HZ[0]))
    high = min(lows, default=load.highest_hz or float(GRID_HZ[-1]))
    return (low, high) if low < high else (float(GRID_HZ[0]), float(GRID_HZ[-1]))


@dataclass(frozen=True)
class _Span:
    """Band that a path, or all subs together, plays."""

    low_hz: float
    high_hz: float
    name: str
    ids: tuple[str, ...]


def _spans(chain: Chain, paths: tuple[Path, ...]) -> list[_Span]:
    """Bands of a group from the lowest up: all subs as one."""
    subs, found = [], []
    for path in paths:
        load = chain.load_of(path)
        if not path.working and load.lowest_hz is None and load.highest_hz is None:
            continue
        low, high = _band_of(path, load)
        if is_sub(chain, path):
            subs.append((low, high, path))
        else:
            found.append(_Span(low, high, named(path), (path.id,)))
    if subs:
        name = named(subs[0][2]) if len(subs) == 1 else "the subs"
        ids = tuple(path.id for *_, path in subs)
        found.append(_Span(min(low for low, *_ in subs), max(high for _, high, _ in subs), name, ids))
    return sorted(found, key=lambda span: (span.low_hz, span.high_hz))


def neighbour_findings(chain: Chain) -> list[Finding]:
    """Gaps and overlaps between bands of one group that lie next to each other."""
    findings: dict[str, Finding] = {}
    for _, paths in members_of(chain):
        if not any(path.working for path in paths):
            continue
        spans = _spans(chain, paths)
        for place, lower in enumerate(spans):
            # Beside it are those that begin lower or end no higher: the next one above is what it is to meet.
            above = [span for span in spans[place + 1 :] if span.high_hz > lower.high_hz]
            if not above or any(span.high_hz >= lower.high_hz and span.low_hz < lower.low_hz for span in spans[:place]):
                continue
            found = _between(lower, above[0])
            if found is not None:
                findings.setdefault(found.key, found)
    return list(findings.values())


def _between(lower: _Span, upper: _Span) -> Finding | None:
    low, high = upper.low_hz, lower.high_hz
    apart = math.log2(low / high)
    about = ("-".join(lower.ids), "-".join(upper.ids))
    ids = (*lower.ids, *upper.ids)
    if apart > GAP_OCTAVES:
        return Finding(
            kind=FindingKind.GAP,
            about=about,
            severity=Severity.RISK,
            title=f"A gap between {lower.name} and {upper.name}",
            reason=f"{lower.name} ends at {format_hertz(high)}, {upper.name} begins at {format_hertz(low)}: "
            f"{apart:.1f} octaves without a speaker.",
            remedy="Move one of the two corners.",
            paths=ids,
        )
    if -apart > OVERLAP_OCTAVES:
        return Finding(
            kind=FindingKind.OVERLAP,
            about=about,
            severity=Severity.NOTE,
            title=f"{lower.name} and {upper.name} overlap widely",
            reason=f"Both play from {format_hertz(low)} to {format_hertz(high)}: "
            f"{format_value(-apart, 'octaves', 2)}, louder there by up to 6 dB.",
            remedy="A small overlap allows for rough scales. This one is audible.",
            paths=ids,
        )
    return None
