"""Ears at the simulated bench: they hear a tone turn harsh from some percent of distortion on."""

import numpy as np
from numpy.typing import NDArray

LEAST_PERCENT, MOST_PERCENT = 1.0, 3.0
"""Audible clipping of a mid tone is often put there (common practice, no source)."""


class Ears:
    """One person's ears: their threshold is drawn by the seed."""

    def __init__(self, seed: int) -> None:
        self.from_percent = float(np.random.default_rng([seed, 7]).uniform(LEAST_PERCENT, MOST_PERCENT))

    def is_harsh(self, cycle: NDArray[np.float64]) -> bool:
        """Whether one cycle of a tone, whatever its unit, sounds distorted."""
        spectrum = np.abs(np.fft.rfft(cycle - cycle.mean()))
        tone = float(spectrum[1])
        return tone > 0 and 100 * float(np.sqrt(np.sum(spectrum[2:] ** 2))) / tone >= self.from_percent
