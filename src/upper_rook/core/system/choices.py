"""Where practitioners disagree: which method a job follows, and what each costs."""

from enum import StrEnum
from typing import Annotated

from pydantic import Field

from upper_rook.core.common.labels import labelled
from upper_rook.core.common.units import Frozen, Hertz
from upper_rook.core.signal.tones import ToneLevel


class TopVolumeMethod(StrEnum):
    """Method for the source's top volume."""

    MEASURED = "measured"
    THREE_QUARTERS = "three_quarters"
    RATED_VOLTS = "rated_volts"
    IN_HAND = "in_hand"
    """Measured, gains set one or two numbers below it."""


class ToneMethod(StrEnum):
    """At which frequency a gain is set."""

    HIGHEST = "highest"
    HABIT = "habit"
    FORTY = "forty"
    SWEEP = "sweep"


class Meter(StrEnum):
    """Instrument for the volts; it decides how high and low a tone may be."""

    TRUE_RMS = "true-rms"
    AVERAGE = "average"
    SCOPE = "scope"
    EAR = "ear"
    """None: one speaker is on, and somebody listens for the moment that a tone turns harsh."""


class GainMethod(StrEnum):
    """Method for the target of a gain."""

    RATINGS = "ratings"
    CLEAN_WAVE = "clean_wave"
    CLIP_LAMP = "clip_lamp"
    SOFT_CLIP = "soft_clip"
    LOWEST_GAIN = "lowest_gain"
    AMPLIFIER = "amplifier"
    """The amplifier's watts alone, where nobody knows yet what the speakers take."""


class LoadMethod(StrEnum):
    """Load on the amplifier while its gain is set."""

    OPEN = "open"
    DUMMY = "dummy"


class ConverterOutput(StrEnum):
    """To what a converter's output is trimmed."""

    LOW = "1.5"
    """1.5 V, which every amplifier accepts."""
    MIDDLE = "2"
    HIGH = "4"
    TYPED = "typed"
    """Another figure, typed."""
    CLEAN = "clean"
    """As high as it stays clean and the amplifier's input takes: the least noise."""


class DepthMethod(StrEnum):
    """How far down an amplifier's filter is taken to be at its corner, unless its own depth is known."""

    SHAPE = "shape"
    THREE = "3"
    SIX = "6"


class CrossingMethod(StrEnum):
    """Where neighbouring bands meet."""

    EIGHTY = "eighty"
    OVERLAP = "overlap"
    NONE = "none"


class BlendMethod(StrEnum):
    """How the groups are balanced in the end."""

    EAR = "ear"
    VOLTS = "volts"
    SPECTRUM = "spectrum"


class Extent(StrEnum):
    """How many source points are measured."""

    QUICK = "quick"
    WAYS = "ways"
    EVERYTHING = "everything"


class SourceTones(StrEnum):
    """Tones that a source's clean maxima are measured with."""

    ONE = "one"
    TWO = "two"
    """The sub tone and the other one at every output; the lower number counts."""


class OwnChoices(Frozen):
    """Methods of one path, where it doesn't follow the job's."""

    model_config = labelled(
        "Own methods",
        gain="gain target",
        tone_level_dbfs="tone level",
        allowance_percent="allowance",
    )
    gain: GainMethod | None = None
    tone_level_dbfs: ToneLevel | None = None
    allowance_percent: Annotated[float, Field(ge=-50, le=100)] | None = None


class Choices(Frozen):
    """Methods that are followed where practitioners disagree."""

    model_config = labelled(
        "",
        top_volume="Number never to pass",
        clicks_in_hand="Numbers in hand",
        extent="Clean maxima to measure",
        source_tones="Tones at the source",
        tone="Tone for the gain",
        tone_level_dbfs="Tone level",
        sub_tone_hz="Tone for subwoofers",
        full_tone_hz="Tone for the rest",
        meter="Meter",
        gain="Gain target",
        allowance_percent="Allowance",
        load="Load while setting",
        converter_output="Converter output",
        converter_v="Converter output, typed",
        converter_level_dbfs="Tone level for converters",
        depth="Depth at a corner",
        crossing="Where neighbours cross",
        overlap_hz="Overlap",
        blend="Blending",
        cabin_bass_db="Bass over the middle, in the cabin",
        wanted_db="Wanted loudness",
    )
    top_volume: TopVolumeMethod = TopVolumeMethod.MEASURED
    clicks_in_hand: Annotated[int, Field(ge=1, le=4)] = 1
    """How far below the clean maximum gains are set, when some is kept in hand."""
    extent: Extent = Extent.WAYS
    source_tones: SourceTones = SourceTones.ONE
    tone: ToneMethod = ToneMethod.HIGHEST
    tone_level_dbfs: ToneLevel = 0.0
    """Level of the tone the gain is set with; below 0 it leaves that much overlap."""
    sub_tone_hz: Hertz = 50.0
    full_tone_hz: Hertz = 1000.0
    meter: Meter = Meter.TRUE_RMS
    gain: GainMethod = GainMethod.RATINGS
    allowance_percent: Annotated[float, Field(ge=-50, le=100)] = 0.0
    """Deliberate allowance on the speaker's rating."""
    load: LoadMethod = LoadMethod.OPEN
    converter_output: ConverterOutput = ConverterOutput.CLEAN
    converter_v: Annotated[float, Field(ge=0.1, le=20)] = 3.0
    """Volts of a converter's output where they are typed."""
    converter_level_dbfs: ToneLevel | None = None
    """Level of the tone that a converter is trimmed with; None for that of the gain behind it."""
    depth: DepthMethod = DepthMethod.SHAPE
    crossing: CrossingMethod = CrossingMethod.OVERLAP
    overlap_hz: Annotated[float, Field(ge=5, le=200)] = 20.0
    """How far neighbours overlap at the bottom of the range; higher up as much in octaves."""
    blend: BlendMethod = BlendMethod.EAR
    cabin_bass_db: Annotated[float, Field(ge=-6, le=20)] = 6.0
    """How much more the wanted curve has at 40 Hz than at 1 kHz, dB (common practice, no source)."""
    wanted_db: Annotated[float, Field(ge=60, le=150)] | None = None
    """SPL at 1 m that every group of speakers should reach; None when nobody asks for it."""

    @property
    def trim_level_dbfs(self) -> float:
        """Level of the tone that a converter is trimmed with."""
        return self.tone_level_dbfs if self.converter_level_dbfs is None else self.converter_level_dbfs

    def followed_by(self, own: OwnChoices) -> "Choices":
        """
        The methods of a path: the job's, but for those that it has of its own.

        >>> Choices(allowance_percent=10).followed_by(OwnChoices(tone_level_dbfs=-10)).tone_level_dbfs
        -10.0
        """
        said = {name: value for name, value in own if value is not None}
        return self.model_copy(update=said) if said else self
