"""A simulated multimeter: true RMS or average-responding, with the error, noise and steps of its data sheet."""

import math

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.instruments import MeterProfile
from upper_rook.core.units import Frozen

# An average-responding meter is calibrated for sines: π/(2√2).
FORM_FACTOR = math.pi / (2 * math.sqrt(2))


class MeterModel(Frozen):
    """One specimen of a profile; `seed` fixes where in its tolerance it lies."""

    profile: MeterProfile
    seed: int
    updates_per_s: float = 3.0

    def read(self, volts: NDArray[np.float64], tick: int) -> float:
        """AC volts as displayed at update number `tick`, for whole cycles of `volts`."""
        ac = volts - volts.mean()
        true = float(np.sqrt(np.mean(ac**2)) if self.profile.true_rms else np.mean(np.abs(ac)) * FORM_FACTOR)
        specimen = np.random.default_rng(self.seed).uniform(-0.6, 0.6) * self.profile.promises[0].percent / 100
        flicker = np.random.default_rng((self.seed, tick)).normal(0, 0.0006)
        shown = true * (1 + specimen + flicker)
        step = self.profile.resolution_v(shown)
        return round(shown / step) * step
