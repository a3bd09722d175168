"""Where practitioners disagree: which school a job follows, and what each costs."""

from enum import StrEnum
from typing import Annotated

from pydantic import Field

from upper_rook.core.common.labels import labelled
from upper_rook.core.common.units import Frozen, Hertz, Name
from upper_rook.core.signal.tones import ToneLevel


class TopVolumeSchool(StrEnum):
    """What is taken for the source's top volume."""

    MEASURED = "measured"
    THREE_QUARTERS = "three_quarters"
    RATED_VOLTS = "rated_volts"
    IN_HAND = "in_hand"
    """Measured, gains set one or two numbers below it."""


class ToneSchool(StrEnum):
    """At which frequency a gain is set."""

    HIGHEST = "highest"
    HABIT = "habit"
    FORTY = "forty"
    SWEEP = "sweep"


class GainSchool(StrEnum):
    """What a gain is set to."""

    RATINGS = "ratings"
    CLEAN_WAVE = "clean_wave"
    CLIP_LAMP = "clip_lamp"
    SOFT_CLIP = "soft_clip"
    LOWEST_GAIN = "lowest_gain"


class LoadSchool(StrEnum):
    """What the amplifier drives while its gain is set."""

    OPEN = "open"
    DUMMY = "dummy"


class ConverterOutput(StrEnum):
    """To what a converter's output is trimmed."""

    LOW = "1.5"
    """1.5 V, which every amplifier accepts."""
    MIDDLE = "2"
    CLEAN = "clean"
    """As high as it stays clean and the amplifier's input takes: the least noise."""


class DepthSchool(StrEnum):
    """How far down an amplifier's filter is taken to be at its corner, unless its own depth is known."""

    SHAPE = "shape"
    THREE = "3"
    SIX = "6"


class CrossingSchool(StrEnum):
    """Where neighbouring bands meet."""

    EIGHTY = "eighty"
    OVERLAP = "overlap"
    NONE = "none"


class BlendSchool(StrEnum):
    """How the groups are balanced in the end."""

    EAR = "ear"
    VOLTS = "volts"
    SPECTRUM = "spectrum"


class Choices(Frozen):
    """Which school is followed where practitioners disagree."""

    model_config = labelled(
        "",
        top_volume="Top volume",
        clicks_in_hand="Numbers in hand",
        tone="Tone for the gain",
        tone_level_dbfs="Tone level",
        sub_tone_hz="Tone for subwoofers",
        full_tone_hz="Tone for the rest",
        gain="What the gain is set to",
        allowance_percent="Allowance",
        load="Load while setting",
        converter_output="Converter output",
        depth="Depth at a corner",
        crossing="Where neighbours cross",
        overlap_hz="Overlap",
        blend="Blending",
    )
    top_volume: TopVolumeSchool = TopVolumeSchool.MEASURED
    clicks_in_hand: Annotated[int, Field(ge=1, le=4)] = 1
    """How far below the clean maximum gains are set, when some is kept in hand."""
    tone: ToneSchool = ToneSchool.HIGHEST
    tone_level_dbfs: ToneLevel = 0.0
    """Level of the tone the gain is set with; below 0 it leaves that much overlap."""
    sub_tone_hz: Hertz = 50.0
    full_tone_hz: Hertz = 1000.0
    gain: GainSchool = GainSchool.RATINGS
    allowance_percent: Annotated[float, Field(ge=-50, le=100)] = 0.0
    """Deliberate allowance on the speaker's rating."""
    load: LoadSchool = LoadSchool.OPEN
    converter_output: ConverterOutput = ConverterOutput.CLEAN
    depth: DepthSchool = DepthSchool.SHAPE
    crossing: CrossingSchool = CrossingSchool.OVERLAP
    overlap_hz: Annotated[float, Field(ge=5, le=200)] = 20.0
    """How far neighbours overlap at the bottom of the range; higher up as much in octaves."""
    blend: BlendSchool = BlendSchool.EAR


class Option(Frozen):
    """One school: what it does and what it costs."""

    value: str
    name: str
    costs: str


class Question(Frozen):
    """One matter that practitioners disagree on."""

    field: Name
    """The field of Choices."""
    ask: str
    default: str
    default_because: str
    options: tuple[Option, ...]


def _question(field: str, ask: str, default_because: str, *options: tuple[str, str, str]) -> Question:
    made = tuple(Option(value=value, name=name, costs=costs) for value, name, costs in options)
    default = str(Choices.model_fields[field].default)
    return Question(field=field, ask=ask, default=default, default_because=default_because, options=made)


# Common practice, no source.
QUESTIONS = (
    _question(
        "top_volume",
        "The source's top volume",
        "Measured is the only one that is not a guess.",
        (
            TopVolumeSchool.MEASURED,
            "Highest number measured clean",
            "Costs a ladder of readings; quiet recordings get nothing in hand.",
        ),
        (
            TopVolumeSchool.THREE_QUARTERS,
            "Three quarters of the scale",
            "For a meter alone. A guess: it may give volts away, or clip all the same.",
        ),
        (
            TopVolumeSchool.RATED_VOLTS,
            "Where the output reaches its rated volts",
            "Quick, but makers overstate and understate: nobody has seen that it is clean there.",
        ),
        (
            TopVolumeSchool.IN_HAND,
            "Measured, with a click or two in hand",
            "Quiet recordings can be turned up; loud ones then clip the amplifier by as much.",
        ),
    ),
    _question(
        "tone",
        "Tone for the gain",
        "A gain set where the equaliser is highest can't clip elsewhere.",
        (
            ToneSchool.HIGHEST,
            "Where equaliser and gains are highest",
            "Costs a look at the curve; without a processor it is the tone of habit.",
        ),
        (
            ToneSchool.HABIT,
            "Habit: one tone for subs, one for the rest",
            "Wrong by as much as the equaliser lifts another frequency.",
        ),
        (
            ToneSchool.FORTY,
            "40 Hz everywhere",
            "The strongest signal in music, but many meters read low there and small speakers' channels cut it.",
        ),
        (
            ToneSchool.SWEEP,
            "A sweep, by its highest volts",
            "Finds the peak by itself; takes a minute each time and a meter that follows.",
        ),
    ),
    _question(
        "gain",
        "What the gain is set to",
        "Ratings keep both amplifier and speaker within what their makers promise.",
        (
            GainSchool.RATINGS,
            "Volts from the ratings: √(watts × ohms)",
            "Leaves an amplifier's reserve unused, and trusts the printed watts.",
        ),
        (
            GainSchool.CLEAN_WAVE,
            "The highest clean wave on the scope",
            "Uses all there is, up to the speaker's rating; needs a scope and a good supply.",
        ),
        (
            GainSchool.CLIP_LAMP,
            "The clip lamp, then back a hair",
            "Fast; lamps light early or late and never say how far.",
        ),
        (
            GainSchool.SOFT_CLIP,
            "A touch of soft clipping, up to 1 % distortion",
            "A quarter of a decibel more; it is clipping all the same, and warmer coils.",
        ),
        (
            GainSchool.LOWEST_GAIN,
            "Lowest gain: the printed volts matched to the source",
            "Least noise, nothing measured at the speaker; trusts the scale.",
        ),
    ),
    _question(
        "load",
        "Load while setting",
        "Open terminals burn nothing; how much they read high is said.",
        (
            LoadSchool.OPEN,
            "Open terminals",
            "Safe; reads high on an unregulated amplifier and below its rated load.",
        ),
        (
            LoadSchool.DUMMY,
            "On a dummy load",
            "True; hot, and needs resistors of the right ohms and watts.",
        ),
    ),
    _question(
        "converter_output",
        "Converter output",
        "More volts mean a lower amplifier gain and less noise.",
        (ConverterOutput.LOW, "1.5 V", "Every amplifier takes it; more gain and more noise after it."),
        (ConverterOutput.MIDDLE, "2 V", "A comfortable signal, still short of what most converters give."),
        (
            ConverterOutput.CLEAN,
            "As high as it stays clean",
            "Least noise; the clean end has to be found, and the amplifier's input must take it.",
        ),
    ),
    _question(
        "depth",
        "Depth at a filter's corner",
        "The shape itself is right when nothing else is known.",
        (DepthSchool.SHAPE, "What its shape gives", "−3 dB for Butterworth, −6 dB for Linkwitz–Riley."),
        (DepthSchool.THREE, "−3 dB, × 0.707", "The habit; off by half an octave on filters marked at −6 dB."),
        (DepthSchool.SIX, "−6 dB, × 0.5", "Neighbours in step sum flat; too low a corner if the maker means −3 dB."),
    ),
    _question(
        "crossing",
        "Where neighbours cross",
        "Scales are not exact, and a little overlap forgives that.",
        (CrossingSchool.EIGHTY, "80 Hz all round", "Simple; asks small speakers for more than some can do."),
        (CrossingSchool.OVERLAP, "With an overlap", "Forgives rough scales; louder where both play."),
        (CrossingSchool.NONE, "No overlap", "Cleanest where filters are exact; a gap where they are not."),
    ),
    _question(
        "blend",
        "Blending the groups",
        "Ears hear the cabin, which no voltage shows.",
        (BlendSchool.EAR, "By ear: the louder one down", "Depends on who listens, and to what."),
        (BlendSchool.VOLTS, "By equal volts", "Repeatable; ignores how loud each speaker is."),
        (BlendSchool.SPECTRUM, "By spectrum", "Shows the cabin; needs a microphone and pink noise."),
    ),
)
