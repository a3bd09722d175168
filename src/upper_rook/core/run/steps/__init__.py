"""The kinds of step, one module each, and the run sheet that they make together."""

from upper_rook.core.metrology.scope_settings import scope_settings
from upper_rook.core.run.readings.points import OutputPoint
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.blend import Blend
from upper_rook.core.run.steps.cabin import Cabin
from upper_rook.core.run.steps.check import Checks
from upper_rook.core.run.steps.checklist import Checklists
from upper_rook.core.run.steps.converter import Converters
from upper_rook.core.run.steps.corner import Corners
from upper_rook.core.run.steps.factory import FactorySystem
from upper_rook.core.run.steps.gain import Gains
from upper_rook.core.run.steps.kind import STAGES, Kind
from upper_rook.core.run.steps.knob_positions import KnobPositions
from upper_rook.core.run.steps.lacking import LackingPaths
from upper_rook.core.run.steps.match import Matches
from upper_rook.core.run.steps.needs import speakers_off
from upper_rook.core.run.steps.other_ways import OtherWays
from upper_rook.core.run.steps.plugs import Plugs
from upper_rook.core.run.steps.prove import Proofs
from upper_rook.core.run.steps.source_sweep import SourceSweeps
from upper_rook.core.run.steps.step import Step, StepKind
from upper_rook.core.run.steps.supply import Supply
from upper_rook.core.run.steps.survey import Surveys
from upper_rook.core.run.steps.trims import Trims
from upper_rook.core.run.steps.volume_steps import VolumeStepsKind
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.choices import Meter
from upper_rook.core.system.job_sheet import Subject

KINDS: dict[StepKind, Kind] = {
    kind.kind: kind
    for kind in (
        Checklists(),
        Supply(),
        Plugs(),
        Surveys(),
        FactorySystem(),
        VolumeStepsKind(),
        Trims(),
        SourceSweeps(),
        Converters(),
        Gains(),
        Matches(),
        LackingPaths(),
        Corners(),
        Proofs(),
        Cabin(),
        Blend(),
        OtherWays(),
        KnobPositions(),
        Checks(),
    )
}


_PLAYED = frozenset(
    {
        StepKind.VOLUME_STEPS,
        StepKind.TRIMS,
        StepKind.SOURCE_SWEEP,
        StepKind.CONVERTER,
        StepKind.GAIN,
        StepKind.MATCH,
        StepKind.CORNER,
        StepKind.PROVE,
    }
)
"""Kinds of steps that a steady tone is played for."""
_OF_VOLTS = _PLAYED - {StepKind.VOLUME_STEPS, StepKind.GAIN} | {StepKind.SUPPLY}
"""Kinds of steps that only a meter answers."""
_ALONE = frozenset({StepKind.CHECKLIST, StepKind.VOLUME_STEPS, StepKind.TRIMS, StepKind.SOURCE_SWEEP})
"""Kinds of steps for a source on its own."""


def _on_a_scope(snapshot: JobSnapshot, step: Step) -> Step:
    """A step with the scope's settings for what it and its rows expect."""
    expected_v = step.target.value if step.target else _expected_v(snapshot, step)
    rows = tuple(
        row.model_copy(update={"scope": _settings(row.target.value if row.target else None, row.wants.tone)})
        for row in step.rows
    )
    tone = step.wants.tone if step.wants else None
    return step.model_copy(update={"scope": _settings(expected_v, tone), "rows": rows})


def _expected_v(snapshot: JobSnapshot, step: Step) -> float | None:
    """Volts of a source's output at its clean maximum."""
    point = step.point
    if not isinstance(point, OutputPoint):
        return None
    source = next((source for source in snapshot.sheet.chain.sources if source.id == point.source), None)
    outputs = source.outputs if source else ()
    return next((output.expected_v for output in outputs if output.id == point.output), None)


def _settings(volts: float | None, tone: Tone | None) -> str | None:
    if not volts or volts <= 0 or tone is None or tone.swept:
        return None
    return scope_settings(volts, tone.frequency_hz)


def run_sheet(snapshot: JobSnapshot) -> tuple[Step, ...]:
    """Every step in the order of the trade."""
    alone = snapshot.sheet.subject is Subject.SOURCE
    placed = [row for kind in KINDS.values() if not alone or kind.kind in _ALONE for row in kind.steps(snapshot)]
    placed.sort(key=lambda row: row[0])
    first = speakers_off(snapshot)
    if snapshot.sheet.choices.meter is Meter.SCOPE:
        placed = [(place, _on_a_scope(snapshot, step)) for place, step in placed]
    unheard = snapshot.sheet.choices.meter is Meter.EAR
    return tuple(
        step.model_copy(
            update={
                # Ears give no volts to match or to set a filter by.
                "optional": step.optional or (unheard and step.kind in _OF_VOLTS),
                "stage": STAGES[place[0]],
                "needs": (first, *step.needs) if first and step.kind in _PLAYED else step.needs,
            }
        )
        for place, step in placed
    )
