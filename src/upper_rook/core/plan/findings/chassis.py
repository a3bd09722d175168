"""Findings about the routing switch that the sections of an amplifier share."""

from collections.abc import Iterator

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.system.amplifier import Amplifier, Routing
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.path import Path


def chassis_findings(chain: Chain) -> Iterator[Finding]:
    """Paths that the routing switch of their amplifier feeds with another signal than the sheet says."""
    for amplifier in chain.amplifiers:
        if amplifier.routing is Routing.SHARED and amplifier.sections:
            yield from _taken_over(amplifier, [path for path in chain.paths if path.amplifier == amplifier.id])


def _taken_over(amplifier: Amplifier, paths: list[Path]) -> Iterator[Finding]:
    first = next((path for path in paths if path.section == amplifier.sections[0].id), None)
    if first is None:
        return
    others = [path for path in paths if path is not first and _signal(path) != _signal(first)]
    if others:
        names = " and ".join(one.name or "a path" for one in others)
        yield Finding(
            kind=FindingKind.ROUTING_TAKES_OVER,
            about=(amplifier.id,),
            severity=Severity.RISK,
            title=f"{amplifier.name or 'The amplifier'}: the routing switch feeds every pair from the first one",
            reason=f"{names} would play the signal of {first.name or 'the first pair'}.",
            remedy="Set the switch to own inputs and plug signal leads into each pair, or use one output for all.",
            paths=tuple(one.id for one in others),
        )


def _signal(path: Path) -> tuple[object, ...]:
    return path.source, path.output, path.also, path.through
