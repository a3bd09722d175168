"""The numbers worked out for one path, before they are put in words."""

from dataclasses import dataclass

from upper_rook.core.ceiling import Ceiling
from upper_rook.core.chain import Amplifier, Chain, JobSheet, Mode, Path, Source
from upper_rook.core.knob import Knob, predict
from upper_rook.core.loads import Load
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
    input_v: float
    """What reaches the amplifier with the source at its clean maximum."""
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
    input_v = ceiling.voltage_v if ceiling else source.rated_output_v
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
        channel_ohm=load.total_ohm / (2 if path.mode is Mode.BRIDGED else 1),
        ceiling=ceiling,
        input_v=input_v,
        knob=predict(amplifier.gain_range, input_v, rated_v, target_v),
    )
