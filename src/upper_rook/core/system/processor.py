"""Stages between source and amplifier: line-output converters and processors."""

from enum import StrEnum
from typing import Annotated

from pydantic import Field

from upper_rook.core.common.labels import labelled
from upper_rook.core.common.stated import Stated
from upper_rook.core.common.units import Frozen, Key, Name, Volts

Decibels = Annotated[float, Field(ge=-60, le=60)]


class ProcessorKind(StrEnum):
    """Kind of a stage between source and amplifier."""

    CONVERTER = "converter"
    """A line-output converter, whose output is trimmed."""
    PROCESSOR = "processor"
    """A digital processor, with gains and an equaliser for each channel."""


class TurnOn(StrEnum):
    """How it, and what follows it, is woken."""

    LEAD = "lead"
    """By a turn-on lead."""
    SENSING = "sensing"
    """By the direct voltage on speaker leads."""


class Processor(Frozen):
    """A line-output converter or a processor, by its data sheet."""

    model_config = labelled(
        "Converter or processor",
        id="id",
        name="name",
        kind="kind",
        highest_input="highest input",
        lowest_output_v="lowest output",
        highest_output_v="highest output",
        lowest_input="least input",
        lowest_gain_db="least gain",
        highest_gain_db="most gain",
        turn_on="turn-on",
        inside="built into",
    )
    id: Key
    name: Name = ""
    kind: ProcessorKind = ProcessorKind.PROCESSOR
    highest_input: Stated
    """The most its input takes."""
    lowest_output_v: Volts | None = None
    """The least its output can be trimmed to."""
    highest_output_v: Volts
    """The most it gives clean, RMS."""
    lowest_input: Stated = Stated()
    """Least input for its highest output, where the maker says so."""
    lowest_gain_db: Decibels | None = None
    highest_gain_db: Decibels | None = None
    """The most its own gain makes of its input; None while nobody knows."""
    turn_on: TurnOn = TurnOn.LEAD
    inside: Key | None = None
    """The amplifier that it is built into; None for one in a case of its own."""
