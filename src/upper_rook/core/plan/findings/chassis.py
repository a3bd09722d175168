"""Findings about what the sections of an amplifier share: its routing switch, and those that nothing uses."""

from collections.abc import Iterator

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.system.amplifier import Amplifier, Routing
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.path import Path


def chassis_findings(chain: Chain) -> Iterator[Finding]:
    """Paths that a routing switch feeds with another signal than the sheet says, and channels that are left over."""
    for amplifier in chain.amplifiers:
        yield from _idle(chain, amplifier)
        if amplifier.routing is Routing.SHARED and amplifier.sections:
            yield from _taken_over(amplifier, [path for path in chain.paths if path.amplifier == amplifier.id])


def _idle(chain: Chain, amplifier: Amplifier) -> Iterator[Finding]:
    """Sections that no path uses, of an amplifier that is used."""
    used = {path.section for path in chain.paths if path.amplifier == amplifier.id}
    idle = [section for section in amplifier.sections if section.id not in used]
    if used and idle:
        names = " and ".join(section.name or section.id for section in idle)
        yield Finding(
            kind=FindingKind.IDLE_CHANNELS,
            about=(amplifier.id,),
            severity=Severity.NOTE,
            title=f"{amplifier.name or 'The amplifier'}: {names} {'is' if len(idle) == 1 else 'are'} idle",
            reason="Nothing on the sheet is connected there.",
            remedy="Leave its gain fully down and its inputs empty, or add its speakers.",
            paths=tuple(path.id for path in chain.paths if path.amplifier == amplifier.id),
        )


def _taken_over(amplifier: Amplifier, paths: list[Path]) -> Iterator[Finding]:
    first = next((path for path in paths if path.section == amplifier.sections[0].id), None)
    if first is None:
        return
    others = [path for path in paths if path is not first and _signal(path) != _signal(first)]
    if others:
        names = " and ".join(path.name or "a path" for path in others)
        yield Finding(
            kind=FindingKind.ROUTING_TAKES_OVER,
            about=(amplifier.id,),
            severity=Severity.RISK,
            title=f"{amplifier.name or 'The amplifier'}: the routing switch feeds every pair from the first one",
            reason=f"{names} would play the signal of {first.name or 'the first pair'}.",
            remedy="Set the switch to own inputs and plug signal leads into each pair, or use one output for all.",
            paths=tuple(path.id for path in others),
        )


def _signal(path: Path) -> tuple[object, ...]:
    return path.source, path.output, path.also, path.through
