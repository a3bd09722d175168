"""The exponential sweep."""

import numpy as np
import scipy
from numpy.typing import NDArray

from upper_rook.core.common.units import from_db

SWEEP_HZ = (20.0, 20_000.0)
_FADE_S = 0.01


def sweep(
    level_dbfs: float, seconds: float = 60.0, rate_hz: int = 48000, between_hz: tuple[float, float] = SWEEP_HZ
) -> NDArray[np.float64]:
    """
    Samples in full scale ±1 of an exponential sweep, faded in and out so that it doesn't click.

    f(t) = f₁·(f₂/f₁)^(t/T) (Farina 2000, memory). Shape (seconds · rate_hz,).
    """
    times = np.arange(round(seconds * rate_hz)) / rate_hz
    wave = from_db(level_dbfs) * swept_sine(times, seconds, between_hz)
    return np.asarray(wave * np.clip(np.minimum(times, times[-1] - times) / _FADE_S, 0.0, 1.0))


def swept_sine(
    times: NDArray[np.float64], seconds: float, between_hz: tuple[float, float] = SWEEP_HZ
) -> NDArray[np.float64]:
    """The bare sweep at `times`, beginning at zero and going up; of the shape of `times`."""
    low, high = between_hz
    return np.asarray(scipy.signal.chirp(times, low, seconds, high, method="logarithmic", phi=-90))
