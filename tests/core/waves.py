"""Captured waves for the tests of the judge, seeded."""

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.signal.trace import Trace

Array = NDArray[np.float64]
RATE = 100_000.0


def sine(
    cycles: float = 10, count: int = 1000, peak: float = 5.0, phase: float = 0.3, rate_hz: float = RATE
) -> tuple[Array, float]:
    """(a sine, its frequency in Hz)."""
    turns = np.arange(count) * cycles / count
    return peak * np.sin(2 * np.pi * turns + phase), cycles / count * rate_hz


def clipped(over_db: float, level: float = 5.0, low: float | None = None, **how: float) -> tuple[Array, float]:
    """(a sine driven `over_db` past ±`level`, its frequency); `low` sets another lower level."""
    wave, hertz = sine(peak=level * 10 ** (over_db / 20), **how)  # type: ignore[arg-type]
    return np.clip(wave, -(low if low is not None else level), level), hertz


def digitised(volts: Array, bits: int = 8, fill: float = 0.7, noise_lsb: float = 0.7, seed: int = 0) -> Array:
    """As a converter of `bits` gives it, the wave's peak at `fill` of its range."""
    dice = np.random.default_rng(seed)
    half = 2 ** (bits - 1)
    step = float(np.max(np.abs(volts))) / (fill * half)
    return np.asarray(
        np.clip(np.round(volts / step + noise_lsb * dice.normal(size=volts.size)), -half, half - 1) * step
    )


def trace(volts: Array, rate_hz: float = RATE, limits_v: tuple[float, float] | None = None) -> Trace:
    """A channel of them."""
    return Trace(volts, rate_hz, "CH1", limits_v)
