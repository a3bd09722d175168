"""Mismatches, risks and simplifications of one path that can be known before a wire is touched."""

from upper_rook.core.common.cautions import HAZARDOUS_LIVE_V
from upper_rook.core.common.finding import Finding, Severity, ranked
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.common.units import format_value
from upper_rook.core.plan.figures import Figures
from upper_rook.core.plan.findings.inputs import input_findings
from upper_rook.core.plan.findings.loads import load_findings
from upper_rook.core.plan.findings.methods import choice_findings
from upper_rook.core.plan.findings.noise import noise_findings
from upper_rook.core.plan.findings.switches import switch_findings
from upper_rook.core.plan.findings.taps import tap_findings
from upper_rook.core.plan.findings.targets import target_findings
from upper_rook.core.plan.input_advice import input_advice, other_level
from upper_rook.core.plan.target import HIGH_DB
from upper_rook.core.stages.knob import KnobState
from upper_rook.core.system.choices import Choices
from upper_rook.core.system.methods import GAIN
from upper_rook.core.system.processor import ProcessorKind


def path_findings(figures: Figures, choices: Choices) -> tuple[Finding, ...]:
    """Everything worth saying about one path, the gravest first."""
    own = (
        *load_findings(figures, choices.wanted_db),
        *_level_findings(figures, choices),
        *tap_findings(figures),
        *choice_findings(figures, choices),
        *target_findings(figures),
    )
    # Before an amplifier inside the source there is nothing to reach or to turn.
    before = () if figures.volume_only else (*input_findings(figures), *noise_findings(figures))
    found = ranked((*own, *before, *switch_findings(figures)))
    return tuple(finding.model_copy(update={"paths": (figures.path.id,)}) for finding in found)


def _level_findings(figures: Figures, choices: Choices) -> list[Finding]:
    target_v, knob, findings = figures.target_v, figures.knob, []
    # A knob that ends within what is accepted meets its target.
    short = Severity.NOTE if knob.miss_db <= -GAIN.of(choices).low_db else Severity.RISK
    above = Severity.NOTE if knob.miss_db <= HIGH_DB else Severity.RISK
    if target_v > HAZARDOUS_LIVE_V:
        findings.append(
            Finding(
                kind=FindingKind.HAZARDOUS_LIVE,
                severity=Severity.NOTE,
                title="Hazardous voltage at the terminals",
                reason=f"{format_value(target_v, 'V', 3)} RMS is above {HAZARDOUS_LIVE_V:g} V.",
                remedy="Insulated probes, one hand, no bare clips. Power off before you move clips.",
            )
        )
    if figures.volume_only and knob.miss_db > 0:
        findings.append(
            Finding(
                kind=FindingKind.VOLUME_TOO_HIGH,
                severity=Severity.RISK,
                title="The source’s own amplifier exceeds the target",
                reason=knob.sentence,
                remedy=f"The number never to pass is the one that gives {format_value(target_v, 'V', 3)} there.",
                hand_over=True,
            )
        )
    if knob.state is KnobState.SHORT:
        findings.append(
            Finding(
                kind=FindingKind.SOURCE_WEAK,
                severity=short,
                title="Source too weak for the target",
                reason=knob.sentence,
                remedy="Find more clean volts at the source, or accept less. Full gain brings noise.",
            )
        )
    if knob.state is KnobState.FULLY_DOWN:
        findings.append(
            Finding(
                kind=FindingKind.SOURCE_STRONG,
                severity=above,
                title="Too much voltage for the input",
                reason=knob.sentence,
                remedy=input_advice(figures).sentence
                if figures.amplifier.range_of(other_level(figures.path.input))
                else _less(figures),
            )
        )
    return findings


def _less(figures: Figures) -> str:
    """Remedy that lowers a voltage that is too high, with the parts there are."""
    shaper = next((stage.processor for stage in reversed(figures.levels.stages)), None)
    if shaper is None:
        return "Put an attenuator in the signal leads, or take the signal where there is less of it."
    if shaper.kind is ProcessorKind.CONVERTER:
        return f"Trim {shaper.name or 'the converter'} lower, or put an attenuator after it."
    return f"Take the channel’s gain in {shaper.name or 'the processor'} down by that much."
