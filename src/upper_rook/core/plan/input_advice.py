"""Choice of an amplifier's input, and the trims of the converters before it."""

from upper_rook.core.common.units import Frozen, format_signed, format_value, from_db
from upper_rook.core.plan.figures import Figures
from upper_rook.core.system.amplifier import GainRange, InputLevel
from upper_rook.core.system.choices import Choices
from upper_rook.core.system.methods import CONVERTER
from upper_rook.core.system.processor import ProcessorKind
from upper_rook.core.system.source import OutputKind

LEVEL_WORDS = {InputLevel.LOW: "low-level input", InputLevel.HIGH: "high-level input"}


class Advice(Frozen):
    """Advice, and whether it is done already."""

    sentence: str
    settled: bool
    """Whether the sheet already has it so."""
    because: tuple[str, ...] = ()


def other_level(level: InputLevel) -> InputLevel:
    """The other of the two."""
    return InputLevel.LOW if level is InputLevel.HIGH else InputLevel.HIGH


def bare_speaker_lead(figures: Figures) -> bool:
    """Whether a speaker-level output goes straight into an input that wants a ground side."""
    straight = not figures.path.through and figures.output.kind is OutputKind.SPEAKER
    return straight and figures.path.input is InputLevel.LOW


def input_advice(figures: Figures) -> Advice:
    """Low or high level, from the volts that reach it and what each takes."""
    used = figures.path.input
    other = other_level(used)
    has_other = figures.amplifier.range_of(other) is not None
    if bare_speaker_lead(figures):
        remedy = "use the high-level input" if has_other else "put a converter before it"
        return Advice(sentence=f"A speaker-level output has no ground side: {remedy}.", settled=False)
    if figures.tone_v is None:
        return Advice(sentence="Measure the source first: its volts decide which input fits.", settled=False)
    here, there = _fits(figures, used), _fits(figures, other)
    reach = f"{format_value(figures.tone_v, 'V', 3)} reach it"
    if here is None:
        return Advice(sentence=f"The range of its {LEVEL_WORDS[used]} isn’t known; {reach}.", settled=True)
    because = (_range_in_words(figures, used), *((_range_in_words(figures, other),) if has_other else ()))
    if here:
        return Advice(sentence=f"The {LEVEL_WORDS[used]} fits: {reach}.", settled=True, because=because)
    if there:
        sentence = f"Use the {LEVEL_WORDS[other]}: {reach}, which the {LEVEL_WORDS[used]} can’t be set for."
        return Advice(sentence=sentence, settled=False, because=because)
    short = "No input fits" if has_other else f"The {LEVEL_WORDS[used]} doesn’t fit"
    return Advice(sentence=f"{short}: {figures.knob.sentence}", settled=False, because=because)


def _range_in_words(figures: Figures, level: InputLevel) -> str:
    gain_range = figures.amplifier.range_of(level)
    if gain_range is None:
        return f"{LEVEL_WORDS[level]}: range not known"
    most = figures.amplifier.highest_of(level)
    told = f"{format_value(gain_range.up_v, 'V', 3)} to {format_value(gain_range.down_v, 'V', 3)}"
    return f"{LEVEL_WORDS[level]}: {told}" + (f", at most {format_value(most, 'V', 3)}" if most else "")


def _fits(figures: Figures, level: InputLevel) -> bool | None:
    """Whether an input's gain can be set for the target; None while its range isn't known."""
    gain_range: GainRange | None = figures.amplifier.range_of(level)
    if gain_range is None or figures.driven_v is None or figures.input_v is None:
        return None
    wanted_v = figures.driven_v * figures.scale_v / figures.target_v
    most = figures.amplifier.highest_of(level)
    return gain_range.up_v <= wanted_v <= gain_range.down_v and (most is None or figures.input_v <= most)


def trim_advice(figures: Figures, choices: Choices) -> tuple[Advice, ...]:
    """Trim of each converter on the way."""
    return tuple(
        Advice(
            sentence=_trim_in_words(stage.processor.name or "the converter", stage.output_v, choices.trim_level_dbfs),
            settled=False,
            because=(
                CONVERTER.of(choices).because,
                f"it gives up to {format_value(stage.processor.highest_output_v, 'V', 3)} clean",
                *_held_by(figures, place),
                "at 40 Hz and at 1 kHz: the higher of the two is set; a large gap betrays a filter or a bass roll-off",
            ),
        )
        for place, stage in enumerate(figures.levels.stages)
        if stage.processor.kind is ProcessorKind.CONVERTER and stage.output_v is not None
    )


def _trim_in_words(name: str, volts: float, tone_dbfs: float) -> str:
    full = format_value(volts, "V", 3)
    if not tone_dbfs:
        return f"Trim {name} to {full}, left and right alike, with a tone at 0 dBFS at the source’s clean maximum."
    shown, level = format_value(volts * from_db(tone_dbfs), "V", 3), format_signed(tone_dbfs)
    return (
        f"Trim {name} to {shown}, left and right alike, with the tone at {level} dBFS at the source’s clean maximum: "
        f"{full} at full scale."
    )


def _held_by(figures: Figures, place: int) -> tuple[str, ...]:
    """Reason that a trim stays below its converter's highest output."""
    stages = figures.levels.stages
    given = stages[place].output_v
    if given is None or given > 0.999 * stages[place].processor.highest_output_v:
        return ()
    if place + 1 < len(stages):
        following = stages[place + 1].processor
        most = following.highest_input.v
        if most is None:
            return ()
        return (f"{following.name or 'the processor after it'} takes {format_value(most, 'V', 3)}",)
    gain_range = figures.amplifier.range_of(figures.path.input)
    if gain_range is None:
        return ()
    down, rated = format_value(gain_range.down_v, "V", 3), format_value(figures.scale_v, "V", 3)
    target = format_value(figures.target_v, "V", 3)
    return (f"fully down the gain takes {down} for {rated}: no more than this can be turned down to {target}",)
