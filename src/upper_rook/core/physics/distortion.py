"""Distortion that a stage adds: what is left of its output when the undistorted wave is taken out."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

CLEAN_WITHIN = 0.01
"""Up to this part of its output a stage counts as clean (CTA-2006 rates power at 1 % THD+N; from memory)."""


def added_distortion(output: Array, undistorted: Array) -> float:
    """
    Distortion as part of the output, from 0 to 1; both arrays hold whole cycles, in volts.

    The undistorted wave is scaled to fit first (least squares), so that a limiter that only turns down adds none.
    """
    power, reference = float(output @ output), float(undistorted @ undistorted)
    if power == 0 or reference == 0:
        return 0.0
    rest = output - undistorted * (float(output @ undistorted) / reference)
    return float(np.sqrt(rest @ rest / power))
