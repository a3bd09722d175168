"""What reaches an amplifier's input: levels and ceilings through converters and processors, and at which frequency."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.chain import Chain, ConverterOutput, Path, Processor, ProcessorKind
from upper_rook.core.filters import FilterPlace, Pass, equaliser_db, total_db
from upper_rook.core.loads import Load
from upper_rook.core.units import from_db, ratio_db

Array = NDArray[np.float64]

GRID_HZ = np.geomspace(20.0, 20_000.0, 181)
"""Eighteenths of an octave."""
_CONVERTER_V = {ConverterOutput.LOW: 1.5, ConverterOutput.MIDDLE: 2.0}
FLAT_DB = 0.25
"""What lies this near to the composite's highest is as high as it."""


@dataclass(frozen=True)
class StageLevel:
    """The level after one processor, at the tone, with the source at its clean maximum."""

    processor: Processor
    input_v: float
    output_v: float


@dataclass(frozen=True)
class Levels:
    """What comes out of the last stage before the amplifier."""

    stages: tuple[StageLevel, ...]
    input_v: float
    """At the amplifier, at the tone."""
    composite_db: Array
    """Equaliser, channel gain and the processor's filters over GRID_HZ."""
    peak_hz: float | None
    """Where the composite is highest within the path's band; None where it is flat."""
    peak_db: float


def composite_db(path: Path) -> Array:
    """Everything that the processor does to this path, over GRID_HZ."""
    filters = [one.crossover for one in path.filters if one.place is FilterPlace.PROCESSOR]
    shaped = equaliser_db(path.equaliser, GRID_HZ) if path.equaliser else 0.0
    return total_db(filters, GRID_HZ) + shaped + path.channel_gain_db


def band_of(path: Path, load: Load) -> tuple[float, float]:
    """The path's pass band: from its filters, else from what its speakers are made for."""
    highs = [one.crossover.corner_hz for one in path.filters if one.crossover.kind is Pass.HIGH]
    lows = [one.crossover.corner_hz for one in path.filters if one.crossover.kind is Pass.LOW]
    low = max(highs, default=load.lowest_hz or float(GRID_HZ[0]))
    high = min(lows, default=load.highest_hz or float(GRID_HZ[-1]))
    return (low, high) if low < high else (float(GRID_HZ[0]), float(GRID_HZ[-1]))


def levels(
    chain: Chain,
    path: Path,
    source_v: float,
    converter_output: ConverterOutput = ConverterOutput.CLEAN,
    habit_hz: float = 1000.0,
) -> Levels:
    """
    Levels with `source_v` out of the source; each stage's output is held to what it gives clean.

    `habit_hz` is the tone that is played unless the composite is highest elsewhere.
    """
    load, processors = chain.load_of(path), chain.processors_of(path)
    gain_range = chain.amplifier_of(path).gain_range
    # A converter trimmed past what the gain control is made for would only be turned down again.
    accepted_v = gain_range.down_v if gain_range else None
    whole = composite_db(path)
    low, high = band_of(path, load)
    inside = np.flatnonzero((low * 0.99 <= GRID_HZ) & (high * 1.01 >= GRID_HZ))
    inside = inside if inside.size else np.arange(GRID_HZ.size)
    peak_db = float(whole[inside].max()) if processors else 0.0
    # Of all that is as high, the frequency nearest to the tone of habit: the meter is best there.
    high_up = inside[whole[inside] > whole[inside].max() - FLAT_DB]
    nearest = float(GRID_HZ[high_up[np.argmin(np.abs(np.log(GRID_HZ[high_up] / habit_hz)))]])
    shaped = bool(processors) and abs(np.log2(nearest / habit_hz)) > 0.1
    volts, stages = source_v, []
    for place, processor in enumerate(processors):
        entered = min(volts, processor.highest_input_v)
        # Gains and bands are set in the last one; those before it pass on what they get.
        own = from_db(peak_db) if place == len(processors) - 1 else 1.0
        if processor.kind is ProcessorKind.CONVERTER:
            school = _CONVERTER_V.get(converter_output, accepted_v or processor.highest_output_v)
            given = min(school, processor.highest_output_v)
        else:
            given = min(entered * own, processor.highest_output_v)
        stages.append(StageLevel(processor, volts, given))
        volts = given
    return Levels(tuple(stages), volts, whole, nearest if shaped else None, peak_db)


def wrong_by_db(found: Levels, frequency_hz: float) -> float:
    """By how much a gain set at this frequency would be too high where the composite is highest."""
    return found.peak_db - float(np.interp(np.log(frequency_hz), np.log(GRID_HZ), found.composite_db))


def overdrive_db(stage: StageLevel, gain_db: float) -> float:
    """How far a stage's output would pass what it gives clean, 0 when it doesn't."""
    if stage.processor.kind is ProcessorKind.CONVERTER:
        return 0.0
    wanted = min(stage.input_v, stage.processor.highest_input_v) * from_db(gain_db)
    return max(0.0, ratio_db(wanted, stage.processor.highest_output_v))
