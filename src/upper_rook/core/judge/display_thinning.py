"""Whether flat tops are the instrument's own: a screen or a converter at its end gives one value again and again."""

import math

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.judge.fitted_wave import FittedWave

Array = NDArray[np.float64]
Sides = tuple[int, ...]
"""1 for the positive side, -1 for the negative."""

_LEAST_NOISE = 0.35
"""Of a code, from which noise shows on a flat."""
_ALIKE, _FEWEST_ALIKE = 0.95, 5
_HARDLY_OVER_DB = 0.3
"""A wave that fills its screen and is cut by no more is the screen's until a larger range shows otherwise."""
_BEYOND = 4.0
"""Standard deviations of the noise past a flat, beyond which no sample of a converter at its end is anything else."""
_FEW_SLOPES, _UNEVEN = 12, 2.1


def is_over_range(wave: FittedWave, sides: Sides, limits_v: tuple[float, float] | None) -> bool:
    """
    Whether the flats are the converter's own limits, which its file may name.

    A real flat top is as noisy as the rest of the wave; a converter at its limit gives one code again and again.
    Without noise a span of all codes but one (2ⁿ − 1) gives it away.
    """
    raw, step = wave.raw, wave.step
    flats = {side: raw[_well_beyond(wave, side)] for side in sides}
    extremes = {side: float(flat.max() if side > 0 else flat.min()) for side, flat in flats.items() if flat.size}
    if limits_v:
        low, high = limits_v
        near = max(1.5 * step, 2e-4 * (high - low))
        if any(value >= high - near if side > 0 else value <= low + near for side, value in extremes.items()):
            return True
    if _spans_all_codes(wave) and max(wave.clip.over_db(side) for side in sides) < _HARDLY_OVER_DB:
        return True
    alike = [_share_alike(flats[side], extremes[side], step) for side in extremes]
    if not alike or min(alike) <= _ALIKE or min(flats[side].size for side in extremes) < _FEWEST_ALIKE:
        return bool(sides) and all(_tied_beyond_chance(wave, side) for side in sides)
    if _is_noisy(wave):
        return True
    return _spans_all_codes(wave)


def _spans_all_codes(wave: FittedWave) -> bool:
    """Whether the wave reaches from the lowest code of a converter to its highest, or all but one of them."""
    codes = round(float(np.ptp(wave.raw)) / wave.step) if wave.step > 0 else 0
    return codes in {2**bits - less for bits in range(6, 17) for less in (1, 2)}


def _tied_beyond_chance(wave: FittedWave, side: int) -> bool:
    """Whether a flat's samples are the same code more often than the noise would leave them."""
    if wave.step <= 0 or not _is_noisy(wave):
        return False
    flat = wave.raw[wave.clip.flat(side)]
    own = np.sqrt(max(0.0, _noise(wave) - wave.step**2 / 12))
    if flat.size < _FEWEST_ALIKE or own < _LEAST_NOISE * wave.step:
        return False
    extreme = float(flat.max() if side > 0 else flat.min())
    by_chance = math.erf(0.5 * wave.step / own / math.sqrt(2))
    more = (_share_alike(flat, extreme, wave.step) - by_chance) * flat.size
    return bool(more > 3 * np.sqrt(flat.size * by_chance * (1 - by_chance)) + 1)


def _noise(wave: FittedWave) -> float:
    """Variance of the noise itself: a soft limiter leaves the slopes of a clipped sine more than that."""
    return min(wave.noise_on_slopes, wave.harmonics.noise_v**2)


def may_be_screen(wave: FittedWave, sides: Sides) -> bool:
    """Whether nothing tells a flat from the end of a screen: every sample on it has the same value."""
    flats = {side: wave.raw[wave.clip.flat(side)] for side in sides}
    return all(
        flat.size >= 3 and _share_alike(flat, float(flat.max() if side > 0 else flat.min()), wave.step) > _ALIKE
        for side, flat in flats.items()
    )


def _is_noisy(wave: FittedWave) -> bool:
    """Whether the slopes carry noise of their own: more than a converter's steps, and not as even as those leave."""
    own = max(0.0, _noise(wave) - wave.step**2 / 12)
    if own < max((0.3 * wave.step) ** 2, (1e-4 * wave.clip.amplitude_v) ** 2):
        return False
    left = (wave.volts - wave.clip.fitted)[wave.slopes]
    # What steps leave is even between its ends, √3 of its own spread.
    return bool(left.size >= _FEW_SLOPES and np.max(np.abs(left)) > _UNEVEN * np.sqrt(wave.noise_on_slopes))


def _well_beyond(wave: FittedWave, side: int) -> NDArray[np.bool_]:
    """The samples whose sine lies past the flat by more than noise: those near its corners may be off it."""
    level = wave.clip.values[4 if side > 0 else 5]
    past = side * (wave.clip.sine - level)
    return np.asarray(past > _BEYOND * np.sqrt(_noise(wave)))


def _share_alike(flat: Array, extreme: float, step: float) -> float:
    """How many of a flat's samples are one and the same value."""
    within = max(0.5 * step, 1e-9 * abs(extreme))
    return float(np.mean(np.abs(flat - extreme) < within)) if flat.size else 0.0
