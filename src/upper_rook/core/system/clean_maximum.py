"""A source's clean maximum: the number that was taken to go on with, and what it rests on."""

import math
from enum import StrEnum
from typing import Annotated
from uuid import UUID

from pydantic import Field

from upper_rook.core.common.labels import labelled
from upper_rook.core.common.units import Frozen, Volts


class Basis(StrEnum):
    """Origin of the source's clean maximum."""

    MARKED = "marked"
    """The last number that a person marked clean."""
    JUDGED = "judged"
    """The last number before the volts fall short of the volume law."""
    RATED = "rated"
    """The lowest number at which the output reaches what its maker states."""
    GUESS = "guess"
    """Three quarters of the scale, because nobody could see clipping."""
    SHEET = "sheet"
    """Clean maximum of another unit of the source, checked at one number or not yet."""
    FOLLOWS = "follows"
    """Taken over from another output, side or way that it was seen to follow."""


Number = Annotated[int, Field(ge=0, le=200, strict=True)]
"""On a volume scale."""


class VolumeReading(Frozen):
    """Volts at a volume number."""

    model_config = labelled("Reading", volume="number", voltage_v="volts")
    volume: Number
    voltage_v: Volts


class GainPoint(Frozen):
    """A volume number and the volts it gives."""

    volume: int
    voltage_v: float
    record: UUID | None = None
    """The reading it was, or None when it wasn't read."""


class CleanMaximum(Frozen):
    """The highest clean point of a source that was taken to go on with."""

    volume: int
    voltage_v: float
    uncertainty_v: float | None
    basis: Basis


def fallback_volume(top_volume: int) -> int:
    """Three quarters of the top number, rounded down (common practice, no source)."""
    return math.floor(top_volume * 3 / 4)


def start_volume(top_volume: int) -> int:
    """Half scale, which never clips (common practice, no source)."""
    return top_volume // 2
