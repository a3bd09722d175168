"""A simulated bench with the parts of a path: data sheets and a seed in, physics out."""

import math
from collections.abc import Iterator

import numpy as np

from upper_rook.core.common.errors import Lacking
from upper_rook.core.common.units import ratio_db, volts_for
from upper_rook.core.metrology.meters import MeterProfile
from upper_rook.core.physics.amplifier import AmplifierModel
from upper_rook.core.physics.bench import BenchModel
from upper_rook.core.physics.dial import DialModel
from upper_rook.core.physics.meter import MeterModel
from upper_rook.core.physics.processor import ProcessorModel
from upper_rook.core.physics.source import SourceModel
from upper_rook.core.plan.figures import figures
from upper_rook.core.signal.filters import ChannelFilter, FilterPlace, equaliser_db
from upper_rook.core.signal.grid import GRID_HZ
from upper_rook.core.stages.levels import highest_input_v, levels
from upper_rook.core.stages.power import amplifier_power
from upper_rook.core.stages.ratings import scale_volts
from upper_rook.core.system.amplifier import GainRange, Mode
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.path import Path
from upper_rook.core.system.processor import ProcessorKind

_MIDDLING_V = 2.0
_BOUNDLESS_V = 1e6


def meter_model(profile: MeterProfile, seed: int) -> MeterModel:
    """A specimen of `profile`; `seed` decides where in its tolerance it lies."""
    return MeterModel(
        percent=profile.promises[0].percent,
        ranges_v=profile.ranges_v,
        steps=profile.steps,
        true_rms=profile.true_rms,
        seed=seed,
    )


def build(sheet: JobSheet, path: Path, seed: int) -> BenchModel:
    """A bench with the parts of `path`; `seed` decides how they differ from their data sheets."""
    dice = np.random.default_rng(seed)
    chain = sheet.chain
    source, amplifier, load = chain.source_of(path), chain.amplifier_of(path), chain.load_of(path)
    bridged = path.mode is Mode.BRIDGED
    channels = path.mode.amplifiers
    rated_v = volts_for(amplifier_power(amplifier, path.mode, load.total_ohm).power_w, load.total_ohm) / channels
    scale = amplifier.range_of(path.input) or GainRange(down_v=6.0, up_v=0.2)
    scale_v, _ = scale_volts(amplifier, path.mode, scale, rated_v * channels)
    # Between 76 and 85 % of the scale, as sources usually do.
    clean_number = round(source.top_volume * dice.uniform(0.76, 0.85))
    step_db = dice.uniform(0.9, 1.2)
    output_ohm = 0.03 * load.total_ohm / channels
    reserve = math.sqrt(dice.uniform(1.04, 1.22))
    digital = chain.is_digital(path)
    clean_v = _rated_v(chain, path) * (1.0 if digital else dice.uniform(0.9, 1.0))
    source_model = SourceModel(
        top_volume=source.top_volume,
        clean_v=clean_v,
        # Half a number above the last clean one, so that the ripple of the law can't blur which one it is.
        overdrive_db=0.0 if digital else (source.top_volume - clean_number - 0.5) * step_db,
        step_db=step_db,
        unevenness_db=0.0 if digital else 0.05,
    )
    # Trimmed at the last clean number, with what the source really gives there.
    through = _through(sheet, path, source_model.volts(clean_number))
    kinds = [one.kind for one in chain.processors_of(path)]
    last = max((place for place, kind in enumerate(kinds) if kind is ProcessorKind.CONVERTER), default=-1)
    return BenchModel(
        converter=last + 1,
        filters=tuple(_dials(path, seed)),
        source=source_model,
        amplifier=AmplifierModel(
            rated_v=scale_v,
            sensitivity_down_v=scale.down_v * channels,
            sensitivity_up_v=scale.up_v * channels,
            rail_peak_v=math.sqrt(2) * rated_v * reserve * 1.03,
            output_ohm=output_ohm,
            regulated=amplifier.regulated,
        ),
        # Strapped, each amplifier sees half of the load.
        load_ohm=load.total_ohm / (2 if path.mode is Mode.STRAPPED else 1),
        bridged=bridged,
        left_db=max(0.0, path.right.gain_db - path.left.gain_db),
        right_db=float(dice.uniform(0.02, 0.15)) + max(0.0, path.left.gain_db - path.right.gain_db),
        through=through,
    )


def dials_of(path: Path) -> tuple[ChannelFilter, ...]:
    """The filters of a path that have a dial on the bench's amplifier, in their order."""
    return tuple(one for one in path.working if one.place is FilterPlace.AMPLIFIER)


_DIAL_OFF = 0.12
"""So much a printed scale may be off (common practice, no source)."""
_REACH = 4.0
"""So far round its corner a scale goes that nobody has read."""


def _dials(path: Path, seed: int) -> Iterator[DialModel]:
    # Dice of their own, so that a filter more or less changes nothing else about a specimen.
    dice = np.random.default_rng([seed, 1])
    for one in dials_of(path):
        low, high = scale_of(one)
        off = float(dice.uniform(1 - _DIAL_OFF, 1 + _DIAL_OFF))
        yield DialModel(kind=one.crossover.kind, order=one.crossover.order, lowest_hz=low, highest_hz=high, off=off)


def scale_of(one: ChannelFilter) -> tuple[float, float]:
    """Where a dial's scale begins and ends."""
    if one.dial is None:
        return one.crossover.corner_hz / _REACH, one.crossover.corner_hz * _REACH
    return one.dial.lowest_hz, one.dial.highest_hz * (10 if one.dial.times_ten else 1)


def _through(sheet: JobSheet, path: Path, source_v: float) -> tuple[ProcessorModel, ...]:
    """The stages on the way, trimmed as the plan says with `source_v` from the source."""
    planned = levels(sheet.chain, path, source_v, sheet.choices, turn_down=_turn_down(sheet, path))
    shaper = sheet.chain.shaper_of(path)
    made = []
    for stage in planned.stages:
        trimmed = stage.processor.kind is ProcessorKind.CONVERTER
        # A digital input has no volts to be too many.
        most = math.inf if stage.input_v is None else highest_input_v(stage.processor)
        trim = 0.0
        if trimmed and stage.output_v is not None and stage.input_v is not None:
            trim = ratio_db(stage.output_v, min(stage.input_v, most))
        shaped = tuple(planned.shape.level_db.tolist()) if stage.processor is shaper else (trim,)
        made.append(
            ProcessorModel(
                highest_input_v=min(most, _BOUNDLESS_V),
                highest_output_v=stage.processor.highest_output_v,
                gain_db=shaped,
            )
        )
    knob = sheet.chain.amplifier_of(path).bass_knob
    if knob is not None:
        through = ProcessorModel(highest_input_v=_BOUNDLESS_V, highest_output_v=_BOUNDLESS_V, gain_db=(knob.stands_db,))
        made.append(through)
    if path.boost:
        boost = tuple(equaliser_db((path.boost,), GRID_HZ).tolist())
        made.append(ProcessorModel(highest_input_v=_BOUNDLESS_V, highest_output_v=_BOUNDLESS_V, gain_db=boost))
    return tuple(made)


def _turn_down(sheet: JobSheet, path: Path) -> float:
    """How far the gain can turn down to the target, which a trim before it keeps to; 1 while there is no target."""
    try:
        return figures(sheet, path, None).turn_down
    except Lacking:
        return 1.0


def _rated_v(chain: Chain, path: Path) -> float:
    """What the source gives where it is measured; an unknown one gives what a middling one does."""
    if chain.is_digital(path):
        # Numbers: full scale is what the processor makes of it.
        return next((one.highest_output_v for one in chain.processors_of(path)), _MIDDLING_V)
    return chain.output_of(path).expected_v or _MIDDLING_V
