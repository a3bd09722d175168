"""Whether what reaches each input on the way fits it, and whether what follows is woken."""

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.units import format_hertz, format_value, ratio_db
from upper_rook.core.plan.figures import Figures
from upper_rook.core.plan.input_advice import LEVEL_WORDS, bare_speaker_lead, input_advice
from upper_rook.core.stages.levels import highest_input_v, overdrive_db
from upper_rook.core.system.amplifier import GainRange
from upper_rook.core.system.processor import TurnOn
from upper_rook.core.system.source import OutputKind, SourceKind


def input_findings(figures: Figures) -> list[Finding]:
    """Whether what reaches each input on the way fits it."""
    findings = [*_own_input(figures), *_turn_on(figures)]
    stages = figures.levels.stages
    for place, stage in enumerate(stages):
        processor, name = stage.processor, stage.processor.name or "processor"
        most = highest_input_v(processor)
        if stage.input_v is not None and stage.input_v > 1.01 * most:
            over = ratio_db(stage.input_v, most)
            findings.append(
                Finding(
                    key=f"input-over.{processor.id}",
                    severity=Severity.STOP,
                    title=f"{name}: input overdriven",
                    reason=f"{format_value(stage.input_v, 'V', 3)} reach an input made for "
                    f"{format_value(most, 'V', 3)}: {over:.1f} dB too much.",
                    remedy="Keep the source below that, use the high-level input, or put a divider before it.",
                )
            )
        over = overdrive_db(stage, figures.levels.peak_db) if place == len(stages) - 1 else 0.0
        if over > 0.1:
            at = figures.levels.peak_hz
            findings.append(
                Finding(
                    key=f"output-over.{processor.id}",
                    severity=Severity.RISK,
                    title=f"{name}: its output clips before anything else",
                    reason=f"Gain and equaliser ask for {over:.1f} dB more than "
                    f"{format_value(processor.highest_output_v, 'V', 3)}" + (f" at {format_hertz(at)}." if at else "."),
                    remedy="Take the channel's gain down by that much, or the boost out.",
                )
            )
    gain_range = figures.amplifier.range_of(figures.path.input)
    if figures.source.kind is not SourceKind.RECEIVER or stages:
        findings += _weak_tap(figures, gain_range)
    return findings


def _weak_tap(figures: Figures, gain_range: GainRange | None) -> list[Finding]:
    """A tap that hardly gives what the input needs at its very top."""
    if gain_range and figures.tone_v is not None and figures.tone_v < 1.5 * gain_range.up_v:
        return [
            Finding(
                key="tap-weak",
                severity=Severity.RISK,
                title="Hardly enough volts for the amplifier's input",
                reason=f"{format_value(figures.tone_v, 'V', 3)} against {format_value(gain_range.up_v, 'V', 3)} "
                "at the gain's very top: it will hiss.",
                remedy="Take the signal where there is more of it, after the factory amplifier for one, "
                "or trim the converter higher.",
            )
        ]
    return []


def _own_input(figures: Figures) -> list[Finding]:
    """The amplifier's own input: what it takes, and whether it has a ground side to give."""
    findings = []
    level = figures.path.input
    most = figures.amplifier.highest_of(level)
    if most and figures.input_v is not None and figures.input_v > 1.01 * most:
        findings.append(
            Finding(
                key="amplifier-input-over",
                severity=Severity.STOP,
                title="The amplifier's input is overdriven",
                reason=f"{format_value(figures.input_v, 'V', 3)} reach a {LEVEL_WORDS[level]} made for "
                f"{format_value(most, 'V', 3)}: it clips before the gain control, wherever that stands.",
                remedy="Use the high-level input, lower the stage before it, or put a divider in.",
            )
        )
    if bare_speaker_lead(figures):
        findings.append(
            Finding(
                key="no-ground-side",
                severity=Severity.STOP,
                title="Speaker-level output on a low-level input",
                reason="Neither lead of a speaker output is ground: a plug's shell would short one of them.",
                remedy=input_advice(figures).sentence,
            )
        )
    if figures.source_v is None:
        findings.append(
            Finding(
                key="source-unknown",
                severity=Severity.NOTE,
                title="The source's volts aren't known",
                reason="Target, load and tone are planned; what reaches the inputs and where the knob ends are not.",
                remedy="Type its rated output, or measure its clean maximum in the run.",
            )
        )
    return findings


def _turn_on(figures: Figures) -> list[Finding]:
    """Whether what wakes by a direct voltage can find one."""
    findings = []
    for processor in (stage.processor for stage in figures.levels.stages):
        if processor.turn_on is not TurnOn.SENSING:
            continue
        if figures.output.kind is OutputKind.LINE:
            findings.append(
                Finding(
                    key=f"no-offset.{processor.id}",
                    severity=Severity.RISK,
                    title=f"{processor.name or 'converter'}: nothing to wake it",
                    reason="A line output carries no direct voltage to sense.",
                    remedy="Give it a turn-on lead.",
                )
            )
        else:
            findings.append(
                Finding(
                    key=f"offset.{processor.id}",
                    severity=Severity.NOTE,
                    title=f"{processor.name or 'converter'} wakes by the speaker leads' direct voltage",
                    reason="It needs 5 to 6 V from one speaker lead to chassis (common practice).",
                    remedy="Measure it, time how long it stays after locking, and see that it comes back at unlock.",
                )
            )
    return findings
