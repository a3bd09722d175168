"""Plugs of a factory system: their pins, the colours of the wires, and what each wire is taken for."""

from enum import StrEnum
from typing import Annotated, Self

from pydantic import Field, StringConstraints, model_validator

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.labels import labelled
from upper_rook.core.common.units import Frozen, Key, Name

WireId = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9-]{0,29}$")]
"""Short enough that a reading of it still has a key."""
ShortName = Annotated[Name, Field(max_length=24)]


class WireRole(StrEnum):
    """Purpose that a wire is taken for, until it was measured."""

    SPEAKER = "speaker"
    """One of the two wires of a speaker or of a tap."""
    SUPPLY = "supply"
    """Battery volts at all times."""
    SWITCHED = "switched"
    """Volts with the key on."""
    TURN_ON = "turn_on"
    """A lead that wakes an amplifier."""
    GROUND = "ground"
    DATA = "data"
    """A bus, or an encoder's wire: nothing is connected or measured with ohms there."""
    UNKNOWN = "unknown"


class Wire(Frozen):
    """One wire of a plug."""

    model_config = labelled("Wire", id="id", pin="pin", colour="colour", role="taken for", speaker="speaker")
    id: WireId
    pin: ShortName = ""
    """As the plug or its drawing counts."""
    colour: ShortName = ""
    role: WireRole = WireRole.UNKNOWN
    speaker: ShortName = ""
    """The speaker at its end, or what else it feeds."""

    @property
    def called(self) -> str:
        """Pin and colour: "4 blue"."""
        return " ".join(part for part in (self.pin, self.colour) if part) or self.id


class Plug(Frozen):
    """A plug of a factory system."""

    model_config = labelled("Plug", id="id", name="name", wires="wires")
    id: Key
    name: ShortName = ""
    wires: Annotated[tuple[Wire, ...], Field(max_length=48)] = ()

    @model_validator(mode="after")
    def _apart(self) -> Self:
        if len({wire.id for wire in self.wires}) < len(self.wires):
            raise BadInput("two wires have the same id: give each its own", "wires")
        return self
