"""A simulated receiver: a volume law and a ceiling of its own."""

import math

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import Frozen, from_db


class SourceModel(Frozen):
    """A line output that is clean up to a volume number and clips beyond it."""

    top_volume: int
    clean_v: float
    """Highest clean RMS voltage."""
    overdrive_db: float
    """How far the top volume number drives it past `clean_v`."""
    step_db: float
    """Decibels per volume number."""
    unevenness_db: float = 0.05
    """Size of the volume law's ripple."""

    def volts(self, volume: int) -> float:
        """RMS volts at full scale as if nothing clipped: a law of even steps with a little ripple."""
        ripple = self.unevenness_db * math.sin(2.4 * volume)
        below_top_db = (self.top_volume - volume) * self.step_db
        return self.clean_v * from_db(self.overdrive_db - below_top_db + ripple)

    def wave(self, volume: int, phase: NDArray[np.float64], level_db: float) -> NDArray[np.float64]:
        """Volts at the line output for a sine of `level_db` dBFS at `phase` radians."""
        if volume <= 0:
            return np.zeros_like(phase)
        peak = math.sqrt(2) * self.volts(volume) * from_db(level_db)
        limit = math.sqrt(2) * self.clean_v
        return np.clip(peak * np.sin(phase), -limit, limit)
