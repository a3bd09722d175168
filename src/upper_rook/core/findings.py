"""Mismatches, risks and simplifications that can be told before a wire is touched."""

from enum import StrEnum

from upper_rook.core.cautions import HAZARDOUS_LIVE_V
from upper_rook.core.ceiling import Ceiling
from upper_rook.core.chain import Choices, Source
from upper_rook.core.figures import Figures
from upper_rook.core.knob import Knob, KnobState
from upper_rook.core.levels import overdrive_db
from upper_rook.core.units import Frozen, Key, format_hertz, format_value, ratio_db


class Severity(StrEnum):
    """How much a finding matters."""

    STOP = "stop"
    """Must not be built or run like this."""
    RISK = "risk"
    NOTE = "note"


class Finding(Frozen):
    """One thing to know, with its reason and its remedy."""

    key: Key
    severity: Severity
    title: str
    reason: str
    remedy: str


# Ratios at which the trade starts to worry (common practice, no source).
STRONG_AMPLIFIER = 2.0
WEAK_AMPLIFIER = 0.5
SOURCE_FAR_OFF = (0.6, 1.4)


def path_findings(figures: Figures, choices: Choices) -> tuple[Finding, ...]:
    """Everything worth saying about one path, the gravest first."""
    found = [
        *_load_findings(figures),
        *_level_findings(figures.target_v, figures.knob),
        *_source_findings(figures.source, figures.ceiling),
        *_processor_findings(figures),
        *_choice_findings(figures, choices),
    ]
    gravity = list(Severity)
    return tuple(sorted(found, key=lambda one: gravity.index(one.severity)))


def _load_findings(figures: Figures) -> list[Finding]:
    amplifier, load, power, channel_ohm = figures.amplifier, figures.load, figures.power, figures.channel_ohm
    found = []
    if channel_ohm < amplifier.lowest_load_ohm * 0.99:
        found.append(
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
        found.append(
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
        found.append(
            Finding(
                key="amplifier-weak",
                severity=Severity.NOTE,
                title="Amplifier far below the speakers",
                reason=f"{format_value(power.power_w, 'W', 3)} against {format_value(load.total_w, 'W', 3)}.",
                remedy="Expect someone to ask for more: past the target it only clips. Say so at hand-over.",
            )
        )
    if power.estimated:
        found.append(
            Finding(
                key="rating-estimated",
                severity=Severity.NOTE,
                title="No rating for this load",
                reason=power.because[0].upper() + power.because[1:] + ".",
                remedy="Look for the maker's figure at this load and mode; the clean wave on the bench decides.",
            )
        )
    return found


def _level_findings(target_v: float, knob: Knob) -> list[Finding]:
    found = []
    if target_v > HAZARDOUS_LIVE_V:
        found.append(
            Finding(
                key="hazardous-live",
                severity=Severity.RISK,
                title="Hazardous voltage at the terminals",
                reason=f"{format_value(target_v, 'V', 3)} RMS is above {HAZARDOUS_LIVE_V:g} V.",
                remedy="Insulated probes, one hand, no bare clips; power off before clips are moved.",
            )
        )
    if knob.state is KnobState.SHORT:
        found.append(
            Finding(
                key="source-weak",
                severity=Severity.RISK,
                title="Source too weak for the target",
                reason=knob.sentence,
                remedy="Find more clean volts at the source, or accept less: a gain fully up brings noise with it.",
            )
        )
    if knob.state is KnobState.FULLY_DOWN:
        found.append(
            Finding(
                key="source-strong",
                severity=Severity.RISK,
                title="Too much voltage for the input",
                reason=knob.sentence,
                remedy="Set the input to its high-level position if it has one, or attenuate the source.",
            )
        )
    return found


def _source_findings(source: Source, ceiling: Ceiling | None) -> list[Finding]:
    if ceiling is None:
        return []
    ratio = ceiling.voltage_v / source.rated_output_v
    if SOURCE_FAR_OFF[0] <= ratio <= SOURCE_FAR_OFF[1]:
        return []
    return [
        Finding(
            key="source-far-off",
            severity=Severity.RISK,
            title="Source far from its rated volts",
            reason=f"{format_value(ceiling.voltage_v, 'V', 3)} measured at its clean maximum, "
            f"{format_value(source.rated_output_v, 'V', 3)} rated.",
            remedy="Look for a setting in the way (level trim, loudness normalisation, tone controls) "
            "and check the meter before going on.",
        )
    ]


def _processor_findings(figures: Figures) -> list[Finding]:
    found = []
    stages = figures.levels.stages
    for place, stage in enumerate(stages):
        processor, name = stage.processor, stage.processor.name or "processor"
        if stage.input_v > 1.01 * processor.highest_input_v:
            over = ratio_db(stage.input_v, processor.highest_input_v)
            found.append(
                Finding(
                    key=f"input-over-{processor.id}"[:40],
                    severity=Severity.STOP,
                    title=f"{name}: input overdriven",
                    reason=f"{format_value(stage.input_v, 'V', 3)} reach an input made for "
                    f"{format_value(processor.highest_input_v, 'V', 3)}: {over:.1f} dB too much.",
                    remedy="Keep the source below that, use the high-level input, or put a divider before it.",
                )
            )
        over = overdrive_db(stage, figures.levels.peak_db) if place == len(stages) - 1 else 0.0
        if over > 0.1:
            at = figures.levels.peak_hz
            found.append(
                Finding(
                    key=f"output-over-{processor.id}"[:40],
                    severity=Severity.RISK,
                    title=f"{name}: its output clips before anything else",
                    reason=f"Gain and equaliser ask for {over:.1f} dB more than "
                    f"{format_value(processor.highest_output_v, 'V', 3)}" + (f" at {format_hertz(at)}." if at else "."),
                    remedy="Take the channel's gain down by that much, or the boost out.",
                )
            )
    gain_range = figures.amplifier.gain_range
    if stages and gain_range and figures.input_v < 1.5 * gain_range.up_v:
        found.append(
            Finding(
                key="tap-weak",
                severity=Severity.RISK,
                title="Hardly enough volts for the amplifier's input",
                reason=f"{format_value(figures.input_v, 'V', 3)} against {format_value(gain_range.up_v, 'V', 3)} "
                "at the gain's very top: it will hiss.",
                remedy="Take the signal where there is more of it, or trim the converter higher.",
            )
        )
    return found


def _choice_findings(figures: Figures, choices: Choices) -> list[Finding]:
    amplifier, aimed_w = figures.amplifier, figures.aimed_w
    found = []
    if choices.tone_level_dbfs < 0:
        found.append(
            Finding(
                key="overlap",
                severity=Severity.NOTE,
                title=f"{-choices.tone_level_dbfs:g} dB of overlap, by choice",
                reason=f"The gain is set with a tone at −{-choices.tone_level_dbfs:g} dBFS: material at full scale "
                f"drives the amplifier {-choices.tone_level_dbfs:g} dB past the target.",
                remedy="Fine for quiet recordings; take a 0 dBFS tone if nothing may ever clip.",
            )
        )
    if choices.allowance_percent > 0:
        found.append(
            Finding(
                key="allowance",
                severity=Severity.NOTE,
                title=f"{choices.allowance_percent:g} % above the speakers' rating, by choice",
                reason=f"{format_value(aimed_w, 'W', 3)} are aimed at.",
                remedy="Say it at hand-over, or set the allowance to 0.",
            )
        )
    if figures.power.supply_v and figures.power.supply_v < 13 and not amplifier.regulated:
        found.append(
            Finding(
                key="rated-at-twelve",
                severity=Severity.NOTE,
                title=f"Rated at {format_value(figures.power.supply_v, 'V', 3)}, run at more",
                reason="At 14.4 V an unregulated amplifier makes up to a fifth more than this rating.",
                remedy="The target keeps to the rating; on the bench the clean wave shows what it really makes.",
            )
        )
    if not amplifier.regulated:
        found.append(
            Finding(
                key="supply",
                severity=Severity.NOTE,
                title="Output follows the supply",
                reason="An unregulated amplifier makes 15–20 % more at running voltage than on a resting battery.",
                remedy="Set it with the engine running or a charger on.",
            )
        )
    return found
