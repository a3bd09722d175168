"""The system: sources, amplifiers and loads, and the paths that join them; and the sheet of a job that holds it."""

from enum import StrEnum
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

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


class Rating(Frozen):
    """What the maker promises: watts at a load in a mode."""

    power_w: Watts
    load_ohm: Ohms
    mode: Mode = Mode.PER_CHANNEL


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


class Choices(Frozen):
    """Which school is followed where practitioners disagree."""

    allowance_percent: Annotated[float, Field(ge=-50, le=100)] = 0.0
    """Deliberate allowance on the speaker's rating."""
    tone_level_dbfs: ToneLevel = 0.0
    """Level of the tone the gain is set with; below 0 it leaves that much overlap."""
    sub_tone_hz: Hertz = 50.0
    full_tone_hz: Hertz = 1000.0


class Chain(Frozen):
    """Every part of one vehicle's system and the paths through it."""

    sources: Annotated[tuple[Source, ...], Field(min_length=1, max_length=8)]
    amplifiers: Annotated[tuple[Amplifier, ...], Field(min_length=1, max_length=16)]
    loads: Annotated[tuple[Load, ...], Field(min_length=1, max_length=64)]
    paths: Annotated[tuple[Path, ...], Field(min_length=1, max_length=64)]

    @model_validator(mode="after")
    def _joined(self) -> Self:
        for kind in ("sources", "amplifiers", "loads", "paths"):
            ids = [part.id for part in getattr(self, kind)]
            if len(set(ids)) != len(ids):
                raise ValueError(f"two of the {kind} have the same id")
        for path in self.paths:
            for kind, wanted in (("sources", path.source), ("amplifiers", path.amplifier), ("loads", path.load)):
                if wanted not in {part.id for part in getattr(self, kind)}:
                    raise ValueError(f"path “{path.id}” names “{wanted}”, which is not among the {kind}")
        return self

    def source_of(self, path: Path) -> Source:
        """The source that feeds `path`."""
        return next(part for part in self.sources if part.id == path.source)

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
