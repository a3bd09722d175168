"""The frequencies that responses are worked out over."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

GRID_HZ = np.geomspace(20.0, 20_000.0, 181)
"""Eighteenths of an octave, shape (181,)."""
