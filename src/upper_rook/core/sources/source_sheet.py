"""A source sheet: a source's outputs, and of every unit measured where it is clean and what its settings cost."""

from collections.abc import Iterator
from datetime import date
from itertools import pairwise
from typing import Annotated, Literal, NamedTuple, Self

from pydantic import Field, model_validator

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.labels import labelled
from upper_rook.core.common.stated import Stated
from upper_rook.core.common.units import Frozen, Hertz, Key, Name, Text, Volts
from upper_rook.core.system.clean_maximum import Basis, Number, VolumeReading
from upper_rook.core.system.playing import InputKind, Side
from upper_rook.core.system.source import OutputKind, Sides, SourceKind, TopVolume

FORMAT: Literal[1] = 1
_FALLS = 0.97
"""Below this share of the volts before, a higher number gives less: more than any meter's scatter (common practice)."""


class SheetOutput(Frozen):
    """An output, as its maker states it."""

    model_config = labelled("Output", id="id", name="name", kind="kind", sides="sides", rated="stated output")
    id: Key
    name: Name = ""
    kind: OutputKind = OutputKind.LINE
    sides: Sides = Sides.PAIR
    rated: Stated = Stated()


class OtherSetting(Frozen):
    """A fader, a phone's volume, a tone control or another setting that was moved from how it is usually left."""

    model_config = labelled("Setting", setting="setting", value="value as shown")
    setting: Annotated[Name, Field(min_length=1)]
    value: Name = ""


class Settings(NamedTuple):
    """The settings that a clean maximum holds with, as the source shows them; empty ones are as they are left."""

    trim: str = ""
    sub_level: str = ""
    others: tuple[OtherSetting, ...] = ()

    @property
    def words(self) -> str:
        """
        Each setting with its value; "" where all are as they are left.

        >>> Settings("+3", "", (OtherSetting(setting="Fader", value="R 3"),)).words
        'trim +3, fader R 3'
        """
        told = (
            f"trim {self.trim}" if self.trim else "",
            f"sub level {self.sub_level}" if self.sub_level else "",
            *(f"{setting.setting[:1].lower()}{setting.setting[1:]} {setting.value}".strip() for setting in self.others),
        )
        return ", ".join(text for text in told if text)


class Spot(NamedTuple):
    """Cell of the matrix: its output, the way it is played, and the settings it holds with."""

    output: str
    side: Side | None
    way: InputKind | None
    tone_hz: float
    settings: Settings


class Cell(Frozen):
    """
    The clean maximum at one output, by one way of playing, at one tone, with its trims as they stood.

    Settings are kept as the source shows them, numbers or names: nobody converts them by guess.
    """

    model_config = labelled(
        "Clean maximum",
        output="output",
        side="side",
        way="way of playing",
        tone_hz="tone",
        trim="trim as shown",
        sub_level="sub level as shown",
        others="other settings",
        clean="clean maximum",
        clean_v="volts there",
        doubt_v="doubt of the volts",
        clipped="first clipped number",
        rungs="readings",
        basis="evidence",
        taken_on="date",
        by="by",
        taken_over="copied from another",
    )
    output: Key
    side: Side | None = None
    way: InputKind | None = None
    tone_hz: Hertz = 1000.0
    trim: Name = ""
    sub_level: Name = ""
    others: Annotated[tuple[OtherSetting, ...], Field(max_length=8)] = ()
    clean: Number
    clean_v: Volts | None = None
    doubt_v: Annotated[float, Field(ge=0, le=1000)] | None = None
    """At about 95 %."""
    clipped: Number | None = None
    volume_readings: Annotated[tuple[VolumeReading, ...], Field(max_length=200, alias="rungs")] = ()
    basis: Basis = Basis.MARKED
    taken_on: date | None = None
    by: Name = ""
    taken_over: bool = False
    """Whether it was not measured but follows another that was."""

    @property
    def settings(self) -> Settings:
        """The settings that it holds with."""
        return Settings(self.trim, self.sub_level, self.others)

    @property
    def spot(self) -> Spot:
        """Its place in the matrix."""
        return Spot(self.output, self.side, self.way, self.tone_hz, self.settings)

    @model_validator(mode="after")
    def _sound(self) -> Self:
        if self.clipped is not None and self.clean >= self.clipped:
            raise BadInput(
                f"it is said to be clean at {self.clean} and clipped at {self.clipped}: one of them is wrong", "clean"
            )
        own = sorted(
            (reading for reading in self.volume_readings if reading.volume <= self.clean),
            key=lambda reading: reading.volume,
        )
        for low, high in pairwise(own):
            if low.volume == high.volume:
                raise BadInput(f"{low.volume} was read twice: keep one reading", "rungs")
            if high.voltage_v < _FALLS * low.voltage_v:
                raise BadInput(
                    f"the volts fall from {low.voltage_v:g} at {low.volume} to {high.voltage_v:g} at {high.volume}, "
                    "where it is said to be clean: read these two again",
                    "rungs",
                )
        return self


class Tried(Frozen):
    """One setting with and without, at the same volume number."""

    model_config = labelled(
        "Setting tried",
        setting="setting",
        value="value as shown",
        output="output",
        way="way of playing",
        volume="number",
        without_v="volts without",
        with_v="volts with",
        clean_without="clean maximum without",
        clean_with="clean maximum with",
    )
    setting: Annotated[Name, Field(min_length=1)]
    value: Name = ""
    output: Key
    way: InputKind | None = None
    volume: Number
    without_v: Volts
    with_v: Volts
    clean_without: Number | None = None
    clean_with: Number | None = None


class Unit(Frozen):
    """One unit of the source, as it was measured."""

    model_config = labelled("Unit", id="id", name="name", top_volume="end of the volume scale", note="note")
    id: Key
    name: Name = ""
    """Mark that distinguishes it from other units: the vehicle, a serial number."""
    top_volume: TopVolume | None = None
    """Where its own scale ends; None where that is the sheet's."""
    note: Text = ""
    cells: Annotated[tuple[Cell, ...], Field(max_length=400)] = ()
    tried: Annotated[tuple[Tried, ...], Field(max_length=100)] = ()

    @property
    def measured_on(self) -> date | None:
        """The day of its newest clean maximum."""
        return max((cell.taken_on for cell in self.cells if cell.taken_on), default=None)


class SourceSheet(Frozen):
    """Sheet of one model of a source."""

    model_config = labelled(
        "Source sheet",
        format="format",
        name="name",
        kind="kind",
        top_volume="end of the volume scale",
        outputs="outputs",
        units="units",
        note="note",
    )
    format: Literal[1] = FORMAT
    name: Annotated[Name, Field(min_length=1)]
    kind: SourceKind = SourceKind.RECEIVER
    top_volume: TopVolume
    outputs: Annotated[tuple[SheetOutput, ...], Field(min_length=1, max_length=8)]
    units: Annotated[tuple[Unit, ...], Field(max_length=64)] = ()
    note: Text = ""

    @model_validator(mode="after")
    def _fits(self) -> Self:
        known = {output.id for output in self.outputs}
        if len(known) < len(self.outputs):
            raise BadInput("two outputs have the same id: give each its own", "outputs")
        if len({unit.id for unit in self.units}) < len(self.units):
            raise BadInput("two units have the same id: give each its own", "units")
        for number, unit in enumerate(self.units):
            for place, sentence in _unfit(unit, known, self.top_volume):
                raise BadInput(sentence, f"units.{number}.{place}")
        return self

    def output_of(self, cell: Cell) -> SheetOutput:
        """The output that a cell is of."""
        return next(output for output in self.outputs if output.id == cell.output)

    def is_line(self, cell: Cell) -> bool:
        """Whether a cell is of a line output."""
        return self.output_of(cell).kind is OutputKind.LINE

    def unit(self, key: str | None = None) -> Unit | None:
        """The unit of that id; without one the one measured last."""
        if key is not None:
            return next((unit for unit in self.units if unit.id == key), None)
        return max(self.units, key=lambda unit: unit.measured_on or date.min, default=None)


def _unfit(unit: Unit, outputs: set[str], top_volume: int) -> Iterator[tuple[str, str]]:
    """Measurements of a unit that don't belong to this source: their places and reasons."""
    if unit.top_volume not in (None, top_volume):
        yield (
            "top_volume",
            f"this unit’s scale ends at {unit.top_volume}, the sheet’s at {top_volume}: it is another model or another "
            "version, so give it a sheet of its own",
        )
    seen: set[Spot] = set()
    for number, cell in enumerate(unit.cells):
        place = f"cells.{number}"
        if cell.output not in outputs:
            yield f"{place}.output", f"“{cell.output}” is no output of this source"
        highest = max(cell.clean, *(reading.volume for reading in cell.volume_readings), cell.clipped or 0)
        if highest > top_volume:
            yield f"{place}.clean", f"{highest} is beyond the end of the scale, {top_volume}"
        if cell.spot in seen:
            yield place, "the same output, way, tone and settings appear twice: keep one"
        seen.add(cell.spot)
    for number, tried in enumerate(unit.tried):
        if tried.output not in outputs:
            yield f"tried.{number}.output", f"“{tried.output}” is no output of this source"
