"""A plan as plain text, for the command line."""

from collections.abc import Iterator

from upper_rook.core.common.finding import Finding
from upper_rook.core.common.units import format_db, format_hertz, format_signed, format_value
from upper_rook.core.crossover.corners import CrossoverPlan
from upper_rook.core.plan.plan import PathPlan, Plan
from upper_rook.core.plan.stage_levels import StageLevel


def plan_text(plan: Plan) -> Iterator[str]:
    """Line by line: what to know first, stops before all, then top volume, every path, the crossovers, what lacks."""
    if not plan.paths and not plan.lacking:
        yield "A source without a vehicle: no gains to set."
    names = {path.path: path.name for path in plan.paths} | {lacking.path: lacking.name for lacking in plan.lacking}
    for cause in plan.causes:
        yield from _cause(cause, names)
    for source in plan.sources:
        whose = f", {source.name}" if len(plan.sources) > 1 else ""
        yield f"Never pass{whose}: {source.sentence}"
    for path in plan.paths:
        yield from _path(path)
    for lack in plan.lacking:
        yield f"{lack.name}: not planned yet. {lack.sentence}"
    yield from _crossovers(plan.crossovers)


def _cause(finding: Finding, names: dict[str, str]) -> Iterator[str]:
    called = [names.get(path, path) for path in finding.paths]
    told = "" if all(name in finding.title for name in called) else f"{', '.join(called)}: "
    end = "" if finding.title.endswith("?") else "."
    yield f"{finding.severity.value}: {told}{finding.title}{end} {finding.reason} {finding.remedy}"
    for follows in finding.consequences:
        yield f"  follows: {follows.title}. {follows.reason}"


def _path(path: PathPlan) -> Iterator[str]:
    limits = path.target.limits
    yield f"{path.name}: {format_value(path.target.value, 'V')} {path.probe}"
    yield f"  accepted {format_value(limits.low, 'V')} to {format_value(limits.high, 'V')}"
    yield f"  play: {path.play}. {path.knob.sentence}"
    yield f"  {path.input_advice.sentence}"
    if path.source_because:
        yield f"  {path.source_because}"
    for trim in path.trims:
        yield f"  {trim.sentence}"
    for line in (*path.target.because, *path.tone_because):
        yield f"  {line}"
    if path.noise:
        yield f"  {path.noise.sentence}"
    for stage_level in path.stage_levels:
        yield f"  {_stage_level(stage_level, path.overlap_db)}"


def _stage_level(stage_level: StageLevel, overlap_db: float) -> str:
    told = (
        f"{stage_level.name}: {format_value(stage_level.level_v, 'V')}, {stage_level.level_dbv:.1f} dBV, clean maximum "
        f"{stage_level.clean_maximum_dbv:.1f} dBV, {format_db(stage_level.headroom_db)} headroom"
    )
    if overlap_db > 0.05:
        told += f"; at full scale {stage_level.full_dbv:.1f} dBV, {format_db(stage_level.full_headroom_db)}"
    return told + (" (limits the path)" if stage_level.limiting else "")


def _crossovers(crossovers: CrossoverPlan) -> Iterator[str]:
    for corner in crossovers.corners:
        yield f"{corner.name}: {corner.play} at volume {corner.volume}, then × {corner.ratio:.3f}. {corner.turn}"
        yield f"  {corner.dial}"
    for group in crossovers.groups:
        for crossing in group.crossings:
            yield (
                f"{group.name}: {crossing.lower} and {crossing.upper} meet at {format_hertz(crossing.frequency_hz)}, "
                f"{format_signed(crossing.sum_db, 1)} dB against the pass band"
            )
    for proposal in crossovers.proposals:
        if not proposal.settled:
            yield f"{proposal.name}: proposed {proposal.words} ({'; '.join(proposal.because)})"
