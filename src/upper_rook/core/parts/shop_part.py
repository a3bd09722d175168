"""A part that the shop knows: its data sheet, and of every vehicle it was measured in what it really gave."""

from datetime import date
from enum import StrEnum
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from upper_rook.core.common.units import Frozen, Key, Name, Text
from upper_rook.core.system.amplifier import Amplifier
from upper_rook.core.system.loads import Load
from upper_rook.core.system.processor import Processor

FORMAT: Literal[1] = 1


class PartKind(StrEnum):
    """Kind of a part."""

    AMPLIFIER = "amplifier"
    PROCESSOR = "processor"
    SPEAKERS = "speakers"


class FigureKind(StrEnum):
    """Kind of a measured figure."""

    OPEN_WATTS = "open_watts"
    """Reckoned from the highest clean volts with nothing at the terminals, less what the load takes by the ratings."""
    LOADED_WATTS = "loaded_watts"
    """Highest clean volts with load resistors on every channel, as watts into them."""
    GAIN_SCALE = "gain_scale"
    """Volts for full output where the gain stood, beside those that its scale says there."""
    DIAL = "dial"
    """Corner of a filter, beside the hertz that its dial says."""

    @property
    def unit(self) -> str:
        """Symbol of its values."""
        return {FigureKind.GAIN_SCALE: "V", FigureKind.DIAL: "Hz"}.get(self, "W")


class PartFigure(Frozen):
    """A figure that was measured, beside what the part says of itself."""

    kind: FigureKind
    at: Name
    """Condition: "into 4 Ω", "low-pass at 80 Hz"."""
    stated: Annotated[float, Field(gt=0)] | None
    """By the data sheet, the scale or the dial; None where it says nothing."""
    measured: Annotated[float, Field(gt=0)]
    doubt: Annotated[float, Field(ge=0)] | None
    """Expanded, at about 95 %; None where the instrument promises nothing."""
    taken_on: date
    by: Name = ""


class PartUnit(Frozen):
    """One unit of the part, as it was measured in a vehicle."""

    id: Key
    name: Name = ""
    """Vehicle."""
    figures: Annotated[tuple[PartFigure, ...], Field(min_length=1, max_length=60)]


class ShopPart(Frozen):
    """An amplifier, a processor or speakers by their data sheet, and the units that were measured."""

    format: Literal[1] = FORMAT
    amplifier: Amplifier | None = None
    processor: Processor | None = None
    speakers: Load | None = None
    note: Text = ""
    units: Annotated[tuple[PartUnit, ...], Field(max_length=200)] = ()

    @model_validator(mode="after")
    def _one_part(self) -> Self:
        if sum(part is not None for part in (self.amplifier, self.processor, self.speakers)) != 1:
            raise ValueError("a part is an amplifier, a processor or speakers: exactly one of them")
        if len({unit.id for unit in self.units}) < len(self.units):
            raise ValueError("two units have the same id")
        return self

    @property
    def kind(self) -> PartKind:
        """Kind of the part."""
        if self.amplifier is not None:
            return PartKind.AMPLIFIER
        return PartKind.PROCESSOR if self.processor is not None else PartKind.SPEAKERS

    @property
    def stated(self) -> Amplifier | Processor | Load:
        """The part by its data sheet."""
        part = self.amplifier or self.processor or self.speakers
        if part is None:
            raise ValueError("a part is an amplifier, a processor or speakers")
        return part

    @property
    def name(self) -> str:
        """Name of the part."""
        return self.stated.name

    @property
    def measured_on(self) -> date | None:
        """The day of the newest figure."""
        return max((figure.taken_on for unit in self.units for figure in unit.figures), default=None)


def with_unit(part: ShopPart, unit: PartUnit) -> ShopPart:
    """The part with a unit that was measured; measured again it takes the former one's place."""
    others = tuple(known for known in part.units if known.id != unit.id)
    return ShopPart.model_validate(part.model_dump() | {"units": [other.model_dump() for other in (*others, unit)]})
