"""Paths: what joins an output of a source to speakers, and everything that is set for it on the way."""

from typing import Annotated

from pydantic import Field

from upper_rook.core.common.labels import labelled
from upper_rook.core.common.units import Frozen, Key, Name
from upper_rook.core.signal.filters import ChannelFilter, Crossover, EqualiserBand, Pass, SwitchPosition
from upper_rook.core.system.amplifier import InputLevel, Mode
from upper_rook.core.system.choices import OwnChoices
from upper_rook.core.system.playing import Side

Distance = Annotated[float, Field(ge=1, le=3000)]
"""Centimetres from a speaker to the seat."""


class SideTrim(Frozen):
    """Settings of a processor for one side of a pair, beyond those for both."""

    model_config = labelled(
        "Side", gain_db="gain", delay_ms="delay", inverted="polarity", distance_cm="distance to the seat"
    )
    gain_db: Annotated[float, Field(ge=-40, le=12)] = 0.0
    delay_ms: Annotated[float, Field(ge=0, le=100)] = 0.0
    inverted: bool = False
    distance_cm: Distance | None = None
    """From this side's speaker to the seat; None where both sides are as far."""

    @property
    def is_flat(self) -> bool:
        """Whether it does nothing."""
        return not (self.gain_db or self.delay_ms or self.inverted)

    @property
    def untrimmed(self) -> "SideTrim":
        """The side without what a processor does to it."""
        return SideTrim(distance_cm=self.distance_cm)


class Path(Frozen):
    """Joins one source output pair to one load by one amplifier channel pair."""

    model_config = labelled(
        "Path",
        id="id",
        name="name",
        source="source",
        output="source’s output",
        also="outputs summed with it",
        through="converter or processor",
        converter_output="converter’s output",
        amplifier="amplifier",
        section="amplifier’s section",
        input="amplifier’s input",
        leads="signal leads (RCA)",
        mode="channels used",
        own="own methods",
        wanted_v="typed target",
        wanted_from="source of the typed target",
        load="speakers",
        group="group",
        inverted="polarity",
        delay_ms="delay",
        distance_cm="distance to the seat",
        channel_gain_db="channel gain",
        left="left side",
        right="right side",
        equaliser="equaliser",
        boost="boost",
        filter_switch="filter switch",
        filters="filters",
    )
    id: Key
    name: Name = ""
    source: Key
    output: Key
    """Output of the source."""
    also: Annotated[tuple[Key, ...], Field(max_length=3)] = ()
    """Further outputs of it that are summed with that one: left and right into mono, or divided taps."""
    through: Annotated[tuple[Key, ...], Field(max_length=4)] = ()
    """Converters and processors on the way, the first after the source first."""
    converter_output: Name = ""
    """Name of the converter's output that it uses, as printed beside the plug; paths of one name share its trim."""
    amplifier: Key
    section: Key | None = None
    """Section of the amplifier; None when it has no sections."""
    input: InputLevel = InputLevel.LOW
    """Input of the amplifier."""
    leads: Annotated[int, Field(ge=0, le=2)] | None = None
    """Signal leads plugged into this pair; None while nobody has counted."""
    mode: Mode = Mode.PER_CHANNEL
    own: OwnChoices = OwnChoices()
    """Methods in which it doesn't follow the job."""
    wanted_v: Annotated[float, Field(ge=0.1, le=200)] | None = None
    """Target volts at its whole load, where somebody gives them; None where they are worked out."""
    wanted_from: Name = ""
    """Where that figure is from: the speakers' maker, a measurement, a colleague."""
    load: Key
    group: Name = ""
    """Group that it sounds together with: the ways of a front have one group. A sub joins every group."""
    inverted: bool = False
    """Whether its polarity is turned."""
    delay_ms: Annotated[float, Field(ge=0, le=100)] = 0.0
    """How much later than the others it is set to play."""
    distance_cm: Distance | None = None
    """From its speakers to the seat; None while nobody has measured it."""
    channel_gain_db: Annotated[float, Field(ge=-60, le=24)] = 0.0
    """The processor's gain for this path."""
    left: SideTrim = SideTrim()
    right: SideTrim = SideTrim()
    equaliser: Annotated[tuple[EqualiserBand, ...], Field(max_length=31)] = ()
    """The processor's bands for this path."""
    boost: EqualiserBand | None = None
    """The amplifier's boost, unless it is at zero."""
    filter_switch: SwitchPosition | None = None
    """Position of the amplifier's filter switch; None when it has none."""
    filters: Annotated[tuple[ChannelFilter, ...], Field(max_length=8)] = ()
    """Every filter on the way, the amplifier's idle ones included."""

    def delay_of(self, side: Side) -> float:
        """Milliseconds that a side is set to play later."""
        return self.delay_ms + self._trim(side).delay_ms

    def distance_of(self, side: Side) -> float | None:
        """Centimetres from a side's speakers to the seat; None while nobody has measured it."""
        own = self._trim(side).distance_cm
        return self.distance_cm if own is None else own

    def inverted_of(self, side: Side) -> bool:
        """Whether the polarity of a side is turned."""
        return self.inverted is not self._trim(side).inverted

    def _trim(self, side: Side) -> SideTrim:
        return self.left if side is Side.LEFT else self.right

    @property
    def louder(self) -> Side:
        """The side of a pair that its trims leave the louder: the gain is set on it."""
        return Side.RIGHT if self.right.gain_db > self.left.gain_db else Side.LEFT

    @property
    def gain_db(self) -> float:
        """The processor's gain on the louder side."""
        return self.channel_gain_db + max(self.left.gain_db, self.right.gain_db)

    @property
    def sides_apart_db(self) -> float:
        """How much less the trims leave of the softer side."""
        return abs(self.left.gain_db - self.right.gain_db)

    def works(self, channel_filter: ChannelFilter) -> bool:
        """Whether a filter of this path is in the signal with the filter switch where it is."""
        return not (
            channel_filter.active_in and self.filter_switch and self.filter_switch not in channel_filter.active_in
        )

    @property
    def working(self) -> tuple[ChannelFilter, ...]:
        """The filters that are in the signal."""
        if self.filter_switch is None:
            return self.filters
        return tuple(channel_filter for channel_filter in self.filters if self.works(channel_filter))

    def passes(self, kind: Pass) -> tuple[Crossover, ...]:
        """The high-passes or the low-passes that are in the signal."""
        return tuple(
            channel_filter.crossover for channel_filter in self.working if channel_filter.crossover.kind is kind
        )
