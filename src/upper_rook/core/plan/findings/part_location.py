"""Settings that no part on the path could do."""

from collections.abc import Iterator

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.path import Path


def part_location_findings(chain: Chain) -> Iterator[Finding]:
    """Equalisers, gains and processor filters on paths that go through no processor."""
    for path in chain.paths:
        words = " and ".join(_lost(path, chain.counted(path)))
        if words:
            yield Finding(
                kind=FindingKind.NO_PROCESSOR,
                about=(path.id,),
                severity=Severity.STOP,
                title=f"{path.name or 'Speakers'}: no processor for its {words}",
                reason="This path has no processor that could do it, so it doesn’t count.",
                remedy="Add the processor to the path, or remove the settings.",
                paths=(path.id,),
            )


def _lost(path: Path, kept: Path) -> Iterator[str]:
    if path.equaliser != kept.equaliser:
        yield "equaliser"
    if path.channel_gain_db != kept.channel_gain_db:
        yield "channel gain"
    if (path.left, path.right) != (kept.left, kept.right):
        yield "side trims"
    if path.filters != kept.filters:
        yield "filters"
