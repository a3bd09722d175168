"""A voltage as a data sheet states it: in volts, or as watts into a load."""

from typing import Self

from pydantic import model_validator

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.labels import labelled
from upper_rook.core.common.units import Frozen, Ohms, Volts, Watts, format_value, volts_for


class Stated(Frozen):
    """Volts RMS, or the watts and the ohms that come to them; neither while nobody has looked it up."""

    model_config = labelled(
        "",
        volts="volts",
        watts="watts",
        load_ohm="ohms",
    )
    volts: Volts | None = None
    watts: Watts | None = None
    load_ohm: Ohms = 4.0
    """The load that the watts are stated at."""

    @model_validator(mode="after")
    def _one(self) -> Self:
        if self.volts is not None and self.watts is not None:
            raise BadInput("give the volts or the watts, not both", "watts")
        return self

    @property
    def v(self) -> float | None:
        """In volts RMS: V = √(P·R)."""
        return volts_for(self.watts, self.load_ohm) if self.watts is not None else self.volts

    @property
    def label(self) -> str:
        """As it is said aloud."""
        if self.watts is not None:
            return f"{format_value(self.watts, 'W')} into {format_value(self.load_ohm, 'Ω')}"
        return format_value(self.volts, "V") if self.volts is not None else "not known"
