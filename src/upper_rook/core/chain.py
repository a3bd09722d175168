"""The system: sources, amplifiers and loads, and the paths that join them; and the sheet of a job that holds it."""

from enum import StrEnum
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from upper_rook.core.filters import ChannelFilter, EqualiserBand
from upper_rook.core.loads import Load
from upper_rook.core.tones import ToneLevel
from upper_rook.core.units import Frozen, Hertz, Key, Name, Ohms, Text, Volts, Watts

TopVolume = Annotated[int, Field(ge=4, le=200)]


class Source(Frozen):
    """A receiver with line outputs."""

    id: Key
    name: Name = ""
    rated_output_v: Volts
    """Line output as the maker states it, RMS at full volume."""
    top_volume: TopVolume
    """The highest number on its volume scale."""


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


class ProcessorKind(StrEnum):
    """What sits between source and amplifier."""

    CONVERTER = "converter"
    """A line-output converter, whose output is trimmed."""
    PROCESSOR = "processor"
    """A digital processor, with gains and an equaliser for each channel."""


class Processor(Frozen):
    """A line-output converter or a processor, by its data sheet."""

    id: Key
    name: Name = ""
    kind: ProcessorKind = ProcessorKind.PROCESSOR
    highest_input_v: Volts
    """The most its input takes, RMS."""
    highest_output_v: Volts
    """The most it gives clean, RMS."""


class ConverterOutput(StrEnum):
    """To what a converter's output is trimmed."""

    LOW = "1.5"
    """1.5 V, which every amplifier accepts."""
    MIDDLE = "2"
    CLEAN = "clean"
    """As high as it stays clean and the amplifier's input takes: the least noise."""


class Rating(Frozen):
    """What the maker promises: watts at a load in a mode."""

    power_w: Watts
    load_ohm: Ohms
    mode: Mode = Mode.PER_CHANNEL
    supply_v: Annotated[float, Field(ge=6, le=60)] | None = None
    """The supply it is promised at, where the maker says so."""


class GainRange(Frozen):
    """The gain control's printed range: the input volts that give full output at either end."""

    down_v: Volts
    """Printed at fully down (the larger number)."""
    up_v: Volts
    """Printed at fully up (the smaller number)."""

    @model_validator(mode="after")
    def _order(self) -> Self:
        if self.down_v <= self.up_v:
            raise ValueError("the volts printed at fully down must be more than those at fully up")
        return self


class Amplifier(Frozen):
    """A channel pair of an amplifier."""

    id: Key
    name: Name = ""
    ratings: Annotated[tuple[Rating, ...], Field(min_length=1, max_length=8)]
    lowest_load_ohm: Ohms
    """The least that one channel may see."""
    gain_range: GainRange | None = None
    """None when nothing is printed around the knob."""
    clip_lamp: bool = False
    regulated: bool = False
    """Whether its output is independent of the supply voltage."""


class Path(Frozen):
    """Joins one source output pair to one load by one amplifier channel pair."""

    id: Key
    name: Name = ""
    source: Key
    amplifier: Key
    load: Key
    mode: Mode = Mode.PER_CHANNEL
    through: Annotated[tuple[Key, ...], Field(max_length=4)] = ()
    """Converters and processors on the way, the first after the source first."""
    channel_gain_db: Annotated[float, Field(ge=-60, le=24)] = 0.0
    """The processor's gain for this path."""
    equaliser: Annotated[tuple[EqualiserBand, ...], Field(max_length=31)] = ()
    """The processor's bands for this path."""
    filters: Annotated[tuple[ChannelFilter, ...], Field(max_length=8)] = ()


class Choices(Frozen):
    """Which school is followed where practitioners disagree."""

    allowance_percent: Annotated[float, Field(ge=-50, le=100)] = 0.0
    """Deliberate allowance on the speaker's rating."""
    tone_level_dbfs: ToneLevel = 0.0
    """Level of the tone the gain is set with; below 0 it leaves that much overlap."""
    sub_tone_hz: Hertz = 50.0
    full_tone_hz: Hertz = 1000.0
    converter_output: ConverterOutput = ConverterOutput.CLEAN


class Chain(Frozen):
    """Every part of one vehicle's system and the paths through it."""

    sources: Annotated[tuple[Source, ...], Field(min_length=1, max_length=8)]
    processors: Annotated[tuple[Processor, ...], Field(max_length=16)] = ()
    amplifiers: Annotated[tuple[Amplifier, ...], Field(min_length=1, max_length=64)]
    loads: Annotated[tuple[Load, ...], Field(min_length=1, max_length=64)]
    paths: Annotated[tuple[Path, ...], Field(min_length=1, max_length=64)]

    @model_validator(mode="after")
    def _joined(self) -> Self:
        for kind in ("sources", "processors", "amplifiers", "loads", "paths"):
            ids = [part.id for part in getattr(self, kind)]
            if len(set(ids)) != len(ids):
                raise ValueError(f"two of the {kind} have the same id")
        for path in self.paths:
            named = [("sources", path.source), ("amplifiers", path.amplifier), ("loads", path.load)]
            for kind, wanted in (*named, *(("processors", one) for one in path.through)):
                if wanted not in {part.id for part in getattr(self, kind)}:
                    raise ValueError(f"path “{path.id}” names “{wanted}”, which is not among the {kind}")
            if len(set(path.through)) != len(path.through):
                raise ValueError(f"path “{path.id}” goes through the same processor twice: a loop")
        for kind in ("amplifier", "load"):
            used = [getattr(path, kind) for path in self.paths]
            for part in used:
                if used.count(part) > 1:
                    raise ValueError(f"two paths end in {kind} “{part}”: give each its own channel pair and speakers")
        return self

    def source_of(self, path: Path) -> Source:
        """The source that feeds `path`."""
        return next(part for part in self.sources if part.id == path.source)

    def processors_of(self, path: Path) -> tuple[Processor, ...]:
        """What lies between source and amplifier, in order."""
        return tuple(next(part for part in self.processors if part.id == one) for one in path.through)

    def amplifier_of(self, path: Path) -> Amplifier:
        """The amplifier that drives `path`."""
        return next(part for part in self.amplifiers if part.id == path.amplifier)

    def load_of(self, path: Path) -> Load:
        """The speakers at the end of `path`."""
        return next(part for part in self.loads if part.id == path.load)


class JobSheet(Frozen):
    """What is known and chosen about one job: the document that is edited, versioned and exchanged."""

    format: Literal[1] = 1
    vehicle: Name = ""
    note: Text = ""
    chain: Chain
    choices: Choices = Choices()


def line_output_pair() -> Chain:
    """The simplest system with middling parts: a receiver, one channel pair, a pair of 4 ohm speakers."""
    return Chain(
        sources=(Source(id="source", rated_output_v=4.0, top_volume=40),),
        amplifiers=(
            Amplifier(
                id="amplifier",
                ratings=(Rating(power_w=75, load_ohm=4),),
                lowest_load_ohm=2,
                gain_range=GainRange(down_v=6.0, up_v=0.2),
            ),
        ),
        loads=(Load(id="front", impedance_ohm=4, power_w=60),),
        paths=(Path(id="front", name="Front", source="source", amplifier="amplifier", load="front"),),
    )
