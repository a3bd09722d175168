"""Where a probe sits."""

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field

from upper_rook.core.common.units import Frozen, Key, Name
from upper_rook.core.system.playing import Side


class OutputPoint(Frozen):
    """An output of a source."""

    kind: Literal["output"] = "output"
    source: Key
    output: Key
    side: Side | None = None
    """None where the sides are not distinguished."""


class ProcessorPoint(Frozen):
    """The output of a converter or processor on a path."""

    kind: Literal["processor"] = "processor"
    processor: Key
    path: Key
    side: Side | None = None


class Terminals(StrEnum):
    """Terminals of an amplifier section."""

    LEFT = "left"
    RIGHT = "right"
    BRIDGE = "bridge"
    OWN = "own"
    """One of two strapped amplifiers: its own output."""
    OTHER = "other"
    """The other of the two."""


class TerminalsPoint(Frozen):
    """The speaker terminals of the amplifier section that drives a path."""

    kind: Literal["terminals"] = "terminals"
    path: Key
    terminals: Terminals


class WirePoint(Frozen):
    """A factory wire, by the name it was given."""

    kind: Literal["wire"] = "wire"
    wire: Name


class SupplyPoint(Frozen):
    """The amplifier's supply."""

    kind: Literal["supply"] = "supply"


Point = Annotated[OutputPoint | ProcessorPoint | TerminalsPoint | WirePoint | SupplyPoint, Field(discriminator="kind")]
