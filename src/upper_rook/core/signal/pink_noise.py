"""Pink noise: as much power in every octave."""

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import from_db

LOWEST_HZ, HIGHEST_HZ = 20.0, 20_000.0
LEVEL_DBFS = -20.0
"""RMS against that of a full-scale sine: leaves room for its peaks (common practice, no source)."""


def pink_noise(
    seconds: float, rate_hz: int = 48_000, level_dbfs: float = LEVEL_DBFS, seed: int = 1
) -> NDArray[np.float64]:
    """
    Samples of pink noise in full scale ±1 that loop without a click, from 20 Hz to 20 kHz.

    Its amplitude falls with 1/√f, so that every octave has the same power; the level is that of its RMS, where 0 dBFS
    is a sine whose peak is full scale (AES17, memory). The same seed gives the same noise.
    """
    count = round(seconds * rate_hz)
    frequencies = np.fft.rfftfreq(count, 1 / rate_hz)
    inside = (frequencies >= LOWEST_HZ) & (frequencies <= min(HIGHEST_HZ, 0.49 * rate_hz))
    phases = np.random.default_rng(seed).uniform(0, 2 * np.pi, frequencies.size)
    spectrum = np.zeros(frequencies.size, dtype=complex)
    spectrum[inside] = np.exp(1j * phases[inside]) / np.sqrt(frequencies[inside])
    wave: NDArray[np.float64] = np.fft.irfft(spectrum, count)
    wave *= from_db(level_dbfs) / np.sqrt(2 * np.mean(wave**2))
    return wave
