"""Speakers and how they are wired: what each amplifier channel sees."""

from enum import StrEnum
from typing import Annotated, Self

from pydantic import Field, model_validator

from upper_rook.core.units import Frozen, Hertz, Key, Name, Ohms, Watts


class Wiring(StrEnum):
    """How several speakers hang on one channel."""

    SERIES = "series"
    PARALLEL = "parallel"
    SERIES_PARALLEL = "series_parallel"
    """Pairs in series, the pairs in parallel."""


class Band(StrEnum):
    """What the speakers are for; it decides the tone."""

    FULL = "full"
    SUB = "sub"


class Box(StrEnum):
    """What a subwoofer is built into."""

    SEALED = "sealed"
    PORTED = "ported"


class Load(Frozen):
    """Equal speakers on one amplifier channel (or on one bridged pair)."""

    id: Key
    name: Name = ""
    band: Band = Band.FULL
    impedance_ohm: Ohms
    """Rated impedance of one speaker."""
    power_w: Watts
    """Rated continuous power of one speaker."""
    count: Annotated[int, Field(ge=1, le=8)] = 1
    """Speakers on one channel."""
    wiring: Wiring = Wiring.PARALLEL
    sensitivity_db: Annotated[float, Field(ge=60, le=120)] | None = None
    """dB SPL of one speaker at 1 m with 1 W."""
    lowest_hz: Hertz | None = None
    """The usable range, where the maker states it."""
    highest_hz: Hertz | None = None
    box: Box | None = None
    tuning_hz: Hertz | None = None
    """Of a ported box."""

    @model_validator(mode="after")
    def _pairs(self) -> Self:
        if self.wiring is Wiring.SERIES_PARALLEL and (self.count < 4 or self.count % 2):
            raise ValueError("series-parallel needs 4, 6 or 8 speakers on the channel")
        if self.lowest_hz and self.highest_hz and self.lowest_hz >= self.highest_hz:
            raise ValueError("the lowest usable frequency must be below the highest")
        return self

    @property
    def total_ohm(self) -> float:
        """What the channel sees. Series ΣR; parallel 1/Σ(1/R)."""
        if self.wiring is Wiring.SERIES:
            return self.impedance_ohm * self.count
        if self.wiring is Wiring.PARALLEL:
            return self.impedance_ohm / self.count
        return 2 * self.impedance_ohm / (self.count // 2)

    @property
    def total_w(self) -> float:
        """What the whole group takes: equal speakers share equally in every one of these wirings."""
        return self.power_w * self.count
