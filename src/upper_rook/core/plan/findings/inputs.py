"""Whether what reaches each input on the way fits it, and whether what follows is woken."""

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.common.units import format_db, format_hertz, format_value, from_db, ratio_db
from upper_rook.core.plan.figures import Figures
from upper_rook.core.plan.input_advice import LEVEL_WORDS, bare_speaker_lead, input_advice, other_level
from upper_rook.core.stages.levels import StageLevel, highest_input_v
from upper_rook.core.system.amplifier import InputLevel
from upper_rook.core.system.processor import Processor, ProcessorKind
from upper_rook.core.system.source import OutputKind
from upper_rook.core.system.turn_on import TurnOn

_SAME_DB = 0.1
_HEARD_DB = 0.5
"""Half a decibel past the clean maximum is a few per cent of distortion."""


def input_findings(figures: Figures) -> list[Finding]:
    """Whether what reaches each input on the way fits it."""
    findings = [*_own_input(figures), *_turn_on(figures)]
    stages = figures.levels.stages
    for stage in stages:
        processor, name = stage.processor, stage.processor.name or "processor"
        most = highest_input_v(processor)
        if stage.input_v is not None and stage.input_v > 1.01 * most:
            over = ratio_db(stage.input_v, most)
            findings.append(
                Finding(
                    kind=FindingKind.INPUT_OVER,
                    about=(processor.id,),
                    severity=_grave(over),
                    title=f"{name}: input overdriven",
                    reason=f"{format_value(stage.input_v, 'V', 3)} reach an input made for "
                    f"{format_value(most, 'V', 3)}: {format_db(over)} too much.",
                    remedy=f"Keep the source below {format_value(most, 'V', 3)}, or put a divider before it.",
                )
            )
        over, at = stage.overdriven_db, stage.overdriven_hz
        if over > 0.1:
            findings.append(
                Finding(
                    kind=FindingKind.OUTPUT_OVER,
                    about=(processor.id,),
                    severity=Severity.RISK if over >= _HEARD_DB else Severity.NOTE,
                    title=f"{name}: its output clips first",
                    reason=f"Gain and equaliser ask for {format_db(over)} more than "
                    f"{format_value(processor.highest_output_v, 'V', 3)}" + (f" at {format_hertz(at)}." if at else "."),
                    remedy="Lower the channel’s gain by that much, or remove the boost.",
                )
            )
        findings += [*_converter(figures, stage), *_assumed(stage)]
    findings += _trimmed_too_high(figures)
    return findings


def _grave(over_db: float) -> Severity:
    """How grave it is that an input gets so many decibels too much."""
    return Severity.STOP if over_db >= _HEARD_DB else Severity.NOTE


def _assumed(stage: StageLevel) -> list[Finding]:
    """A processor whose gain from full scale to full scale is taken from its highest volts."""
    made, name = stage.processor, stage.processor.name or "processor"
    into_v, out_v = made.full_scales_v
    stated = made.input_full_scale_v is not None and made.output_full_scale_v is not None
    if stated or into_v is None or stage.input_v is None or abs(made.unity_db) < _SAME_DB:
        return []
    return [
        Finding(
            kind=FindingKind.FULL_SCALE,
            about=(made.id,),
            severity=Severity.NOTE,
            title=f"{name}: gain by its full scales",
            reason=f"{format_value(into_v, 'V', 3)} at its input count as {format_value(out_v, 'V', 3)} at its output, "
            "every gain at 0 dB.",
            remedy="Measure it: play the tone, read input and output, and type both full scales.",
        )
    ]


def _converter(figures: Figures, stage: StageLevel) -> list[Finding]:
    """Whether a converter can make what it is to be trimmed to of what it gets."""
    processor, name = stage.processor, stage.processor.name or "the converter"
    if processor.kind is not ProcessorKind.CONVERTER or stage.input_v is None or stage.wanted_v is None:
        return []
    got, wanted = format_value(stage.input_v, "V", 3), format_value(stage.wanted_v, "V", 3)
    needs_v, most_db = processor.lowest_input.v, processor.highest_gain_db
    asked_db = ratio_db(stage.wanted_v, min(stage.input_v, highest_input_v(processor)))
    if needs_v is not None and stage.input_v < 0.99 * needs_v:
        needs = f"{format_value(needs_v, 'V', 3)} for its highest output"
        short_db = ratio_db(needs_v, stage.input_v)
        reason = f"{got} reach it and it needs {needs}: {format_db(short_db)} short."
    elif most_db is not None and asked_db > most_db + 0.05:
        short_db = asked_db - most_db
        reason = f"{got} reach it, {wanted} are {format_db(asked_db)} more and it gives {most_db:g} dB at most."
    elif most_db is None and needs_v is None and asked_db > 0.5:
        short_db = asked_db
        reason = f"{got} reach it, {wanted} are {format_db(asked_db)} more, and how much gain it has isn’t known."
    else:
        return []
    made_up = _gain_makes_up_for(figures, stage, short_db)
    return [
        Finding(
            kind=FindingKind.CONVERTER_WEAK,
            about=(processor.id,),
            severity=Severity.NOTE if made_up else Severity.RISK,
            title=f"{name}: may not reach its full output",
            reason=reason,
            remedy=f"Trim it as far as it goes. The amplifier’s gain reaches {format_db(short_db)} further up, with "
            "as much more noise."
            if made_up
            else "Look up its gain and its lowest input. Use a tap with more signal, or set its output lower "
            "and turn the amplifier’s gain up.",
        )
    ]


def _gain_makes_up_for(figures: Figures, stage: StageLevel, short_db: float) -> bool:
    """Whether the amplifier's gain reaches the target with as much less at its input."""
    gain_range, printed_v = figures.amplifier.range_of(figures.path.input), figures.knob.printed_v
    if gain_range is None or printed_v is None or stage is not figures.levels.stages[-1]:
        return False
    # Where the converter's own gain is known its output has been lowered by that already.
    counted = stage.processor.highest_gain_db is not None
    return printed_v * from_db(0.0 if counted else -short_db) >= gain_range.up_v


def _trimmed_too_high(figures: Figures) -> list[Finding]:
    """A converter that can't be trimmed as low as what follows it takes."""
    findings = []
    stages = figures.levels.stages
    for place, stage in enumerate(stages):
        least = stage.least_v
        following = stages[place + 1].processor if place + 1 < len(stages) else None
        most, what = _most_after(figures, following)
        if most is None or least <= 1.01 * most:
            continue
        name = stage.processor.name or "The converter"
        findings.append(
            Finding(
                kind=FindingKind.TRIM_TOO_HIGH,
                about=(stage.processor.id,),
                severity=Severity.STOP,
                title=f"{name} can’t be set low enough",
                reason=f"Its lowest output is {format_value(least, 'V', 3)}; the limit of {what} is "
                f"{format_value(most, 'V', 3)}: {format_db(ratio_db(least, most))} too much.",
                remedy=_attenuate(figures, following, least),
            )
        )
    return findings


def _most_after(figures: Figures, following: Processor | None) -> tuple[float | None, str]:
    if following is not None:
        return following.highest_input.v, following.name or "the processor after it"
    return figures.amplifier.highest_of(figures.path.input), f"the {LEVEL_WORDS[figures.path.input]}"


def _attenuate(figures: Figures, following: Processor | None, volts: float) -> str:
    other = other_level(figures.path.input)
    if following is None and _takes(figures, other, volts):
        return f"Use the {LEVEL_WORDS[other]}, or put an attenuator between them."
    return "Put an attenuator between them, or use a converter that can be trimmed lower."


def _takes(figures: Figures, level: InputLevel, volts: float) -> bool:
    """Whether an amplifier has an input that takes these volts."""
    gain_range, most = figures.amplifier.range_of(level), figures.amplifier.highest_of(level)
    return gain_range is not None and volts <= 1.01 * (most or gain_range.down_v)


def _own_input(figures: Figures) -> list[Finding]:
    """The amplifier's own input: what it takes, and whether it has a ground side to give."""
    findings = []
    level = figures.path.input
    most = figures.amplifier.highest_of(level)
    reaches = figures.levels.highest_input_v
    if most and reaches is not None and reaches > 1.01 * most:
        over = ratio_db(reaches, most)
        findings.append(
            Finding(
                kind=FindingKind.AMPLIFIER_INPUT_OVER,
                severity=_grave(over),
                title="The amplifier’s input is overdriven",
                reason=f"{format_value(reaches, 'V', 3)} reach a {LEVEL_WORDS[level]} made for "
                f"{format_value(most, 'V', 3)}: it clips {format_db(over)} early, before the gain knob.",
                remedy=_lower(figures, reaches),
            )
        )
    if bare_speaker_lead(figures):
        findings.append(
            Finding(
                kind=FindingKind.NO_GROUND_SIDE,
                severity=Severity.STOP,
                title="Speaker-level output on a low-level input",
                reason="A speaker output has no ground side: a plug’s shell would short one lead.",
                remedy=input_advice(figures).sentence,
            )
        )
    if figures.source_v is None and figures.output.kind is not OutputKind.DIGITAL:
        findings.append(
            Finding(
                kind=FindingKind.SOURCE_UNKNOWN,
                severity=Severity.NOTE,
                title="The source’s volts aren’t known",
                reason="Target, load and tone are planned. Input levels and knob position are not.",
                remedy="Type its rated output, or measure its clean maximum in the run.",
            )
        )
    return findings


def _lower(figures: Figures, volts: float) -> str:
    """Remedy that lowers the volts at the amplifier's input, with the parts there are."""
    other = other_level(figures.path.input)
    told = [f"use the {LEVEL_WORDS[other]}"] if _takes(figures, other, volts) else []
    if figures.levels.stages:
        told.append(f"lower the level in {figures.levels.stages[-1].processor.name or 'the stage before it'}")
    told.append("put a divider in")
    words = ", or ".join(told)
    return f"{words[0].upper()}{words[1:]}."


def _turn_on(figures: Figures) -> list[Finding]:
    """Whether what wakes by a direct voltage can find one."""
    processors = [stage.processor for stage in figures.levels.stages]
    carries = figures.output.kind is OutputKind.SPEAKER
    woken = [
        (processor.id, processor.name or "converter", carries)
        for processor in processors
        if processor.turn_on is TurnOn.SENSING
    ]
    amplifier = figures.amplifier
    if amplifier.turn_on is TurnOn.SENSING:
        # Behind a processor, or at a low-level input, there are no speaker leads to sense on.
        by_leads = carries and not processors and figures.path.input is InputLevel.HIGH
        woken.append((figures.path.amplifier, amplifier.name or "amplifier", by_leads))
    return [_woken(figures, part, name, there=there) for part, name, there in woken]


def _woken(figures: Figures, part: str, name: str, *, there: bool) -> Finding:
    if not there:
        return Finding(
            kind=FindingKind.NO_OFFSET,
            about=(part,),
            severity=Severity.RISK,
            title=f"{name}: nothing turns it on",
            reason=f"A {figures.output.kind.value} output carries no DC to sense."
            if figures.output.kind is not OutputKind.SPEAKER
            else "Its input isn’t on speaker wires, so there is no DC to sense.",
            remedy="Connect a turn-on lead.",
        )
    return Finding(
        kind=FindingKind.OFFSET,
        about=(part,),
        severity=Severity.NOTE,
        title=f"{name} turns on by the DC offset of the speaker wires",
        reason="It needs 5 to 6 V from one speaker lead to chassis (common practice).",
        remedy="Measure it, time the turn-off after locking, and check that it returns at unlock.",
    )
