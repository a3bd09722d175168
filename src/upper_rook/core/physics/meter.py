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

    bandwidth_hz: float | None = None
    """Where it reads 3 dB low; None for one that reads everything alike."""

    def read(self, volts: NDArray[np.float64], tick: int, frequency_hz: float = 0.0) -> float:
        """AC volts as displayed at update number `tick`, for one cycle of `volts` that repeats at `frequency_hz`."""
        ac = self._heard(volts - volts.mean(), frequency_hz)
        true = float(np.sqrt(np.mean(ac**2)) if self.true_rms else np.mean(np.abs(ac)) * FORM_FACTOR)
        specimen = np.random.default_rng(self.seed).uniform(-0.6, 0.6) * self.percent / 100
        flicker = np.random.default_rng((self.seed, tick)).normal(0, 0.0006)
        shown = true * (1 + specimen + flicker)
        step = next((full for full in self.ranges_v if shown <= full), self.ranges_v[-1]) / self.steps
        return round(shown / step) * step

    def _heard(self, cycle: NDArray[np.float64], frequency_hz: float) -> NDArray[np.float64]:
        """The wave behind its input stage: a pole at the end of its bandwidth, harmonic by harmonic."""
        if self.bandwidth_hz is None:
            return cycle
        harmonics = np.fft.rfft(cycle)
        pole = 1 / (1 + 1j * np.arange(harmonics.size) * frequency_hz / self.bandwidth_hz)
        return np.asarray(np.fft.irfft(harmonics * pole, cycle.size))
