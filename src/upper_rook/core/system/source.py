"""Sources: what they are, their outputs, the ways of playing and the tone settings that move their clean maximum."""

from enum import StrEnum
from typing import Annotated, Self

from pydantic import Field, model_validator

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.labels import labelled
from upper_rook.core.common.stated import Stated
from upper_rook.core.common.units import Frozen, Hertz, Key, Name, SignalToNoise, format_signed, from_db
from upper_rook.core.system.from_sheet import FromSheet
from upper_rook.core.system.playing import TONELESS, InputKind
from upper_rook.core.system.plug import Plug

TopVolume = Annotated[int, Field(ge=4, le=200)]
ToneStep = Annotated[float, Field(ge=-20, le=20)]


class SourceKind(StrEnum):
    """Kind of a source."""

    RECEIVER = "receiver"
    """A receiver with line outputs."""
    AMPLIFIED = "amplified"
    """A receiver with its own amplifier, whose speaker outputs are used as well."""
    FACTORY = "factory"
    """A factory radio or factory amplifier with speaker-level outputs."""
    PLAYER = "player"
    """A portable player, straight into the system."""


class OutputKind(StrEnum):
    """Kind of an output's signal."""

    LINE = "line"
    SPEAKER = "speaker"
    """Speaker level: no ground side."""
    DIGITAL = "digital"
    """Numbers instead of volts: full scale is whatever the processor behind it gives at most."""


class Sides(StrEnum):
    """Sides that an output carries."""

    PAIR = "pair"
    LEFT = "left"
    RIGHT = "right"
    MONO = "mono"


class Output(Frozen):
    """One output of a source, a left and right pair unless it says otherwise."""

    model_config = labelled(
        "Source’s output",
        id="id",
        name="name",
        kind="kind",
        sides="sides",
        rated="rated output",
        level_db="own level",
        lowest_hz="carries from",
        highest_hz="carries up to",
    )
    id: Key
    name: Name = ""
    kind: OutputKind = OutputKind.LINE
    sides: Sides = Sides.PAIR
    rated: Stated = Stated()
    """As the maker states it, at full volume."""
    level_db: Annotated[float, Field(ge=-40, le=24)] = 0.0
    """A level of its own, such as a sub level, in dB from where its rated volts hold."""
    lowest_hz: Hertz | None = None
    """Band that it carries, where it isn't everything: a factory amplifier's taps are often divided."""
    highest_hz: Hertz | None = None

    @model_validator(mode="after")
    def _order(self) -> Self:
        if self.lowest_hz and self.highest_hz and self.lowest_hz >= self.highest_hz:
            raise BadInput("it must carry from a lower frequency than up to which it carries", "lowest_hz")
        return self

    @property
    def expected_v(self) -> float | None:
        """Its rated volts with its own level; None while they aren't known."""
        return self.rated.v * from_db(self.level_db) if self.rated.v is not None else None

    @property
    def clean_v(self) -> float | None:
        """The most it gives clean by its rating: its output stage gives no more, however far its level is raised."""
        return self.rated.v * from_db(min(0.0, self.level_db)) if self.rated.v is not None else None


class PlayingInput(Frozen):
    """A way of playing that the customer will use, with its own level trim."""

    model_config = labelled(
        "Way of playing",
        kind="kind",
        trim_db="level trim",
        player="player",
    )
    kind: InputKind
    trim_db: Annotated[float, Field(ge=-24, le=24)] = 0.0
    player: Name = ""
    """The phone, stick or disc that it was measured with."""


class ToneSettings(Frozen):
    """Sound settings of the source. Each moves the clean maximum, so each belongs at zero or off."""

    model_config = labelled(
        "Source, tone settings",
        bass="bass",
        mid="mid",
        treble="treble",
        loudness="loudness",
        expander="expander or leveller",
        fader="fader",
        balance="balance",
        sub_level="sub level",
    )
    bass: ToneStep = 0.0
    mid: ToneStep = 0.0
    treble: ToneStep = 0.0
    loudness: bool = False
    expander: bool = False
    """Any sound improver, expander or leveller."""
    fader: ToneStep = 0.0
    """Steps to the front (above 0) or to the rear."""
    balance: ToneStep = 0.0
    """Steps to the right (above 0) or to the left."""
    sub_level: ToneStep | None = None
    """As the source shows it; None when it has none."""

    @property
    def unflat(self) -> tuple[str, ...]:
        """Everything that is not at zero or off, in words. The sub level only has to be known."""
        moved = (
            (self.bass, "bass"),
            (self.mid, "mid"),
            (self.treble, "treble"),
            (self.fader, "fader"),
            (self.balance, "balance"),
        )
        lit = ((self.loudness, "loudness on"), (self.expander, "expander or leveller on"))
        away = (f"{name} at {format_signed(value)}" for value, name in moved if value)
        return (*away, *(name for on, name in lit if on))


class Source(Frozen):
    """Where the music comes from."""

    model_config = labelled(
        "Source",
        id="id",
        name="name",
        kind="kind",
        top_volume="end of the volume scale",
        outputs="outputs",
        inputs="ways of playing",
        tone="tone settings",
        keeps_settings="keeps its settings",
        signal_to_noise_db="signal-to-noise ratio",
        from_sheet="from its sheet",
        plugs="plugs",
    )
    id: Key
    name: Name = ""
    kind: SourceKind = SourceKind.RECEIVER
    top_volume: TopVolume
    """The highest number on its volume scale."""
    outputs: Annotated[tuple[Output, ...], Field(min_length=1, max_length=8)]
    inputs: Annotated[tuple[PlayingInput, ...], Field(max_length=8)] = ()
    """The ways of playing that the customer will use."""
    tone: ToneSettings = ToneSettings()
    keeps_settings: bool = True
    """Whether what was set stays set; some forget a level when the power was off."""
    signal_to_noise_db: SignalToNoise | None = None
    """Below its clean volts; None where the maker doesn't say."""
    from_sheet: FromSheet | None = None
    """Measurements of another unit, where it was taken from the library."""
    plugs: Annotated[tuple[Plug, ...], Field(max_length=8)] = ()
    """Of a factory system: the plugs whose wires are looked for."""

    @property
    def played(self) -> tuple[PlayingInput, ...]:
        """The ways that a tone is played by; all of them where none does."""
        return tuple(playing for playing in self.inputs if playing.kind not in TONELESS) or self.inputs
