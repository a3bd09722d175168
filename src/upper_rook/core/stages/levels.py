"""What reaches an amplifier's input: levels and ceilings through converters and processors, and at which frequency."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import from_db, ratio_db
from upper_rook.core.signal.filters import (
    Complex,
    FilterPlace,
    Pass,
    equaliser_db,
    equaliser_responses,
    level_db,
    total_db,
)
from upper_rook.core.signal.grid import GRID_HZ, LOG_GRID, level_at_db
from upper_rook.core.system.chain import Chain, Path
from upper_rook.core.system.choices import Choices
from upper_rook.core.system.loads import Band, Load
from upper_rook.core.system.processor import Processor, ProcessorKind
from upper_rook.core.system.schools import CONVERTER

Array = NDArray[np.float64]

FLAT_DB = 0.25
"""What lies this near to the composite's highest is as high as it."""


@dataclass(frozen=True)
class Composite:
    """What happens to a path before its amplifier, over GRID_HZ."""

    equaliser: Complex
    level_db: Array
    """Equaliser, channel gain, and the filters of source and processor."""


@dataclass(frozen=True)
class StageLevel:
    """The level after one processor, at the tone, with the source at its clean maximum."""

    processor: Processor
    input_v: float | None
    """None while the source's volts aren't known."""
    output_v: float | None


@dataclass(frozen=True)
class Levels:
    """What comes out of the last stage before the amplifier."""

    stages: tuple[StageLevel, ...]
    input_v: float | None
    """At the amplifier, where the composite is highest; None while the source's volts aren't known."""
    composite_db: Array
    """Equaliser, channel gain, and the filters of source and processor, over GRID_HZ."""
    boosted_db: Array
    """The same with the amplifier's boost."""
    peak_hz: float | None
    """Where all of that is highest within the path's band; None where it is flat."""
    peak_db: float
    """The composite where all of that is highest."""
    highest_db: float
    """All of that there."""
    shaped: bool
    """Whether anything on the way shapes the signal."""


def composites(paths: Sequence[Path]) -> list[Composite]:
    """Everything that source and processor do to each path."""
    shaped = equaliser_responses([path.equaliser for path in paths], GRID_HZ)
    return [_composite(path, one) for path, one in zip(paths, shaped, strict=True)]


def _composite(path: Path, equaliser: Complex) -> Composite:
    filters = (one.crossover for one in path.working if one.place is not FilterPlace.AMPLIFIER)
    return Composite(equaliser, total_db(filters, GRID_HZ) + level_db(equaliser) + path.channel_gain_db)


def band_of(path: Path, load: Load) -> tuple[float, float]:
    """The path's pass band: from its filters, else from what its speakers are made for."""
    highs = [one.crossover.corner_hz for one in path.working if one.crossover.kind is Pass.HIGH]
    lows = [one.crossover.corner_hz for one in path.working if one.crossover.kind is Pass.LOW]
    low = max(highs, default=load.lowest_hz or float(GRID_HZ[0]))
    high = min(lows, default=load.highest_hz or float(GRID_HZ[-1]))
    return (low, high) if low < high else (float(GRID_HZ[0]), float(GRID_HZ[-1]))


def levels(
    chain: Chain,
    path: Path,
    source_v: float | None,
    choices: Choices,
    composite: Composite | None = None,
) -> Levels:
    """
    Levels with `source_v` out of the source; each stage's output is held to what it gives clean.

    `composite` is the path's of composites(), where that is at hand already.
    """
    load = chain.load_of(path)
    habit = habit_hz(choices, load)
    whole = (composite or composites((path,))[0]).level_db
    boosted = whole + equaliser_db((path.boost,), GRID_HZ) if path.boost else whole
    inside = _inside(band_of(path, load))
    top = int(inside[np.argmax(boosted[inside])])
    # Of all that is as high, the frequency nearest to the tone of habit: the meter is best there.
    high_up = inside[boosted[inside] > boosted[top] - FLAT_DB]
    peak = float(GRID_HZ[high_up[np.argmin(np.abs(LOG_GRID[high_up] - math.log(habit)))]])
    shaped = bool(path.through or path.boost or np.ptp(boosted))
    moved = shaped and abs(math.log2(peak / habit)) > 0.1
    peak_db = float(whole[top])
    volts, stages = source_v, []
    processors = chain.processors_of(path)
    for place, processor in enumerate(processors):
        # Gains and bands are set in the last one; those before it pass on what they get.
        own = from_db(peak_db) if place == len(processors) - 1 else 1.0
        given = _passed_v(processor, volts, own)
        if processor.kind is ProcessorKind.CONVERTER:
            given = _trimmed_v(chain, path, processor, CONVERTER.of(choices).volts)
        stages.append(StageLevel(processor, volts, given))
        volts = given
    return Levels(tuple(stages), volts, whole, boosted, peak if moved else None, peak_db, float(boosted[top]), shaped)


def habit_hz(choices: Choices, load: Load) -> float:
    """The tone that is played by habit into such speakers."""
    return choices.sub_tone_hz if load.band is Band.SUB else choices.full_tone_hz


def _inside(band: tuple[float, float]) -> NDArray[np.intp]:
    """Places on the grid that lie in a pass band."""
    low, high = band
    first, end = np.searchsorted(GRID_HZ, (low * 0.99, high * 1.01))
    return np.arange(first, end) if first < end else np.arange(GRID_HZ.size)


def _trimmed_v(chain: Chain, path: Path, converter: Processor, chosen_v: float | None) -> float:
    """What a converter's output is trimmed to."""
    amplifier = chain.amplifier_of(path)
    gain_range = amplifier.range_of(path.input)
    # Past what the amplifier's input takes it would only be turned down again.
    accepted = [one for one in (amplifier.highest_of(path.input), gain_range and gain_range.down_v) if one]
    wanted = chosen_v if chosen_v is not None else min(accepted, default=converter.highest_output_v)
    return min(max(wanted, converter.lowest_output_v or 0.0), converter.highest_output_v)


def _passed_v(processor: Processor, input_v: float | None, gain: float) -> float | None:
    """What a processor gives clean; None while it isn't known what it gets."""
    if input_v is None:
        return None
    return min(min(input_v, highest_input_v(processor)) * gain, processor.highest_output_v)


def highest_input_v(processor: Processor) -> float:
    """The most a stage's input takes; without bound while its data sheet hasn't been read."""
    return processor.highest_input.v or math.inf


def wrong_by_db(found: Levels, frequency_hz: float) -> float:
    """By how much a gain set at this frequency would be too high where everything together is highest."""
    return found.highest_db - level_at_db(found.boosted_db, frequency_hz)


def overdrive_db(stage: StageLevel, gain_db: float) -> float:
    """How far a stage's output would pass what it gives clean, 0 when it doesn't."""
    if stage.processor.kind is ProcessorKind.CONVERTER or stage.input_v is None:
        return 0.0
    wanted = min(stage.input_v, highest_input_v(stage.processor)) * from_db(gain_db)
    return max(0.0, ratio_db(wanted, stage.processor.highest_output_v))
