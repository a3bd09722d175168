"""
Where practitioners disagree: one entry for each method, with its words, its cost, and what it does wherever it counts.

To add a method: a member of its enumeration in `choices`, and its entry here. All of it is common practice, no source.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Generic, TypeVar

from upper_rook.core.common.units import Frozen, Name
from upper_rook.core.system.choices import (
    BlendMethod,
    Choices,
    ConverterOutput,
    CrossingMethod,
    DepthMethod,
    Extent,
    GainMethod,
    LoadMethod,
    Meter,
    SourceTones,
    ToneMethod,
    TopVolumeMethod,
)
from upper_rook.core.system.clean_maximum import Basis


class Option(Frozen):
    """One method: what it does and what it costs."""

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


@dataclass(frozen=True, kw_only=True)
class Method:
    """Fields of every method."""

    value: StrEnum
    name: str
    costs: str


@dataclass(frozen=True, kw_only=True)
class TopVolumeEntry(Method):
    """Method for the source's top volume."""

    sentence: str
    """Before it was measured; `top`, `guess`, `rated` and `clicks` are put in."""
    basis: Basis | None = None
    """The clean maximum that is offered first."""
    guessed: bool = False
    """Whether it is known without measuring."""
    in_hand: bool = False
    """Whether gains are set some numbers below it."""


@dataclass(frozen=True, kw_only=True)
class ExtentEntry(Method):
    """How many source points are measured."""

    every_way: bool = False
    every_output: bool = False


@dataclass(frozen=True, kw_only=True)
class ToneEntry(Method):
    """At which frequency a gain is set."""

    follows_peak: bool = False
    always_hz: float | None = None
    swept: bool = False


@dataclass(frozen=True, kw_only=True)
class MeterEntry(Method):
    """Instrument for the volts."""


@dataclass(frozen=True, kw_only=True)
class GainEntry(Method):
    """Method for the target of a gain."""

    method: str
    turn: str
    """The order at the step."""
    low_db: float = -0.5
    """How far below the target is accepted."""
    until_it_clips: bool = False
    """On past the target while the wave stays clean, as long as the speakers take it."""
    clips_softly: bool = False
    """A touch of clipping is accepted where the amplifier is the limit."""
    by_lamp: bool = False
    tells_band: bool = False
    """Whether the arithmetic ends with the accepted band."""
    aside: str = ""
    """Sentence added to the arithmetic where the amplifier is the limit; `top` is put in."""
    aside_always: str = ""
    """Sentence added in any case."""
    by_amplifier: bool = False
    """Whether speakers of unknown watts are planned by the amplifier's alone."""


@dataclass(frozen=True, kw_only=True)
class LoadEntry(Method):
    """Load on the amplifier while its gain is set."""

    dummy: bool
    order: str = ""
    """Order at the step; `ohms` is put in."""


@dataclass(frozen=True, kw_only=True)
class ConverterEntry(Method):
    """To what a converter's output is trimmed."""

    volts: float | None
    """None for as high as it stays clean and the next input takes, or for what is typed."""
    because: str
    typed: bool = False

    def volts_by(self, choices: Choices) -> float | None:
        """Volts to trim to; None for as high as it stays clean and the next input takes."""
        return choices.converter_v if self.typed else self.volts


@dataclass(frozen=True, kw_only=True)
class DepthEntry(Method):
    """How far down an amplifier's filter is taken to be at its corner."""

    depth_db: float | None


@dataclass(frozen=True, kw_only=True)
class CrossingEntry(Method):
    """Where neighbouring bands meet."""

    always_hz: float | None = None
    overlaps: bool = False


@dataclass(frozen=True, kw_only=True)
class SourceTonesEntry(Method):
    """Tones that a source's clean maxima are measured with."""

    both: bool = False


@dataclass(frozen=True, kw_only=True)
class BlendEntry(Method):
    """How the groups are balanced in the end."""

    line: str
    """The line of the last checklist."""


Entry = TypeVar("Entry", bound=Method)


class Matter(Generic[Entry]):
    """One matter with all its methods."""

    def __init__(self, field: str, ask: str, because: str, methods: Sequence[Entry]) -> None:
        self.field, self.ask, self.because = field, ask, because
        self._methods = {method.value: method for method in methods}

    def of(self, choices: Choices) -> Entry:
        """The method that a job follows."""
        return self._methods[getattr(choices, self.field)]

    @property
    def question(self) -> Question:
        """The matter as it is asked."""
        return Question(
            field=self.field,
            ask=self.ask,
            default=str(Choices.model_fields[self.field].default),
            default_because=self.because,
            options=tuple(
                Option(value=str(method.value), name=method.name, costs=method.costs)
                for method in self._methods.values()
            ),
        )


TOP_VOLUME = Matter(
    "top_volume",
    "The number never to pass",
    "Measured is the only one that is not a guess.",
    [
        TopVolumeEntry(
            value=TopVolumeMethod.MEASURED,
            name="Highest number measured clean",
            costs="Takes a series of readings; no extra level for quiet tracks.",
            sentence="To be measured: the highest number that is clean.",
        ),
        TopVolumeEntry(
            value=TopVolumeMethod.THREE_QUARTERS,
            name="Three quarters of the scale",
            costs="Meter only. A guess: it may waste volts, or still clip.",
            sentence="Three quarters of {top}, rounded down: {guess}. A guess.",
            basis=Basis.GUESS,
            guessed=True,
        ),
        TopVolumeEntry(
            value=TopVolumeMethod.RATED_VOLTS,
            name="Where the output reaches its rated volts",
            costs="Quick. Makers overstate and understate, and the wave isn’t seen.",
            sentence="To be measured: the number that reaches {rated}. The wave isn’t seen there.",
            basis=Basis.RATED,
        ),
        TopVolumeEntry(
            value=TopVolumeMethod.IN_HAND,
            name="Measured, one or two numbers lower for gains",
            costs="Quiet tracks can be turned up; loud ones then clip by the same amount.",
            sentence="To be measured: the highest number that is clean; gains are set {clicks} below.",
            in_hand=True,
        ),
    ],
)

TONE = Matter(
    "tone",
    "Tone for the gain",
    "A gain set where the equaliser is highest can’t clip elsewhere.",
    [
        ToneEntry(
            value=ToneMethod.HIGHEST,
            name="Where equaliser and gains are highest",
            costs="Follows the processor’s curve; without a processor it is the usual tone.",
            follows_peak=True,
        ),
        ToneEntry(
            value=ToneMethod.HABIT,
            name="Usual: one tone for subs, one for the rest",
            costs="Wrong by as much as the equaliser lifts another frequency.",
        ),
        ToneEntry(
            value=ToneMethod.FORTY,
            name="40 Hz everywhere",
            costs="The strongest signal in music, but many meters read low there and small speakers’ channels cut it.",
            always_hz=40.0,
        ),
        ToneEntry(
            value=ToneMethod.SWEEP,
            name="A sweep, by its highest volts",
            costs="Finds the peak; takes a minute each time and a fast meter.",
            follows_peak=True,
            swept=True,
        ),
    ],
)

METER = Matter(
    "meter",
    "Meter",
    "The most common. It has no stated accuracy above 1 kHz, so lower tones are used where possible.",
    [
        MeterEntry(
            value=Meter.TRUE_RMS,
            name="True-RMS multimeter",
            costs="Good from 40 Hz to 1 kHz.",
        ),
        MeterEntry(
            value=Meter.AVERAGE,
            name="Simple multimeter",
            costs="Good from 40 to 400 Hz, on clean sines only.",
        ),
        MeterEntry(
            value=Meter.SCOPE,
            name="Oscilloscope",
            costs="Good at every tone, within a few per cent.",
        ),
        MeterEntry(
            value=Meter.EAR,
            name="None: by ear",
            costs="Ears hear clipping late, from about 1 to 3 % of distortion. No volts: no levels, no crossovers.",
        ),
    ],
)

GAIN = Matter(
    "gain",
    "Gain target",
    "Ratings keep amplifier and speaker within their makers’ limits.",
    [
        GainEntry(
            value=GainMethod.RATINGS,
            name="Volts from the ratings: √(watts × ohms)",
            costs="Leaves the amplifier’s reserve unused; trusts the printed watts.",
            method="√(watts × ohms)",
            turn="Turn the gain up slowly until the meter shows the target.",
            tells_band=True,
        ),
        GainEntry(
            value=GainMethod.CLEAN_WAVE,
            name="The highest clean wave on the scope",
            costs="Uses the full output, up to the speaker’s rating; needs a scope and a good supply.",
            method="highest clean wave",
            turn="Turn the gain up slowly, past the target, until the wave clips. Then back to clean.",
            until_it_clips=True,
            aside="by the scope: on past it while the wave stays clean, never past {top}, the speakers’ limit",
        ),
        GainEntry(
            value=GainMethod.CLIP_LAMP,
            name="Until the clip light comes on, then slightly back",
            costs="Fast; clip lights come on early or late and don’t say how far.",
            method="clip light, then slightly back",
            turn="Turn the gain up slowly until the clip light comes on, then slightly back.",
            until_it_clips=True,
            by_lamp=True,
            aside="by the clip light: up until it comes on, slightly back, never past {top}, the speakers’ limit",
        ),
        GainEntry(
            value=GainMethod.SOFT_CLIP,
            name="A touch of soft clipping, up to 1 % distortion",
            costs="A quarter of a decibel more, but it clips, and coils run warmer.",
            method="√(watts × ohms) and 1 % of distortion",
            turn="Turn the gain up slowly until the meter shows the target. The tops just begin to flatten.",
            clips_softly=True,
            aside="1 % of distortion is {soft_db:.2f} dB more volts: {target}",
        ),
        GainEntry(
            value=GainMethod.LOWEST_GAIN,
            name="Lowest gain: the printed volts matched to the source",
            costs="Least noise. Nothing is measured at the speaker; trusts the scale.",
            method="printed volts matched to the source",
            turn="Set the gain by its scale and leave it there.",
            # How far a printed scale may leave the output below what it promises.
            low_db=-6.0,
            aside_always="set by its scale and left there: anything from half of these volts up is accepted, "
            "nothing above",
        ),
        GainEntry(
            value=GainMethod.AMPLIFIER,
            name="The amplifier’s watts alone",
            costs="For speakers whose watts nobody knows yet: it doesn’t protect them, and the sheet says so.",
            method="√(the amplifier’s watts × ohms)",
            turn="Turn the gain up slowly until the meter shows the target.",
            tells_band=True,
            by_amplifier=True,
        ),
    ],
)

LOAD = Matter(
    "load",
    "Load while setting",
    "Open terminals burn nothing. The plan says how much they read high.",
    [
        LoadEntry(
            value=LoadMethod.OPEN,
            name="Open terminals",
            costs="Safe; reads high on an unregulated amplifier and below its rated load.",
            dummy=False,
        ),
        LoadEntry(
            value=LoadMethod.DUMMY,
            name="On a dummy load",
            costs="True. Gets hot, and needs resistors of the right ohms and watts.",
            dummy=True,
            order="On a dummy load of {ohms}; a minute at a time, then let it cool.",
        ),
    ],
)

CONVERTER = Matter(
    "converter_output",
    "Converter output",
    "More volts mean a lower amplifier gain and less noise.",
    [
        ConverterEntry(
            value=ConverterOutput.LOW,
            name="1.5 V",
            costs="Fits every amplifier; more gain and more noise after it.",
            volts=1.5,
            because="by choice 1.5 V, which every amplifier accepts",
        ),
        ConverterEntry(
            value=ConverterOutput.MIDDLE,
            name="2 V",
            costs="A good signal, below the maximum of most converters.",
            volts=2.0,
            because="by choice 2 V, a comfortable clean signal",
        ),
        ConverterEntry(
            value=ConverterOutput.HIGH,
            name="4 V",
            costs="Less noise; not every amplifier’s input takes it.",
            volts=4.0,
            because="by choice 4 V",
        ),
        ConverterEntry(
            value=ConverterOutput.TYPED,
            name="Volts that you type",
            costs="Whatever the next unit’s maker asks for.",
            volts=None,
            because="by choice, as typed",
            typed=True,
        ),
        ConverterEntry(
            value=ConverterOutput.CLEAN,
            name="As high as it stays clean",
            costs="Least noise. The clean maximum must be found, and the amplifier’s input must allow it.",
            volts=None,
            because="by choice as high as it stays clean and the amplifier’s input allows",
        ),
    ],
)

DEPTH = Matter(
    "depth",
    "Depth at a filter’s corner",
    "The shape decides when nothing else is known.",
    [
        DepthEntry(
            value=DepthMethod.SHAPE,
            name="By filter shape",
            costs="−3 dB for Butterworth, −6 dB for Linkwitz–Riley.",
            depth_db=None,
        ),
        DepthEntry(
            value=DepthMethod.THREE,
            name="−3 dB, × 0.707",
            costs="Usual; half an octave off on filters marked at −6 dB.",
            depth_db=-3.0103,
        ),
        DepthEntry(
            value=DepthMethod.SIX,
            name="−6 dB, × 0.5",
            costs="Neighbours in step sum flat; too low a corner if the maker means −3 dB.",
            depth_db=-6.0206,
        ),
    ],
)

CROSSING = Matter(
    "crossing",
    "Where neighbours cross",
    "Scales aren’t exact, and a small overlap allows for that.",
    [
        CrossingEntry(
            value=CrossingMethod.EIGHTY,
            name="80 Hz all round",
            costs="Simple; too low for some small speakers.",
            always_hz=80.0,
        ),
        CrossingEntry(
            value=CrossingMethod.OVERLAP,
            name="With an overlap",
            costs="Allows for rough scales; louder where both play.",
            overlaps=True,
        ),
        CrossingEntry(
            value=CrossingMethod.NONE,
            name="No overlap",
            costs="Cleanest where filters are exact; a gap where they are not.",
        ),
    ],
)

EXTENT = Matter(
    "extent",
    "Clean maxima to measure",
    "Ways of playing differ more than the outputs of one source.",
    [
        ExtentEntry(
            value=Extent.QUICK,
            name="One output, one way of playing",
            costs="Assumes that the other ways aren’t worse. They may be.",
        ),
        ExtentEntry(
            value=Extent.WAYS,
            name="Every way of playing",
            costs="A series of readings for each way; short ones after the first.",
            every_way=True,
        ),
        ExtentEntry(
            value=Extent.EVERYTHING,
            name="Every output, every way",
            costs="Thorough and long: for an unknown source.",
            every_way=True,
            every_output=True,
        ),
    ],
)

SOURCE_TONES = Matter(
    "source_tones",
    "Tones at the source’s outputs",
    "Most sources clip at the same number at every frequency.",
    [
        SourceTonesEntry(
            value=SourceTones.ONE,
            name="One: the tone of its speakers",
            costs="A bass boost or a loudness left on may clip below it without a sign.",
        ),
        SourceTonesEntry(
            value=SourceTones.TWO,
            name="Two: the sub tone and the other one",
            costs="A second, short series of readings at each output. The lower number counts.",
            both=True,
        ),
    ],
)

BLEND = Matter(
    "blend",
    "Blending the groups",
    "Ears hear the cabin; voltages don’t show it.",
    [
        BlendEntry(
            value=BlendMethod.EAR,
            name="By ear: the louder one down",
            costs="Depends on who listens, and to what.",
            line="Groups blended by ear: the louder one turned down, never the quieter one up",
        ),
        BlendEntry(
            value=BlendMethod.VOLTS,
            name="By equal volts",
            costs="Repeatable; ignores how loud each speaker is.",
            line="Groups blended to equal volts: the higher one turned down, never the lower one up",
        ),
        BlendEntry(
            value=BlendMethod.SPECTRUM,
            name="By spectrum",
            costs="Shows the cabin; needs a microphone and pink noise.",
            line="Groups blended by the spectrum of pink noise: the louder one turned down, never up",
        ),
    ],
)

_MATTERS = (TOP_VOLUME, EXTENT, SOURCE_TONES, TONE, METER, GAIN, LOAD, CONVERTER, DEPTH, CROSSING, BLEND)
QUESTIONS = tuple(matter.question for matter in _MATTERS)
