"""A plan as plain text, for the command line."""

from collections.abc import Iterable, Iterator

from upper_rook.core.common.finding import Finding
from upper_rook.core.common.units import format_hertz, format_signed, format_value
from upper_rook.core.crossover.corners import CrossoverPlan
from upper_rook.core.plan.courses import Course
from upper_rook.core.plan.plan import PathPlan, Plan


def plan_text(plan: Plan) -> Iterator[str]:
    """Line by line: top volume, every path, the crossovers, and what is lacking."""
    for source in plan.sources:
        whose = f", {source.name}" if len(plan.sources) > 1 else ""
        yield f"Top volume{whose}: {source.sentence}"
    yield from _findings(plan.findings, "")
    for path in plan.paths:
        yield from _path(path)
    for lack in plan.lacking:
        yield f"{lack.name}: not planned yet. {lack.sentence}"
    yield from _crossovers(plan.crossovers)


def _findings(found: Iterable[Finding], indent: str = "  ") -> Iterator[str]:
    for one in found:
        yield f"{indent}{one.severity.value}: {one.title}. {one.reason} {one.remedy}"


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
    for course in path.courses:
        yield f"  {_course(course, path.overlap_db)}"
    yield from _findings(path.findings)


def _course(course: Course, overlap_db: float) -> str:
    told = (
        f"{course.name}: {format_value(course.level_v, 'V')}, {course.level_dbv:.1f} dBV, ceiling "
        f"{course.ceiling_dbv:.1f} dBV, {course.headroom_db:.1f} dB to spare"
    )
    if overlap_db > 0.05:
        told += f"; at full scale {course.full_dbv:.1f} dBV, {course.full_headroom_db:.1f} dB"
    return told + (" (limits the path)" if course.limiting else "")


def _crossovers(crossovers: CrossoverPlan) -> Iterator[str]:
    for corner in crossovers.corners:
        yield f"{corner.name}: {corner.play} at volume {corner.volume}, then × {corner.ratio:.3f}. {corner.turn}"
        yield f"  {corner.dial}"
    for group in crossovers.groups:
        for one in group.crossings:
            yield (
                f"{group.name}: {one.lower} and {one.upper} meet at {format_hertz(one.frequency_hz)}, "
                f"{format_signed(one.sum_db, 1)} dB against the pass band"
            )
    for proposal in crossovers.proposals:
        if not proposal.settled:
            yield f"{proposal.name}: proposed {proposal.words} ({'; '.join(proposal.because)})"
    yield from _findings(crossovers.findings, "")
