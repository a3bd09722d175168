"""A simulated small oscilloscope and a recorder: what they make of the volts at a probe."""

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import Frozen
from upper_rook.core.signal.swept_tone import SWEEP_HZ, swept_sine

Array = NDArray[np.float64]

_RANGES = (0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200)
"""Volts from the middle of the screen to its edge."""


class ScopeModel(Frozen):
    """A scope of few bits, whose samples carry noise and the steps of its converter."""

    bits: int = 8
    samples: int = 2000
    cycles: float = 6.3
    noise_lsb: float = 0.7

    def trace(self, cycle: Array, frequency_hz: float, seed: int) -> tuple[float, Array]:
        """(samples a second, volts on the screen) for whole-cycle volts `cycle`, on the smallest range that fits."""
        dice = np.random.default_rng(seed)
        rate = frequency_hz * self.samples / self.cycles
        turns = dice.random() + np.arange(self.samples) * frequency_hz / rate
        volts = np.interp(turns % 1, np.arange(cycle.size + 1) / cycle.size, np.append(cycle, cycle[0]))
        peak = float(np.max(np.abs(cycle)))
        full = next((volts for volts in _RANGES if volts > 1.08 * peak), _RANGES[-1])
        return rate, self.digitise(volts, float(full), dice)

    def digitise(self, volts: Array, full_v: float, dice: np.random.Generator) -> Array:
        """Wave on a screen of ±`full_v`; beyond it the converter stops."""
        half = 2 ** (self.bits - 1)
        step = full_v / half
        noisy = volts + self.noise_lsb * step * dice.normal(size=volts.size)
        return np.asarray(np.clip(np.round(noisy / step), -half, half - 1) * step)


def swept(
    seconds: float, rate_hz: float, top_v: float, *, boost_db: float, boost_hz: float, clean_maximum_v: float
) -> Array:
    """
    A recorded exponential sweep, 20 Hz to 20 kHz, through a boost of one octave's width and a stage that clips.

    The boost is applied as its gain at each moment's frequency, as for a sweep that is slow.
    """
    times = np.arange(round(seconds * rate_hz)) / rate_hz
    low, high = SWEEP_HZ
    frequency = low * (high / low) ** (times / seconds)
    gain_db = boost_db * np.exp(-0.5 * (np.log2(frequency / boost_hz) / 0.5) ** 2)
    wave = top_v * 10 ** (gain_db / 20) * swept_sine(times, seconds)
    return np.asarray(np.clip(wave, -clean_maximum_v, clean_maximum_v))
