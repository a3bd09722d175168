"""The numbers worked out for one path, before they are put in words."""

from dataclasses import dataclass

from upper_rook.core.ceiling import Ceiling
from upper_rook.core.chain import Amplifier, Chain, JobSheet, Path, Source
from upper_rook.core.knob import Knob, predict
from upper_rook.core.levels import Levels, levels
from upper_rook.core.loads import Band, Load
from upper_rook.core.power import Power, amplifier_power
from upper_rook.core.units import volts_for


@dataclass(frozen=True)
class Figures:
    """One path in numbers: volts RMS, watts, ohms."""

    path: Path
    source: Source
    amplifier: Amplifier
    load: Load
    power: Power
    """What the amplifier is good for."""
    speakers_w: float
    """What the speakers take, the allowance counted."""
    aimed_w: float
    target_v: float
    rated_v: float
    """The amplifier's rated output into this load."""
    channel_ohm: float
    """What one channel sees."""
    ceiling: Ceiling | None
    source_v: float
    """What the source gives at its clean maximum."""
    levels: Levels
    """On the way through converters and processors."""
    input_v: float
    """What reaches the amplifier then, at the tone."""
    knob: Knob


def figures(sheet: JobSheet, path: Path, ceiling: Ceiling | None) -> Figures:
    """The numbers of `path`; `ceiling` replaces the source's rated volts once it is measured."""
    chain: Chain = sheet.chain
    source, amplifier, load = chain.source_of(path), chain.amplifier_of(path), chain.load_of(path)
    power = amplifier_power(amplifier, path.mode, load.total_ohm)
    speakers_w = load.total_w * (1 + sheet.choices.allowance_percent / 100)
    aimed_w = min(power.power_w, speakers_w)
    target_v = volts_for(aimed_w, load.total_ohm)
    rated_v = volts_for(power.power_w, load.total_ohm)
    source_v = ceiling.voltage_v if ceiling else source.rated_output_v
    habit_hz = sheet.choices.sub_tone_hz if load.band is Band.SUB else sheet.choices.full_tone_hz
    through = levels(chain, path, source_v, sheet.choices.converter_output, habit_hz)
    input_v = through.input_v
    return Figures(
        path=path,
        source=source,
        amplifier=amplifier,
        load=load,
        power=power,
        speakers_w=speakers_w,
        aimed_w=aimed_w,
        target_v=target_v,
        rated_v=rated_v,
        channel_ohm=load.total_ohm / path.mode.amplifiers,
        ceiling=ceiling,
        source_v=source_v,
        levels=through,
        input_v=input_v,
        knob=predict(amplifier.gain_range, input_v, rated_v, target_v),
    )
