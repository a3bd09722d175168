"""Stages between source and amplifier: line-output converters and processors."""

from enum import StrEnum
from typing import Annotated

from pydantic import Field

from upper_rook.core.common.labels import labelled
from upper_rook.core.common.stated import Stated
from upper_rook.core.common.units import Frozen, Key, Name, SignalToNoise, Volts, ratio_db
from upper_rook.core.system.turn_on import TurnOn

Decibels = Annotated[float, Field(ge=-60, le=60)]


class ProcessorKind(StrEnum):
    """Kind of a stage between source and amplifier."""

    CONVERTER = "converter"
    """A line-output converter, whose output is trimmed."""
    PROCESSOR = "processor"
    """A digital processor, with gains and an equaliser for each channel."""


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
        input_full_scale_v="input full scale",
        output_full_scale_v="output full scale",
        lowest_gain_db="least gain",
        highest_gain_db="most gain",
        signal_to_noise_db="signal-to-noise ratio",
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
    input_full_scale_v: Volts | None = None
    """Volts RMS of a sine at 0 dBFS, as its input is trimmed; None for its highest input."""
    output_full_scale_v: Volts | None = None
    """Volts RMS that 0 dBFS leaves with every gain at 0 dB; None for its highest output."""
    lowest_gain_db: Decibels | None = None
    highest_gain_db: Decibels | None = None
    """The most its own gain makes of its input; None while nobody knows."""
    signal_to_noise_db: SignalToNoise | None = None
    """Below its highest output; None where the maker doesn't say."""
    turn_on: TurnOn = TurnOn.LEAD
    inside: Key | None = None
    """The amplifier that it is built into; None for one in a case of its own."""

    @property
    def input_top_v(self) -> float | None:
        """The most that its input takes, or that its converter does where it is trimmed to less; None while unknown."""
        return min((volts for volts in (self.highest_input.v, self.input_full_scale_v) if volts), default=None)

    @property
    def full_scales_v(self) -> tuple[float | None, float]:
        """Volts RMS of 0 dBFS at its input and at its output; the first None while nobody knows its input."""
        return self.input_full_scale_v or self.highest_input.v, self.output_full_scale_v or self.highest_output_v

    @property
    def unity_db(self) -> float:
        """
        Gain of a processor from input to output with every gain at 0 dB: full scale to full scale.

        A unit that takes 20 V and gives 5 V is made so (common practice, no source); 0 where the input isn't known.
        """
        into_v, out_v = self.full_scales_v
        return ratio_db(out_v, into_v) if into_v and self.kind is ProcessorKind.PROCESSOR else 0.0
