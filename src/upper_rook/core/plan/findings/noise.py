"""Where the signal is weak before a high gain: noise, and how many decibels of it."""

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.common.units import format_db, format_signed, format_value, ratio_db
from upper_rook.core.plan.figures import Figures
from upper_rook.core.stages.knob import KnobState
from upper_rook.core.stages.levels import StageLevel, highest_input_v
from upper_rook.core.system.processor import ProcessorKind
from upper_rook.core.system.source import SourceKind

_UNUSED_DB = 12.0
"""So much of an input's range left unused is heard as noise (common practice, no source)."""
_LOST_DB = 9.0
"""Less than this a channel is turned down by to balance speakers (common practice, no source)."""
_NEAR_TOP = 1.5
"""A signal this near to what a gain needs at its very top (common practice, no source)."""


def noise_findings(figures: Figures) -> list[Finding]:
    """The amplifier's own gain, and every stage before it."""
    stages = [found for stage in figures.levels.stages for found in _stage(stage)]
    return [*stages, *_amplifier(figures)]


def _amplifier(figures: Figures) -> list[Finding]:
    gain_range, knob = figures.amplifier.range_of(figures.path.input), figures.knob
    wanted_v = knob.printed_v
    if gain_range is None or wanted_v is None or figures.tone_v is None:
        return []
    # Past the end of the scale the target isn't reached at all, which is told with the knob.
    if knob.state is not KnobState.WITHIN:
        return []
    if wanted_v >= _NEAR_TOP * gain_range.up_v:
        return _thrown_away(figures, ratio_db(gain_range.down_v, wanted_v))
    return [
        Finding(
            kind=FindingKind.NOISE,
            severity=Severity.RISK,
            title="Weak signal, high gain: noise",
            reason=f"{format_value(figures.tone_v, 'V', 3)} reach an input whose gain ends at "
            f"{format_value(gain_range.up_v, 'V', 3)}: the gain, and the noise, is "
            f"{format_db(ratio_db(gain_range.down_v, wanted_v), 0)} above fully down.",
            remedy=_stronger(figures),
        )
    ]


def _thrown_away(figures: Figures, up_db: float) -> list[Finding]:
    """Level that a processor takes away only for the gain to make it up again."""
    taken_db = -figures.path.gain_db
    last = figures.levels.stages[-1] if figures.levels.stages else None
    if last is None or not last.output_v or last.processor.kind is ProcessorKind.CONVERTER:
        return []
    lost_db = min(taken_db, up_db, ratio_db(last.processor.highest_output_v, last.output_v))
    if lost_db < _LOST_DB:
        return []
    return [
        Finding(
            kind=FindingKind.NOISE,
            severity=Severity.RISK if lost_db >= _UNUSED_DB else Severity.NOTE,
            title=f"{format_db(lost_db, 0)} of level lost before a high gain: noise",
            reason=f"The channel is at {format_signed(-taken_db, 0)} dB, and the gain is {format_db(up_db, 0)} above "
            "fully down.",
            remedy=_stronger(figures),
        )
    ]


def _stronger(figures: Figures) -> str:
    last = figures.levels.stages[-1] if figures.levels.stages else None
    if last is None:
        if figures.source.kind is SourceKind.FACTORY:
            return "Take the signal where there is more of it, after the factory amplifier for one."
        return "Find more clean volts at the source, or use an amplifier that needs less."
    name = last.processor.name or "the stage before it"
    room_db = ratio_db(last.processor.highest_output_v, last.output_v) if last.output_v else 0.0
    if room_db < 1:
        return f"{name} gives no more: take the signal where there is more of it, or use a stage that gives more."
    if last.processor.kind is ProcessorKind.CONVERTER:
        return f"Trim {name} up to {format_db(room_db, 0)} higher, as far as the input takes it."
    return f"Raise the level in {name} by up to {format_db(room_db, 0)}, and turn the gain down by as much."


def _stage(stage: StageLevel) -> list[Finding]:
    """A processor whose input is left nearly empty: what follows lifts its noise with the signal."""
    processor, most = stage.processor, stage.processor.input_top_v
    if most is None or stage.input_v is None or processor.kind is ProcessorKind.CONVERTER:
        return []
    unused_db = ratio_db(highest_input_v(processor), stage.input_v)
    if unused_db < _UNUSED_DB:
        return []
    return [
        Finding(
            kind=FindingKind.NOISE_INPUT,
            about=(processor.id,),
            severity=Severity.NOTE if unused_db < 2 * _UNUSED_DB else Severity.RISK,
            title=f"{processor.name or 'processor'}: weak input signal, noise",
            reason=f"{format_value(stage.input_v, 'V', 3)} of {format_value(most, 'V', 3)} used: "
            f"{format_db(unused_db, 0)} of its range is unused, and noise rises by as much.",
            remedy=f"Trim its input to {format_value(stage.input_v, 'V', 2)}: {format_db(unused_db, 0)} more of "
            "its range. "
            "Or feed it more volts.",
        )
    ]
