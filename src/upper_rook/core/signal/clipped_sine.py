"""
A sine of amplitude k (k ≥ 1) clipped symmetrically at ±1, in closed form.

Every function takes the overdrive 20·log10(k) in dB, a number or an array, 0 or less meaning clean. Derived by Fourier
integration with θ = arcsin(1/k); anyone can redo it.
"""

import numpy as np
from numpy.typing import ArrayLike, NDArray

Array = NDArray[np.float64]

EDGE_DB = 0.25
"""Overdrive at which a hard-clipped sine reaches 1 % THD: a quarter of a decibel."""
SQUARE_DB = 20.0
"""Overdrive from which a wave is called square: its edges take less than 7 % of a cycle."""
FORM_FACTOR = np.pi / (2 * np.sqrt(2))
"""Factor of an average-responding meter, which is calibrated for sines."""


def fundamental(over_db: ArrayLike) -> Array:
    """Amplitude of the fundamental, in clipping levels: (2k/π)·(θ + √(1−1/k²)/k)."""
    k, theta = _k_theta(over_db)
    return np.asarray((2 * k / np.pi) * (theta + np.sqrt(1 - 1 / k**2) / k))


def rms(over_db: ArrayLike) -> Array:
    """RMS in clipping levels: √((2/π)·[k²(θ/2 − sin 2θ/4) + π/2 − θ])."""
    k, theta = _k_theta(over_db)
    return np.asarray(np.sqrt((2 / np.pi) * (k**2 * (theta / 2 - np.sin(2 * theta) / 4) + np.pi / 2 - theta)))


def mean_absolute(over_db: ArrayLike) -> Array:
    """Mean absolute value in clipping levels: (2/π)·[k(1 − cos θ) + π/2 − θ]."""
    k, theta = _k_theta(over_db)
    return np.asarray((2 / np.pi) * (k * (1 - np.cos(theta)) + np.pi / 2 - theta))


def thd(over_db: ArrayLike) -> Array:
    """Harmonics over the fundamental, as a ratio: √(2·ms/b₁² − 1)."""
    return np.asarray(np.sqrt(np.maximum(0.0, 2 * rms(over_db) ** 2 / fundamental(over_db) ** 2 - 1)))


def rms_above_db(over_db: ArrayLike) -> Array:
    """How far the RMS lies above that of the highest clean sine, in dB."""
    return np.asarray(20 * np.log10(np.sqrt(2) * rms(over_db)))


def average_meter_db(over_db: ArrayLike) -> Array:
    """Reading of an average-responding meter, in dB above the true RMS."""
    return np.asarray(20 * np.log10(FORM_FACTOR * mean_absolute(over_db) / rms(over_db)))


def _k_theta(over_db: ArrayLike) -> tuple[Array, Array]:
    k = 10 ** (np.maximum(0.0, np.asarray(over_db, dtype=np.float64)) / 20)
    return k, np.arcsin(1 / k)
