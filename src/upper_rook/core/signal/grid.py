"""The frequencies that responses are worked out over."""

import math

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

GRID_HZ = np.geomspace(20.0, 20_000.0, 181)
"""Eighteenths of an octave, shape (181,)."""
LOG_GRID = np.log(GRID_HZ)


def level_at_db(curve_db: Array, frequency_hz: float) -> float:
    """A curve over GRID_HZ at one frequency."""
    return float(np.interp(math.log(frequency_hz), LOG_GRID, curve_db))
