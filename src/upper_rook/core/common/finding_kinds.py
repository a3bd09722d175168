"""The kinds of findings, each with the part of a system that it is put right in."""

from enum import StrEnum
from typing import Literal, Self

Part = Literal["source", "between", "amplifier", "speakers", "filters", "methods"]


class FindingKind(StrEnum):
    """Subject of a finding; its part is the one that puts it right."""

    part: Part

    def __new__(cls, value: str, part: Part) -> Self:
        """A kind by its name and its part."""
        kind = str.__new__(cls, value)
        kind._value_ = value
        kind.part = part
        return kind

    WAYS = "ways", "source"
    TRIMS = "trims", "source"
    SOURCE_FAR_OFF = "source-far-off", "source"
    NO_OFFSET = "no-offset", "source"
    OFFSET = "offset", "source"
    NOT_FLAT = "not-flat", "source"
    LEVEL_LIFTED = "level-lifted", "source"
    FORGETS = "forgets", "source"
    TAP_BAND = "tap-band", "source"
    TAPS_GAP = "taps-gap", "source"
    TAPS_APART = "taps-apart", "source"
    SOURCE_UNKNOWN = "source-unknown", "source"
    JOINED = "joined", "source"
    HALF_OF_MUSIC = "half-of-music", "source"
    NO_GROUND_SIDE = "no-ground-side", "source"
    VOLUME_TOO_HIGH = "volume-too-high", "source"
    SOURCE_WEAK = "source-weak", "source"
    SOURCE_STRONG = "source-strong", "source"
    UNLIKELY = "unlikely", "source"
    SIDES_APART = "sides-apart", "source"

    TRIM_TOO_HIGH = "trim-too-high", "between"
    OUTPUT_OVER = "output-over", "between"
    NOISE_INPUT = "noise-input", "between"
    NO_PROCESSOR = "no-processor", "between"
    INPUT_OVER = "input-over", "between"
    FULL_SCALE = "full-scale", "between"
    CONVERTER_OUTPUTS = "converter-outputs", "between"
    CONVERTER_WEAK = "converter-weak", "between"
    TONE_MISSES_PEAK = "tone-misses-peak", "between"
    SIDE_INVERTED = "side-inverted", "between"

    IDLE_CHANNELS = "idle-channels", "amplifier"
    ROUTING_TAKES_OVER = "routing-takes-over", "amplifier"
    SUPPLY = "supply", "amplifier"
    RATINGS_CONTRADICT = "ratings-contradict", "amplifier"
    RATING_ESTIMATED = "rating-estimated", "amplifier"
    RATING_DISTORTED = "rating-distorted", "amplifier"
    RATING_CORRECTED = "rating-corrected", "amplifier"
    ONE_LEAD = "one-lead", "amplifier"
    NOISE = "noise", "amplifier"
    NO_SIGNAL = "no-signal", "amplifier"
    NO_CLIP_LAMP = "no-clip-lamp", "amplifier"
    LEVEL_KNOB = "level-knob", "amplifier"
    LEADS_UNUSED = "leads-unused", "amplifier"
    HAZARDOUS_LIVE = "hazardous-live", "amplifier"
    BOOST = "boost", "amplifier"
    AMPLIFIER_WEAK = "amplifier-weak", "amplifier"
    AMPLIFIER_STRONG = "amplifier-strong", "amplifier"
    AMPLIFIER_INPUT_OVER = "amplifier-input-over", "amplifier"
    IDLE = "idle", "amplifier"

    ONE_DRIVEN = "one-driven", "amplifier"
    TARGET_TYPED = "target-typed", "amplifier"

    SPEAKERS_UNKNOWN = "speakers-unknown", "speakers"
    UNLIKE_DRIVERS = "unlike-drivers", "speakers"
    LOAD_TOO_LOW = "load-too-low", "speakers"
    LOAD_TOO_LOW_ABOVE = "load-too-low-above", "speakers"
    IMPEDANCE_DIPS = "impedance-dips", "speakers"
    BEHIND_CAPACITOR = "behind-capacitor", "speakers"
    BELONG_TOGETHER = "belong-together", "speakers"

    TWEETER = "tweeter", "filters"
    TWEETER_UNKNOWN = "tweeter-unknown", "speakers"
    TWEETER_OVER = "tweeter-over", "methods"
    DIAL = "dial", "filters"
    BOOST_BELOW = "boost-below-range", "filters"
    SUBSONIC_LOW = "subsonic-low", "filters"
    SUBSONIC_HIGH = "subsonic-high", "filters"
    STAYS_ACTIVE = "stays-active", "filters"
    STARVED = "starved", "filters"
    STACKED = "stacked", "filters"
    OVERLAP = "overlap", "filters"
    NOTHING_LEFT = "nothing-left", "filters"
    NO_SUBSONIC = "no-subsonic", "filters"
    NO_LOW_PASS = "no-low-pass", "filters"
    NO_HIGH_PASS = "no-high-pass", "filters"
    NEAR_PASSIVE = "near-passive", "filters"
    IDLE_FILTER = "idle-filter", "filters"
    GAP = "gap", "filters"
    CANCEL_BESIDE = "cancel-beside", "filters"
    CANCEL = "cancel", "filters"
    HOLE = "hole", "filters"
    ARRIVES_LATE = "arrives-late", "filters"
    DELAYS_APART = "delays-apart", "filters"
    BUMP = "bump", "filters"
    NO_BASS = "no-bass", "filters"
    NO_TREBLE = "no-treble", "filters"
    ABOVE_RANGE = "above-range", "filters"
    BELOW_RANGE = "below-range", "filters"

    SOFT_CLIP = "soft-clip", "methods"
    DUMMY_LOAD = "dummy-load", "methods"
    ALLOWANCE = "allowance", "methods"
    LEVEL_OVERLAP = "level-overlap", "methods"
