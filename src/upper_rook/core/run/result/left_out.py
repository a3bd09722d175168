"""Points that a run doesn't ask for, by choice: named at its start, so that nobody takes them for measured."""

from collections.abc import Iterator

from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.system.job_sheet import Subject
from upper_rook.core.system.playing import INPUT_WORDS
from upper_rook.core.system.source import Source


def left_out(snapshot: JobSnapshot) -> Iterator[str]:
    """Outputs and ways of playing in use that no step measures, and paths that are set by ear."""
    if snapshot.sheet.subject is Subject.SOURCE:
        return
    for source in snapshot.sheet.chain.feeding():
        yield from _of_source(snapshot, source)
    for lack in snapshot.plan.lacking:
        if lack.by_ear:
            yield f"{lack.name}: set by ear"


def _of_source(snapshot: JobSnapshot, source: Source) -> Iterator[str]:
    asked = [point for point in snapshot.asked if point.source.id == source.id]
    measured = {point.output.id for point in asked}
    used = snapshot.sheet.chain.voltage_outputs_used(source)
    outputs = [output.name or output.id for output in used if output.id not in measured]
    if outputs and asked:
        first = asked[0].output.name or asked[0].output.id
        yield f"clean maximum at {', '.join(outputs)} (worked out from {first})"
    ways = {point.way for point in asked}
    others = [INPUT_WORDS[playing.kind] for playing in source.played if playing.kind not in ways]
    if others and None not in ways:
        yield f"clean maximum by {', '.join(others)}"
