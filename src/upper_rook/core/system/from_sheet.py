"""
Figures of a source's sheet in the library, as they were when a job took them over.

The job keeps it with the source: what the sheet says later changes no job that was begun before.
"""

from datetime import date
from typing import Annotated
from uuid import UUID

from pydantic import Field

from upper_rook.core.common.labels import labelled
from upper_rook.core.common.moments import format_day
from upper_rook.core.common.units import Frozen, Key, Name, Volts
from upper_rook.core.system.clean_maximum import Number, VolumeReading
from upper_rook.core.system.playing import InputKind, Side


class ToldClean(Frozen):
    """A clean maximum of another unit."""

    model_config = labelled(
        "Clean maximum on the sheet",
        output="output",
        side="side",
        way="way of playing",
        clean="clean maximum",
        clean_v="volts there",
        doubt_v="doubt of the volts",
        within_db="how far another unit may be off",
        shown="settings as shown",
        rungs="readings",
    )
    output: Key
    side: Side | None = None
    way: InputKind | None = None
    clean: Number
    clean_v: Volts
    doubt_v: Annotated[float, Field(ge=0, le=1000)] = 0.0
    """Of the reading there, at about 95 %."""
    within_db: Annotated[float, Field(ge=0, le=40)]
    """Another unit lies within this of it, at about 95 %."""
    shown: Name = ""
    """The trim and sub level that it holds with, as the source shows them; empty where they were left alone."""
    volume_readings: Annotated[tuple[VolumeReading, ...], Field(max_length=200, alias="rungs")] = ()
    """Readings below it, lowest number first."""


class ToldSetting(Frozen):
    """Effect of a setting on the volts, as another unit showed."""

    model_config = labelled("Setting on the sheet", name="name", db="gives")
    name: Name
    db: Annotated[float, Field(ge=-60, le=60)]


class FromSheet(Frozen):
    """Its origin and its figures."""

    model_config = labelled(
        "From a sheet",
        sheet="sheet",
        name="name",
        unit="unit",
        measured_on="measured on",
        clean="clean maxima",
        settings="settings",
    )
    sheet: UUID | None = None
    """Its id in the library it was taken from."""
    name: Name
    unit: Name = ""
    measured_on: date | None = None
    clean: Annotated[tuple[ToldClean, ...], Field(min_length=1, max_length=400)]
    settings: Annotated[tuple[ToldSetting, ...], Field(max_length=100)] = ()

    @property
    def words(self) -> str:
        """Its name: the sheet, the unit, the day."""
        told = (f"another unit{f' ({self.unit})' if self.unit else ''}", format_day(self.measured_on))
        return f"the sheet of {self.name}, {', '.join(text for text in told if text)}"
