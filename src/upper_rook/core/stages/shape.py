"""Response of a path over frequency: before its amplifier, in use, and with its filters opened."""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.metrology.meters import profile
from upper_rook.core.signal.filters import (
    ChannelFilter,
    Complex,
    Crossover,
    EqualiserBand,
    FilterPlace,
    Pass,
    SwitchPosition,
    equaliser_db,
    equaliser_responses,
    level_db,
    total_db,
)
from upper_rook.core.signal.grid import GRID_HZ
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.choices import Choices, Meter
from upper_rook.core.system.path import Path

Array = NDArray[np.float64]

_HALF_STEP = float(GRID_HZ[1] / GRID_HZ[0]) ** 0.5 - 1
_MISSED_DB = 0.05
"""So much of a band's top may be lost between two points of the grid."""
_LIFTED_DB = 0.25
_LOWEST_HZ, _HIGHEST_HZ = float(GRID_HZ[0]), float(GRID_HZ[-1])


@dataclass(frozen=True)
class Shape:
    """Response of a path, in dB at each of `hertz`: the grid, the tones in use and the bands' centres."""

    equaliser: Complex
    """Over GRID_HZ."""
    level_db: Array
    """Equaliser, channel gain, and the filters of source and processor, over GRID_HZ."""
    hertz: Array
    tones: dict[float, int]
    """The places of the tones in use."""
    before_db: Array
    """Equaliser, channel gain, and the filters of source and processor."""
    boost_db: Array
    """The amplifier's boost alone."""
    in_use_db: Array
    """Everything, the amplifier's boost and filters included, as it is while music plays."""
    opened_db: Array
    """The same with the amplifier's filters out of the signal, or as wide open as they go."""
    unsure: bool
    """Whether nobody knows if one of the amplifier's filters can be opened: neither a switch nor a scale is known."""
    shaped: bool
    """Whether anything on the way shapes the signal or could."""
    lifted: bool
    """Whether a band or the boost lifts anything above the rest."""

    def place(self, frequency_hz: float) -> int:
        """The place of the nearest of its frequencies, which holds every tone in use itself."""
        known = self.tones.get(frequency_hz)
        return known if known is not None else int(np.abs(self.hertz - frequency_hz).argmin())

    def tone_hz(self, place: int) -> float:
        """The frequency there as it is played: to three figures where it comes from the grid."""
        hertz = float(self.hertz[place])
        return float(f"{hertz:.3g}") if place < GRID_HZ.size else hertz


HEARD_HZ = (40.0, 4000.0)
"""Tones whose clipping is heard: further up its harmonics are hardly in what ears hear (common practice, no source)."""


def meter_edges_hz(choices: Choices) -> tuple[float, float]:
    """The lowest and the highest frequency at which the meter at hand promises anything, or an ear hears it clip."""
    if choices.meter is Meter.EAR:
        return HEARD_HZ
    promises = profile(choices.meter).promises
    return promises[0].lowest_hz, promises[-1].highest_hz


def shapes(chain: Chain, choices: Choices, paths: Sequence[Path] | None = None) -> list[Shape]:
    """The shapes of `chain`'s paths, or of some of them; the equalisers of all of them are worked out together."""
    tones = np.array(sorted({choices.sub_tone_hz, choices.full_tone_hz, *meter_edges_hz(choices), 40.0}))
    common = np.concatenate((GRID_HZ, tones))
    counted = [chain.counted(path) for path in (chain.paths if paths is None else paths)]
    shaped = equaliser_responses([path.equaliser for path in counted], common)
    places = {float(hertz): GRID_HZ.size + place for place, hertz in enumerate(tones)}
    return [_shape(path, values, common, places) for path, values in zip(counted, shaped, strict=True)]


def _shape(path: Path, equaliser: Complex, common: Array, places: dict[float, int]) -> Shape:
    size = GRID_HZ.size
    own = _tops((*path.equaliser, *((path.boost,) if path.boost else ())))
    exact = np.concatenate((common, own)) if own.size else common
    before_db = level_db(equaliser)
    if own.size:
        before_db = np.concatenate((before_db, equaliser_db(path.equaliser, own)))
    before = [
        channel_filter.crossover for channel_filter in path.working if channel_filter.place is not FilterPlace.AMPLIFIER
    ]
    ends = [channel_filter for channel_filter in path.working if channel_filter.place is FilterPlace.AMPLIFIER]
    before_db = before_db + path.gain_db
    if before:
        before_db = before_db + total_db(before, exact)
    boost_db = equaliser_db((path.boost,), exact) if path.boost else np.zeros(exact.shape)
    reached = before_db + boost_db
    left = [crossover for end in ends if (crossover := opened(path, end)) is not None]
    return Shape(
        equaliser=equaliser[:size],
        level_db=before_db[:size],
        hertz=exact,
        tones=places,
        before_db=before_db,
        boost_db=boost_db,
        in_use_db=reached + total_db((end.crossover for end in ends), exact) if ends else reached,
        opened_db=reached + total_db(left, exact) if left else reached,
        unsure=any(_is_unsure(path, end) for end in ends),
        lifted=bool(path.equaliser or path.boost) and float(reached.max()) > path.gain_db + _LIFTED_DB,
        shaped=bool(path.through or path.boost or left or np.ptp(before_db)),
    )


def _tops(bands: Iterable[EqualiserBand]) -> Array:
    """Where narrow bands are highest."""
    hertz = {
        band.frequency_hz
        for band in bands
        if band.gain_db > 0
        and _missed_db(band.gain_db, band.q) > _MISSED_DB
        and _LOWEST_HZ <= band.frequency_hz <= _HIGHEST_HZ
    }
    return np.array(sorted(hertz))


@lru_cache(maxsize=1024)
def _missed_db(gain_db: float, q: float) -> float:
    """About what a boost loses half a step of the grid beside its centre: its level falls with the detuning squared."""
    detuned = 2 * q * _HALF_STEP
    return float(gain_db * detuned**2 * 10 ** (gain_db / 40))


def opened(path: Path, channel_filter: ChannelFilter) -> Crossover | None:
    """An amplifier's filter as wide open as it goes; None where it can be taken out, or nobody knows better."""
    if channel_filter.active_in and set(channel_filter.active_in) != set(SwitchPosition):
        return None
    if channel_filter.dial is None:
        stays = bool(channel_filter.active_in) and path.filter_switch is not None
        return channel_filter.crossover if stays else None
    low = channel_filter.crossover.kind is Pass.LOW
    end = (
        channel_filter.dial.highest_hz * (10 if channel_filter.dial.times_ten else 1)
        if low
        else channel_filter.dial.lowest_hz
    )
    corner = max(end, channel_filter.crossover.corner_hz) if low else min(end, channel_filter.crossover.corner_hz)
    return channel_filter.crossover.model_copy(update={"corner_hz": corner})


def _is_unsure(path: Path, channel_filter: ChannelFilter) -> bool:
    return opened(path, channel_filter) is None and not channel_filter.active_in


def octaves_apart(hertz: Array, other_hz: float) -> Array:
    """How far each frequency is from another, in octaves."""
    return np.abs(np.log2(hertz) - math.log2(other_hz))
