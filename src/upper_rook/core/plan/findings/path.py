"""Mismatches, risks and simplifications of one path that can be told before a wire is touched."""

from upper_rook.core.common.cautions import HAZARDOUS_LIVE_V
from upper_rook.core.common.finding import Finding, Severity, ranked
from upper_rook.core.common.units import format_value
from upper_rook.core.plan.figures import Figures
from upper_rook.core.plan.findings.inputs import input_findings
from upper_rook.core.plan.findings.schools import choice_findings
from upper_rook.core.plan.findings.switches import switch_findings
from upper_rook.core.plan.input_advice import input_advice, other_level
from upper_rook.core.stages.knob import KnobState
from upper_rook.core.system.choices import Choices

# Ratios at which the trade starts to worry (common practice, no source).
STRONG_AMPLIFIER = 2.0
WEAK_AMPLIFIER = 0.5


def path_findings(figures: Figures, choices: Choices) -> tuple[Finding, ...]:
    """Everything worth saying about one path, the gravest first."""
    return ranked(
        (
            *_load_findings(figures),
            *_level_findings(figures),
            *input_findings(figures),
            *switch_findings(figures.path),
            *choice_findings(figures, choices),
        )
    )


def _load_findings(figures: Figures) -> list[Finding]:
    amplifier, load, power, channel_ohm = figures.amplifier, figures.load, figures.power, figures.channel_ohm
    findings = []
    if amplifier.lowest_load_ohm and channel_ohm < amplifier.lowest_load_ohm * 0.99:
        findings.append(
            Finding(
                key="load-too-low",
                severity=Severity.STOP,
                title="Load below the amplifier's lowest",
                reason=f"Each channel would see {format_value(channel_ohm, 'Ω')}; it is rated down to "
                f"{format_value(amplifier.lowest_load_ohm, 'Ω')}.",
                remedy="Wire the speakers in series, use fewer, or use the channels apart instead of bridged.",
            )
        )
    ratio = power.power_w / load.total_w
    if ratio >= STRONG_AMPLIFIER:
        findings.append(
            Finding(
                key="amplifier-strong",
                severity=Severity.RISK,
                title="Amplifier far above the speakers",
                reason=f"{format_value(power.power_w, 'W', 3)} against {format_value(load.total_w, 'W', 3)}: "
                f"{ratio:.1f} times what the speakers take.",
                remedy="Hold the gain at the target volts and seal it; anyone who turns it up can burn them.",
            )
        )
    if ratio <= WEAK_AMPLIFIER:
        findings.append(
            Finding(
                key="amplifier-weak",
                severity=Severity.NOTE,
                title="Amplifier far below the speakers",
                reason=f"{format_value(power.power_w, 'W', 3)} against {format_value(load.total_w, 'W', 3)}.",
                remedy="Expect someone to ask for more: past the target it only clips. Say so at hand-over.",
            )
        )
    if power.estimated:
        findings.append(
            Finding(
                key="rating-estimated",
                severity=Severity.NOTE,
                title="No rating for this load",
                reason=power.because[0].upper() + power.because[1:] + ".",
                remedy="Look for the maker's figure at this load and mode; the clean wave on the bench decides.",
            )
        )
    return findings


def _level_findings(figures: Figures) -> list[Finding]:
    target_v, knob, findings = figures.target_v, figures.knob, []
    if target_v > HAZARDOUS_LIVE_V:
        findings.append(
            Finding(
                key="hazardous-live",
                severity=Severity.RISK,
                title="Hazardous voltage at the terminals",
                reason=f"{format_value(target_v, 'V', 3)} RMS is above {HAZARDOUS_LIVE_V:g} V.",
                remedy="Insulated probes, one hand, no bare clips; power off before clips are moved.",
            )
        )
    if knob.state is KnobState.SHORT:
        findings.append(
            Finding(
                key="source-weak",
                severity=Severity.RISK,
                title="Source too weak for the target",
                reason=knob.sentence,
                remedy="Find more clean volts at the source, or accept less: a gain fully up brings noise with it.",
            )
        )
    if knob.state is KnobState.FULLY_DOWN:
        findings.append(
            Finding(
                key="source-strong",
                severity=Severity.RISK,
                title="Too much voltage for the input",
                reason=knob.sentence,
                remedy=input_advice(figures).sentence
                if figures.amplifier.range_of(other_level(figures.path.input))
                else "Attenuate the source, or take it where there is less.",
            )
        )
    return findings
