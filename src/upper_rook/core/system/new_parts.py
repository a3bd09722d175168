"""
First figures of a new part: middling figures, so that a plan can be made at once, and which are not confirmed.

All of them are common practice, no source.
"""

from upper_rook.core.common.stated import Stated
from upper_rook.core.common.units import Frozen
from upper_rook.core.signal.filters import ChannelFilter, Crossover, Dial, EqualiserBand, Pass
from upper_rook.core.system.amplifier import BassKnob, GainRange, Rating, Section
from upper_rook.core.system.loads import Driver
from upper_rook.core.system.plug import Plug, Wire
from upper_rook.core.system.processor import Processor, ProcessorKind
from upper_rook.core.system.source import Output, PlayingInput, Source

NEW = "new"
"""The id of a part that has none of its own yet: whoever adds it gives it one."""


class NewParts(Frozen):
    """A new part of every kind."""

    source: Source
    output: Output
    playing: PlayingInput
    """A way of playing; its kind is what is chosen."""
    converter: Processor
    processor: Processor
    rating: Rating
    gain_range: GainRange
    high_level_range: GainRange
    boost: EqualiserBand
    band: EqualiserBand
    high_pass: ChannelFilter
    low_pass: ChannelFilter
    dial: Dial
    section: Section
    bass_knob: BassKnob
    driver: Driver
    plug: Plug
    wire: Wire


def new_parts() -> NewParts:
    """A new part of every kind, and what about them has to be confirmed."""
    output = Output(id="line", name="Line out")
    source = Source(id=NEW, top_volume=40, outputs=(output,))
    converter = _processor(ProcessorKind.CONVERTER, takes_v=20.0)
    processor = _processor(ProcessorKind.PROCESSOR, takes_v=4.0)
    dial = Dial(lowest_hz=30, highest_hz=250)
    return NewParts(
        source=source,
        output=output.model_copy(update={"id": NEW, "name": ""}),
        playing=PlayingInput.model_validate({"kind": "usb"}),
        converter=converter,
        processor=processor,
        rating=Rating(power_w=75, load_ohm=4),
        gain_range=GainRange(down_v=6.0, up_v=0.2),
        high_level_range=GainRange(down_v=20.0, up_v=1.0),
        boost=EqualiserBand(frequency_hz=45, gain_db=6),
        band=EqualiserBand(frequency_hz=1000, gain_db=0, q=1.4),
        high_pass=_filter(Pass.HIGH),
        low_pass=_filter(Pass.LOW),
        dial=dial,
        section=Section(id=NEW),
        bass_knob=BassKnob(),
        driver=Driver(impedance_ohm=4),
        plug=Plug(id=NEW),
        wire=Wire(id=NEW),
    )


def _processor(kind: ProcessorKind, takes_v: float) -> Processor:
    return Processor(id=NEW, kind=kind, highest_input=Stated(volts=takes_v), highest_output_v=4.0)


def _filter(kind: Pass) -> ChannelFilter:
    return ChannelFilter(crossover=Crossover(kind=kind, corner_hz=80))
