"""
One specimen of a path's parts: data sheets and a seed in, parts of the bench out.

Rails, gains and responses are worked out here from the data sheets alone, apart from what a planner makes of them, so
that a mistake in either shows.
"""

import math
from collections.abc import Iterator

import numpy as np

from upper_rook.core.common.units import from_db
from upper_rook.core.physics.amplifier import RATED_SUPPLY_V, AmplifierModel
from upper_rook.core.physics.bench import BenchModel
from upper_rook.core.physics.data_sheets import against_rated, gain_db, input_limit_v, is_set_in, network_ohm, output_v
from upper_rook.core.physics.dial import DialModel
from upper_rook.core.physics.fault_models import broken
from upper_rook.core.physics.faults import Fault
from upper_rook.core.physics.processor import ProcessorModel, TrimModel
from upper_rook.core.physics.source import SourceModel
from upper_rook.core.signal.filters import (
    BandKind,
    ChannelFilter,
    Crossover,
    EqualiserBand,
    FilterPlace,
    Pass,
)
from upper_rook.core.system.amplifier import Amplifier, Driven, GainRange, Mode, Rating, ScaleOf
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.path import Path
from upper_rook.core.system.playing import InputKind
from upper_rook.core.system.processor import Processor, ProcessorKind
from upper_rook.core.system.source import Source

_MIDDLING_V = 2.0
_BOUNDLESS_V = 1e6
_MIDDLING_SCALE = GainRange(down_v=6.0, up_v=0.2)
_MIDDLING_RATING = Rating(power_w=50, load_ohm=4)
_TRIM_DB = (-24.0, 24.0)
"""Effect of a trim whose data sheet doesn't say."""
_GIVES = (0.92, 1.26)
"""Watts of an amplifier as part of its rated ones: some give less (common practice, no source)."""
_SAGS = 0.03
"""An output's own ohms as part of its load, where one rating alone says nothing of it."""
_UNITS_DB = 0.3
"""How far apart two units of a source are at most (common practice, no source)."""
_STEP_DB = 2.0
"""A step of a tone control (common practice, no source)."""
_DIAL_OFF = 0.12
"""So much a printed scale may be off (common practice, no source)."""
_REACH = 4.0
"""So far round its corner a scale goes that nobody has read."""


def build(sheet: JobSheet, path: Path, seed: int, faults: tuple[Fault, ...] = ()) -> BenchModel:
    """A bench with the parts of `path`; `seed` decides how they differ from their data sheets."""
    dice = np.random.default_rng(seed)
    chain = sheet.chain
    load_ohm = network_ohm(chain.load_of(path))
    source = _source(chain, path, dice, seed)
    rail_reserve = math.sqrt(dice.uniform(*_GIVES))
    through = tuple(_through(chain, path, seed))
    kinds = [processor.kind for processor in chain.processors_of(path)]
    knob = chain.amplifier_of(path).bass_knob
    shaped = any(is_set_in(chain, path, place) for place in range(len(path.through)))
    apart = path.right.gain_db - path.left.gain_db if shaped else 0.0
    model = BenchModel(
        source=source,
        through=through,
        converter=max((place + 1 for place, kind in enumerate(kinds) if kind is ProcessorKind.CONVERTER), default=0),
        same_converter=(path.id, *_beside(chain, path)),
        line_db=knob.stands_db if knob else 0.0,
        stuck=(),
        boosts=(path.boost,) if path.boost else (),
        filters=tuple(_dials(path, seed)),
        amplifier=_amplifier(chain.amplifier_of(path), path, load_ohm, rail_reserve),
        # Strapped, each amplifier sees half of the load.
        load_ohm=load_ohm / (2 if path.mode is Mode.STRAPPED else 1),
        impedance=against_rated(chain.load_of(path)),
        bridged=path.mode is Mode.BRIDGED,
        left_db=max(0.0, apart),
        right_db=float(dice.uniform(0.02, 0.15)) + max(0.0, -apart),
    )
    return broken(model, faults)


def _source(chain: Chain, path: Path, dice: np.random.Generator, seed: int) -> SourceModel:
    source = chain.source_of(path)
    # Between 76 and 85 % of the scale, as sources usually do.
    clean_number = round(source.top_volume * dice.uniform(0.76, 0.85))
    step_db = dice.uniform(0.9, 1.2)
    digital = chain.is_digital(path)
    clean_v = _rated_v(chain, path) * (1.0 if digital else dice.uniform(0.9, 1.0))
    ways_db = _ways(source, seed)
    told = [clean for clean in source.from_sheet.clean if clean.output == path.output] if source.from_sheet else []
    if told:
        # Another unit of what the sheet is of, its last clean volts half a number below its limit.
        lowest = min(told, key=lambda clean: clean.clean)
        clean_number = lowest.clean
        off_db = np.random.default_rng([seed, 4]).uniform(-_UNITS_DB, _UNITS_DB)
        clean_v = lowest.clean_v * from_db(0.5 * step_db + off_db)
        ways_db |= {clean.way: (lowest.clean - clean.clean) * step_db for clean in told if clean.way}
    return SourceModel(
        top_volume=source.top_volume,
        clean_v=clean_v,
        # Half a number above the last clean one, so that the ripple of the law can't blur which one it is.
        overdrive_db=0.0 if digital else (source.top_volume - clean_number - 0.5) * step_db,
        step_db=step_db,
        unevenness_db=0.0 if digital else 0.05,
        ways_db=ways_db,
        lifts=tuple(_lifts(source)),
        carries=tuple(_carries(chain, path)),
    )


def _ways(source: Source, seed: int) -> dict[InputKind, float]:
    """Level of each way of playing, trims counted, against the one that gives most with every trim at zero."""
    dice = np.random.default_rng([seed, 2])
    lost = {playing.kind: float(dice.uniform(0.0, 1.8)) for playing in source.inputs}
    least = min(lost.values(), default=0.0)
    return {playing.kind: playing.trim_db + least - lost[playing.kind] for playing in source.inputs}


def _lifts(source: Source) -> Iterator[EqualiserBand]:
    tone = source.tone
    for step, kind, hertz in (
        (tone.bass, BandKind.LOW_SHELF, 100.0),
        (tone.mid, BandKind.PEAK, 1000.0),
        (tone.treble, BandKind.HIGH_SHELF, 6000.0),
    ):
        if step:
            yield EqualiserBand(kind=kind, frequency_hz=hertz, gain_db=max(-40, min(40, step * _STEP_DB)), q=0.7)
    if tone.loudness:
        yield EqualiserBand(kind=BandKind.LOW_SHELF, frequency_hz=100, gain_db=8, q=0.7)


def _carries(chain: Chain, path: Path) -> Iterator[Crossover]:
    """Filters that divide the output, unless another one brings the rest, and the source's own."""
    outputs = chain.outputs_of(path)
    if all(output.lowest_hz for output in outputs):
        yield Crossover(kind=Pass.HIGH, corner_hz=min(output.lowest_hz or 20.0 for output in outputs), order=4)
    if all(output.highest_hz for output in outputs):
        yield Crossover(kind=Pass.LOW, corner_hz=max(output.highest_hz or 20e3 for output in outputs), order=4)
    for channel_filter in path.working:
        if channel_filter.place is FilterPlace.SOURCE:
            yield channel_filter.crossover


def _through(chain: Chain, path: Path, seed: int) -> Iterator[ProcessorModel]:
    """The stages on the way, set as the sheet says; trims are turned on the bench."""
    dice = np.random.default_rng([seed, 3])
    for place, processor in enumerate(chain.processors_of(path)):
        # A digital input has no volts to be too many: its full scale is that of the output.
        digital = place == 0 and chain.is_digital(path)
        shapes = is_set_in(chain, path, place)
        filters = (
            [
                channel_filter.crossover
                for channel_filter in path.working
                if channel_filter.place is FilterPlace.PROCESSOR
            ]
            if shapes
            else []
        )
        yield ProcessorModel(
            highest_input_v=_BOUNDLESS_V if digital else min(input_limit_v(processor), _BOUNDLESS_V),
            # A little more than its maker promises.
            highest_output_v=processor.highest_output_v * float(dice.uniform(1.02, 1.12)),
            gain_db=(path.gain_db if shapes else 0.0) + (0.0 if digital else gain_db(processor)),
            bands=path.equaliser if shapes else (),
            filters=tuple(filters),
            trim=_trim(processor) if processor.kind is ProcessorKind.CONVERTER else None,
        )


def _trim(processor: Processor) -> TrimModel:
    low, high = processor.lowest_gain_db, processor.highest_gain_db
    return TrimModel(
        lowest_db=_TRIM_DB[0] if low is None else low,
        highest_db=_TRIM_DB[1] if high is None else high,
    )


def _beside(chain: Chain, path: Path) -> Iterator[str]:
    """The paths that carry the same signal through the same converter."""
    if not path.through:
        return
    for neighbour in chain.paths:
        if neighbour is not path and (
            neighbour.source,
            neighbour.output,
            neighbour.also,
            neighbour.through[:1],
            neighbour.converter_output.casefold(),
        ) == (
            path.source,
            path.output,
            path.also,
            path.through[:1],
            path.converter_output.casefold(),
        ):
            yield neighbour.id


def _amplifier(amplifier: Amplifier, path: Path, load_ohm: float, reserve: float) -> AmplifierModel:
    channels = path.mode.amplifiers
    emf_v, own_ohm, supply_v = _inside(amplifier, load_ohm / channels)
    scale = amplifier.range_of(path.input) or _MIDDLING_SCALE
    here = load_ohm / channels
    full_v = emf_v * here / (here + own_ohm)
    if scale.scale_of is ScaleOf.RATED_LOAD:
        highest = max((rating.load_ohm / rating.mode.amplifiers for rating in amplifier.ratings), default=here)
        full_v = emf_v * highest / (highest + own_ohm)
    return AmplifierModel(
        rated_v=full_v,
        # The scale means what the whole load gets; each output gives its part of that.
        sensitivity_down_v=scale.down_v,
        sensitivity_up_v=scale.up_v,
        rail_peak_v=math.sqrt(2) * emf_v * reserve * (1.0 if amplifier.regulated else RATED_SUPPLY_V / supply_v),
        output_ohm=own_ohm,
        regulated=amplifier.regulated,
        input_top_v=amplifier.highest_of(path.input),
        limiter=amplifier.limiter,
    )


def _inside(amplifier: Amplifier, seen_ohm: float) -> tuple[float, float, float]:
    """
    Volts inside one channel, the ohms before its terminals, and the supply that goes with them.

    From its clean ratings, those at running supply if any: volts at the loads they are made for lie on E·R/(R + Z), so
    1/V is a straight line over 1/R.
    """
    rows = list(amplifier.ratings) or [_MIDDLING_RATING]
    rows = [row for row in rows if (row.distortion_percent or 0) <= 1] or rows
    rows = [row for row in rows if (row.supply_v or RATED_SUPPLY_V) >= 13] or rows
    every = [row for row in rows if row.driven is Driven.ALL]
    # With one channel driven only one draws on the supply that all share; with speakers on they all do.
    sharing = 1 if every else amplifier.all_channels
    rows = every or rows
    volts: dict[float, float] = {}
    for row in rows:
        ohms = row.load_ohm / row.mode.amplifiers
        given = math.sqrt(row.power_w / row.mode.amplifiers * ohms) * _clean_part((row.distortion_percent or 0) / 100)
        volts[ohms] = min(given, volts.get(ohms, given))
    supply_v = min(row.supply_v or RATED_SUPPLY_V for row in rows)
    loads = np.array(sorted(volts))
    inverse_v = np.array([1 / volts[load] for load in loads])
    if loads.size > 1:
        slope, level = np.polyfit(1 / loads, inverse_v, 1)
        if slope > 0 and level > 0:
            return 1 / level, sharing * slope / level, supply_v
    nearest = float(loads[np.argmin(np.abs(loads - seen_ohm))])
    own_ohm = _SAGS * nearest
    return volts[nearest] * (1 + _SAGS), own_ohm, supply_v


def _clean_part(distortion: float) -> float:
    """Part of volts stated with distortion at which the same rails leave a sine clean: found by clipping one."""
    if distortion <= 0.01:
        return 1.0
    phase = 2 * np.pi * np.arange(4096) / 4096
    for over_db in np.arange(0.05, 40.0, 0.05):
        wave = np.clip(from_db(float(over_db)) * np.sin(phase), -1, 1)
        bins = np.abs(np.fft.rfft(wave))
        if math.sqrt(float(np.sum(bins[2:] ** 2))) / float(bins[1]) >= distortion:
            return float(math.sqrt(0.5) / np.sqrt(np.mean(wave**2)))
    return math.sqrt(0.5)


def dials_of(path: Path) -> tuple[ChannelFilter, ...]:
    """The filters of a path that have a dial on the bench's amplifier, in their order."""
    return tuple(channel_filter for channel_filter in path.working if channel_filter.place is FilterPlace.AMPLIFIER)


def _dials(path: Path, seed: int) -> Iterator[DialModel]:
    # Dice of their own, so that a filter more or less changes nothing else about a specimen.
    dice = np.random.default_rng([seed, 1])
    for channel_filter in dials_of(path):
        low, high = scale_of(channel_filter)
        off = float(dice.uniform(1 - _DIAL_OFF, 1 + _DIAL_OFF))
        yield DialModel(crossover=channel_filter.crossover, lowest_hz=low, highest_hz=high, off=off)


def scale_of(channel_filter: ChannelFilter) -> tuple[float, float]:
    """Where a dial's scale begins and ends."""
    if channel_filter.dial is None:
        return channel_filter.crossover.corner_hz / _REACH, channel_filter.crossover.corner_hz * _REACH
    return channel_filter.dial.lowest_hz, channel_filter.dial.highest_hz * (10 if channel_filter.dial.times_ten else 1)


def _rated_v(chain: Chain, path: Path) -> float:
    """Volts of the source where it is measured; an unknown one gives those of a middling one."""
    if chain.is_digital(path):
        # Numbers: full scale is what the processor makes of it.
        return next((processor.highest_output_v for processor in chain.processors_of(path)), _MIDDLING_V)
    return output_v(chain.output_of(path)) or _MIDDLING_V
