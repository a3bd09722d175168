"""Amplifiers, one channel or pair of channels each: ratings, inputs and what their front panel has."""

from enum import StrEnum
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.labels import labelled
from upper_rook.core.common.units import Frozen, Key, Name, Ohms, SignalToNoise, Volts, Watts, format_value
from upper_rook.core.system.turn_on import TurnOn


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

    @property
    def words(self) -> str:
        """Behind a load: ", bridged"; nothing for single channels."""
        return {Mode.BRIDGED: ", bridged", Mode.STRAPPED: ", strapped"}.get(self, "")


class Driven(StrEnum):
    """Channels of a chassis that give a rating's watts at once."""

    ALL = "all"
    """As amplifiers are rated by CTA-2006 (from memory)."""
    ONE = "one"
    """One alone: all at once give less, since they share a supply."""


class Rating(Frozen):
    """Promise of the maker: watts at a load in a mode."""

    model_config = labelled(
        "Amplifier’s rating",
        power_w="watts",
        load_ohm="load",
        mode="mode",
        supply_v="supply",
        distortion_percent="distortion",
        driven="channels driven",
    )
    power_w: Watts
    load_ohm: Ohms
    mode: Mode = Mode.PER_CHANNEL
    supply_v: Annotated[float, Field(ge=6, le=60)] | None = None
    """The supply it is promised at, where the maker says so."""
    distortion_percent: Annotated[float, Field(gt=0, le=20)] | None = None
    """The distortion it is promised at, where the maker says so."""
    driven: Driven = Driven.ALL

    @property
    def words(self) -> str:
        """
        As it stands on the data sheet.

        >>> Rating(power_w=150, load_ohm=4, mode=Mode.BRIDGED, supply_v=14.4).words
        '150 W into 4 Ω, bridged, at 14.4 V'
        """
        told = f"{format_value(self.power_w, 'W')} into {format_value(self.load_ohm, 'Ω')}{self.mode.words}"
        if self.distortion_percent:
            told += f", {self.distortion_percent:g} % distortion"
        if self.driven is Driven.ONE:
            told += ", one channel driven"
        return told + (f", at {format_value(self.supply_v, 'V')}" if self.supply_v else "")


class ScaleOf(StrEnum):
    """Full output that the volts printed around a gain mean."""

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
    """Full output for these volts."""

    @model_validator(mode="after")
    def _order(self) -> Self:
        if self.down_v <= self.up_v:
            raise BadInput("the volts at fully down must be more than those at fully up")
        return self


class InputLevel(StrEnum):
    """Kind of an amplifier's input."""

    LOW = "low"
    HIGH = "high"


class Routing(StrEnum):
    """Where an input routing switch takes a pair's signal from."""

    OWN = "own"
    """Its own inputs."""
    SHARED = "shared"
    """The inputs of the amplifier's first pair."""


class Housing(StrEnum):
    """Where an amplifier sits."""

    ITS_OWN = "own"
    """In a case of its own."""
    SOURCE = "source"
    """Inside the source, or a factory amplifier: the volume sets it, there is no gain to turn."""
    SPEAKER = "speaker"
    """Inside an active speaker: its terminals can't be reached."""


class NoiseAt(StrEnum):
    """Output that an amplifier's signal-to-noise ratio refers to."""

    RATED_OUTPUT = "rated_output"
    ONE_WATT = "one_watt"
    """1 W into 4 ohm."""


class BassKnob(Frozen):
    """A remote level knob: what it makes of the signal at either end."""

    model_config = labelled(
        "Remote level knob", lowest_db="fully down", highest_db="fully up", stands_db="where it is left"
    )
    lowest_db: Annotated[float, Field(ge=-80, le=0)] = -20.0
    highest_db: Annotated[float, Field(ge=0, le=24)] = 0.0
    """Above zero it lifts what a gain set with it unplugged allows for."""
    stands_db: Annotated[float, Field(ge=-80, le=24)] = 0.0
    """Its place while the gain is set."""

    @model_validator(mode="after")
    def _inside(self) -> Self:
        if not self.lowest_db <= self.stands_db <= self.highest_db:
            raise BadInput("where the knob is left must lie between its ends", "stands_db")
        return self


class Section(Frozen):
    """
    A channel pair or a mono channel of an amplifier that has several.

    A missing figure is the amplifier's own: a four-channel amplifier's ratings are written once.
    """

    model_config = labelled(
        "Amplifier’s section",
        id="id",
        name="name",
        channels="channels",
        ratings="ratings",
        lowest_load_ohm="lowest load",
        gain_range="gain scale",
        high_level_range="high-level input’s scale",
        highest_input_v="highest input",
        highest_high_level_v="highest high-level input",
    )
    id: Key
    name: Name = ""
    channels: Literal[1, 2] | None = None
    ratings: Annotated[tuple[Rating, ...], Field(max_length=8)] = ()
    lowest_load_ohm: Ohms | None = None
    gain_range: GainRange | None = None
    high_level_range: GainRange | None = None
    highest_input_v: Volts | None = None
    highest_high_level_v: Volts | None = None

    @property
    def own(self) -> dict[str, object]:
        """Signs that it gives on its own."""
        fields = ("channels", "ratings", "lowest_load_ohm", *_INPUT_FIELDS)
        return {field: value for field in fields if (value := getattr(self, field)) not in (None, ())}


_INPUT_FIELDS = ("gain_range", "high_level_range", "highest_input_v", "highest_high_level_v")


class Amplifier(Frozen):
    """A chassis with its sections; without any it is one channel pair or a mono channel itself."""

    model_config = labelled(
        "Amplifier",
        id="id",
        name="name",
        channels="channels",
        ratings="ratings",
        lowest_load_ohm="lowest load",
        gain_range="gain scale",
        gain_printed="volts printed around the gain",
        high_level_range="high-level input’s scale",
        highest_input_v="highest input",
        highest_high_level_v="highest high-level input",
        clip_lamp="clip light",
        limiter="limiter",
        regulated="regulated supply",
        routing="input routing",
        bass_knob="remote level knob",
        signal_to_noise_db="signal-to-noise ratio",
        signal_to_noise_at="ratio refers to",
        place="where it sits",
        turn_on="turn-on",
        sections="sections",
    )
    id: Key
    name: Name = ""
    channels: Literal[1, 2] = 2
    """Of each of its sections."""
    ratings: Annotated[tuple[Rating, ...], Field(max_length=8)] = ()
    lowest_load_ohm: Ohms | None = None
    """The least that one channel may see."""
    gain_range: GainRange | None = None
    """Of the low-level input; None when it is neither printed nor in the data sheet."""
    gain_printed: bool = True
    """Whether volts are printed around the knob; bare, only its position can be known."""
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
    routing: Routing | None = None
    """Position of its input routing switch; None when it has none."""
    bass_knob: BassKnob | None = None
    """Its remote level knob; None when there is none, or it is unplugged."""
    signal_to_noise_db: SignalToNoise | None = None
    """With its gain fully down; None where the maker doesn't say."""
    signal_to_noise_at: NoiseAt = NoiseAt.RATED_OUTPUT
    place: Housing = Housing.ITS_OWN
    turn_on: TurnOn = TurnOn.LEAD
    sections: Annotated[tuple[Section, ...], Field(max_length=8)] = ()
    """Its channel pairs and mono channels, where it has more than one; they share supply and routing."""

    @property
    def all_channels(self) -> int:
        """Channels that share its supply: those of all its sections."""
        return sum(section.channels or self.channels for section in self.sections) or self.channels

    def section(self, wanted: str | None) -> "Amplifier":
        """One of its sections as an amplifier of its own; itself where it has none. Raises KeyError."""
        if wanted is None:
            return self
        for section in self.sections:
            if section.id == wanted:
                name = ", ".join(told for told in (self.name, section.name) if told)
                return self.model_copy(update={"name": name, **section.own})
        raise KeyError(wanted)

    def range_of(self, level: InputLevel) -> GainRange | None:
        """The range of one of its inputs."""
        return self.high_level_range if level is InputLevel.HIGH else self.gain_range

    def highest_of(self, level: InputLevel) -> float | None:
        """The most that one of its inputs takes, volts RMS."""
        return self.highest_high_level_v if level is InputLevel.HIGH else self.highest_input_v
