"""The kinds of step, one module each, and the run sheet that they make together."""

from upper_rook.core.run.job_snapshot import JobSnapshot
from upper_rook.core.run.step import Step, StepKind
from upper_rook.core.run.steps import (
    blend,
    checklist,
    converter,
    corner,
    factory,
    gain,
    knob_positions,
    lacking,
    match,
    prove,
    supply,
    trims,
    volume_steps,
)
from upper_rook.core.run.steps.kind import STAGES, Kind
from upper_rook.core.run.steps.needs import speakers_off
from upper_rook.core.system.job_sheet import Subject

KINDS: dict[StepKind, Kind] = {
    one.KIND.kind: one.KIND
    for one in (
        checklist,
        supply,
        factory,
        volume_steps,
        trims,
        converter,
        gain,
        match,
        lacking,
        corner,
        prove,
        blend,
        knob_positions,
    )
}


_PLAYED = frozenset(
    {
        StepKind.VOLUME_STEPS,
        StepKind.TRIMS,
        StepKind.CONVERTER,
        StepKind.GAIN,
        StepKind.MATCH,
        StepKind.CORNER,
        StepKind.PROVE,
    }
)
"""What a steady tone is played for."""
_ALONE = frozenset({StepKind.CHECKLIST, StepKind.VOLUME_STEPS, StepKind.TRIMS})
"""What is to be done about a source by itself."""


def run_sheet(snapshot: JobSnapshot) -> tuple[Step, ...]:
    """Every step in the order of the trade."""
    alone = snapshot.sheet.subject is Subject.SOURCE
    placed = [row for kind in KINDS.values() if not alone or kind.kind in _ALONE for row in kind.steps(snapshot)]
    placed.sort(key=lambda row: row[0])
    first = speakers_off(snapshot)
    return tuple(
        step.model_copy(
            update={
                "stage": STAGES[place[0]],
                "needs": (first, *step.needs) if first and step.kind in _PLAYED else step.needs,
            }
        )
        for place, step in placed
    )
