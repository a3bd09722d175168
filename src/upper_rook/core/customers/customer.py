"""A job's customer: who it is, the vehicle's plate, and every stay in the shop."""

from datetime import date
from typing import Annotated, Self

from pydantic import Field, model_validator

from upper_rook.core.common.folding import folded
from upper_rook.core.common.moments import Day, format_day
from upper_rook.core.common.units import Frozen, Name, Text


class Stay(Frozen):
    """One time that the vehicle is in the shop."""

    arrived_on: Day | None = None
    due_on: Day | None = None
    """The day it was promised for."""
    left_on: Day | None = None
    mileage_km: Annotated[int, Field(ge=0, le=5_000_000)] | None = None

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        if self.arrived_on is not None:
            for day, words in ((self.due_on, "is due"), (self.left_on, "left")):
                if day is not None and day < self.arrived_on:
                    raise ValueError(f"the vehicle {words} on {format_day(day)}, before it arrived: check both days")
        return self


class Customer(Frozen):
    """A customer and the stays of the vehicle, the latest last."""

    name: Name = ""
    phone: Name = ""
    plate: Name = ""
    note: Text = ""
    consent_on: Day | None = None
    """The day on which the customer agreed that the shop keeps this."""
    stays: Annotated[tuple[Stay, ...], Field(max_length=200)] = ()

    @property
    def due_on(self) -> date | None:
        """The day that the vehicle is due; None once it has left."""
        last = self.stays[-1] if self.stays else Stay()
        return last.due_on if last.left_on is None else None

    @property
    def in_words(self) -> str:
        """
        The customer in a line of paper.

        >>> Customer(name="Ada", plate="K 123", stays=(Stay(mileage_km=48_200),)).in_words
        'Ada, K 123, 48,200 km'
        """
        mileage = self.stays[-1].mileage_km if self.stays else None
        parts = (self.name, self.phone, self.plate, "" if mileage is None else f"{mileage:,} km")
        return ", ".join(part for part in parts if part)

    @property
    def words(self) -> str:
        """Words that it is found by, folded; a plate without its spaces too."""
        return folded(" ".join((self.name, self.phone, self.plate, self.plate.replace(" ", "").replace("-", ""))))
