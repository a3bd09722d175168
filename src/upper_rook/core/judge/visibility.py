"""The least clipping that a capture would have shown, from its harmonics, its noise and its length."""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

CERTAIN_DB = 0.4
"""A wave is called clean where this much clipping would show: half a decibel, some 2 % of distortion, misleads."""
BAND = 0.45
"""Part of the rate up to which a recorder surely passes a harmonic; its filter removes what lies beyond a half."""
_SEEN = 7.0
"""
Standard deviations of noise by which harmonics must stand out in the mean.

Clipping counts from 4 of them; 3 more make sure that it is missed once in a thousand captures at most.
"""
_STEPS_DB = np.geomspace(0.05, 12.0, 48)
_ORDERS = np.arange(2, 26)
_FINE = 2048


def least_visible_db(frequency: float, count: int, noise: float) -> float | None:
    """
    Least overdrive of one side, in dB, that shows in `count` samples; None where none would.

    `frequency` is the tone's in cycles a sample, `noise` an RMS over the tone's amplitude. With n samples a harmonic
    of amplitude b stands b·√(n/2)/σ out of noise of σ.
    """
    inside = _ORDERS * frequency < BAND
    # Both sides alike leave no even harmonics: the third must be there.
    if not inside[1]:
        return None
    power = np.sum(_one_sided()[:, inside] ** 2, axis=1) * count / 2
    seen = np.flatnonzero(power > (_SEEN * noise) ** 2)
    return float(_STEPS_DB[seen[0]]) if seen.size else None


def third_fits_hz(rate_hz: float) -> float:
    """The highest tone whose third harmonic a rate surely holds."""
    return rate_hz * BAND / 3


@lru_cache(maxsize=1)
def _one_sided() -> Array:
    """Harmonics 2 to 25 of a sine clipped on one side, over its fundamental; a row for each overdrive."""
    turns = np.sin(2 * np.pi * np.arange(_FINE) / _FINE)
    waves = np.minimum(turns, 10 ** (-_STEPS_DB[:, None] / 20))
    bins = np.abs(np.fft.rfft(waves, axis=1))
    return np.asarray(bins[:, 2:26] / bins[:, 1:2])
