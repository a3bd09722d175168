"""A simulated multimeter: true RMS or average-responding, with the error, noise and steps of its data sheet."""

import math

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import Frozen

# An average-responding meter is calibrated for sines: π/(2√2).
FORM_FACTOR = math.pi / (2 * math.sqrt(2))


class MeterModel(Frozen):
    """One specimen of a data sheet; `seed` fixes where in its tolerance it lies."""

    percent: float
    """Of the reading, by which a specimen may be off."""
    ranges_v: tuple[float, ...]
    """Full scale of each range, lowest first."""
    steps: int
    """Steps of the display in a range."""
    true_rms: bool
    seed: int
    updates_per_s: float = 3.0

    def read(self, volts: NDArray[np.float64], tick: int) -> float:
        """AC volts as displayed at update number `tick`, for whole cycles of `volts`."""
        ac = volts - volts.mean()
        true = float(np.sqrt(np.mean(ac**2)) if self.true_rms else np.mean(np.abs(ac)) * FORM_FACTOR)
        specimen = np.random.default_rng(self.seed).uniform(-0.6, 0.6) * self.percent / 100
        flicker = np.random.default_rng((self.seed, tick)).normal(0, 0.0006)
        shown = true * (1 + specimen + flicker)
        step = next((full for full in self.ranges_v if shown <= full), self.ranges_v[-1]) / self.steps
        return round(shown / step) * step
