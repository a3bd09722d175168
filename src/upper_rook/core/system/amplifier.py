"""Amplifiers, one channel or pair of channels each: ratings, inputs and what their front panel has."""

from enum import StrEnum
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.labels import labelled
from upper_rook.core.common.units import Frozen, Key, Name, Ohms, Volts, Watts


class Mode(StrEnum):
    """How an amplifier's channels are used on a path."""

    PER_CHANNEL = "per_channel"
    BRIDGED = "bridged"
    STRAPPED = "strapped"
    """Two mono amplifiers onto one load: each sees half of it and gives half of the voltage."""

    @property
    def amplifiers(self) -> int:
        """How many outputs share the load."""
        return 1 if self is Mode.PER_CHANNEL else 2


class Rating(Frozen):
    """What the maker promises: watts at a load in a mode."""

    model_config = labelled(
        "Amplifier's rating",
        power_w="watts",
        load_ohm="load",
        mode="mode",
        supply_v="supply",
        distortion_percent="distortion",
    )
    power_w: Watts
    load_ohm: Ohms
    mode: Mode = Mode.PER_CHANNEL
    supply_v: Annotated[float, Field(ge=6, le=60)] | None = None
    """The supply it is promised at, where the maker says so."""
    distortion_percent: Annotated[float, Field(gt=0, le=20)] | None = None
    """The distortion it is promised at, where the maker says so."""


class ScaleOf(StrEnum):
    """Which full output the volts printed around a gain mean."""

    THIS_LOAD = "this_load"
    """The rated volts into the load that hangs on it: what a scale comes nearest to where its sheet says nothing."""
    RATED_LOAD = "rated_load"
    """The volts of the rating that the sheet names first of all, at its highest rated load; gain is a ratio of volts
    and doesn't change with the load."""


class GainRange(Frozen):
    """An input's range: the volts in that give full output at either end of the gain control."""

    model_config = labelled(
        "Gain scale",
        down_v="volts fully down",
        up_v="volts fully up",
        scale_of="full output meant",
    )
    down_v: Volts
    """At fully down (the larger number)."""
    up_v: Volts
    """At fully up (the smaller number)."""
    scale_of: ScaleOf = ScaleOf.THIS_LOAD
    """Which full output these volts give."""

    @model_validator(mode="after")
    def _order(self) -> Self:
        if self.down_v <= self.up_v:
            raise BadInput("the volts at fully down must be more than those at fully up")
        return self


class InputLevel(StrEnum):
    """Which of an amplifier's inputs is used."""

    LOW = "low"
    HIGH = "high"


class Routing(StrEnum):
    """Where an input routing switch takes a pair's signal from."""

    OWN = "own"
    """Its own inputs."""
    SHARED = "shared"
    """The inputs of the amplifier's first pair."""


class Amplifier(Frozen):
    """A channel pair of an amplifier, a mono amplifier, or two of those strapped together."""

    model_config = labelled(
        "Amplifier",
        id="id",
        name="name",
        channels="channels",
        ratings="ratings",
        lowest_load_ohm="lowest load",
        gain_range="gain scale",
        gain_printed="volts printed around the gain",
        high_level_range="high-level input's scale",
        highest_input_v="highest input",
        highest_high_level_v="highest high-level input",
        clip_lamp="clip lamp",
        limiter="limiter",
        regulated="regulated supply",
    )
    id: Key
    name: Name = ""
    channels: Literal[1, 2] = 2
    ratings: Annotated[tuple[Rating, ...], Field(max_length=8)] = ()
    lowest_load_ohm: Ohms | None = None
    """The least that one channel may see."""
    gain_range: GainRange | None = None
    """Of the low-level input; None when it is neither printed nor in the data sheet."""
    gain_printed: bool = True
    """Whether volts are printed around the knob; bare, only its position can be told."""
    high_level_range: GainRange | None = None
    """Of the high-level input; None when there is none."""
    highest_input_v: Volts | None = None
    """The most its low-level input takes, where the maker says so."""
    highest_high_level_v: Volts | None = None
    clip_lamp: bool = False
    limiter: bool = False
    """Whether a protective limiter holds the output back."""
    regulated: bool = False
    """Whether its output is independent of the supply voltage."""

    def range_of(self, level: InputLevel) -> GainRange | None:
        """The range of one of its inputs."""
        return self.high_level_range if level is InputLevel.HIGH else self.gain_range

    def highest_of(self, level: InputLevel) -> float | None:
        """The most that one of its inputs takes, volts RMS."""
        return self.highest_high_level_v if level is InputLevel.HIGH else self.highest_input_v
