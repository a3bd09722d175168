"""
Filters and equaliser bands as difference equations, and what they make of a wave that repeats.

Designed by scipy.signal from analogue prototypes, so that nothing of a planner's curves is in it.
"""

from collections.abc import Iterable
from functools import lru_cache
from typing import Any

import numpy as np
import scipy
from numpy.typing import NDArray

from upper_rook.core.signal.filters import BandKind, Crossover, EqualiserBand, Pass, Shape

Array = NDArray[np.float64]
_Zpk = tuple[Any, Any, Any]
"""Zeros, poles and gain: scipy's own types tell real and complex ones apart in ways that don't help here."""

CYCLE = 1000
"""Samples of a cycle, at every frequency."""
PROCESSOR_RATE_HZ = 48_000.0
_WARP = 2 * CYCLE * float(np.tan(np.pi / CYCLE))
"""Factor on a corner in hertz that makes the tone itself pass as in the analogue prototype."""


def settled(cycle: Array, sections: Iterable[Array]) -> Array:
    """
    One cycle of a steady wave after second-order sections.

    Each runs once from rest; what is left in it after a cycle gives the state at which a cycle ends as it began.
    """
    for section in sections:
        row = section[None, :]
        _, rest = scipy.signal.sosfilt(row, cycle, zi=np.zeros((1, 2)))
        step = np.array([[-section[4], 1.0], [-section[5], 0.0]])
        whole = np.linalg.matrix_power(step, cycle.size)
        begin = np.linalg.solve(np.eye(2) - whole, rest[0])
        cycle, _ = scipy.signal.sosfilt(row, cycle, zi=begin[None, :])
    return cycle


@lru_cache(maxsize=2048)
def of_crossover(crossover: Crossover, tone_hz: float) -> tuple[Array, ...]:
    """A filter's sections, sampled a thousand times a cycle of the tone."""
    rate = CYCLE * tone_hz
    prototype = _prototype(crossover)
    past = 1.0 if crossover.depth_db is None else _reaching(prototype, crossover.depth_db)
    low = crossover.kind is Pass.LOW
    corner = crossover.corner_hz / past if low else crossover.corner_hz * past
    warped = corner * _WARP
    turn: Any = scipy.signal.lp2lp_zpk if low else scipy.signal.lp2hp_zpk
    return _sections(turn(*prototype, warped), rate)


def _prototype(crossover: Crossover) -> _Zpk:
    """Zeros, poles and gain of the low-pass with its corner at 1."""
    found: Any
    if crossover.shape is Shape.LINKWITZ_RILEY:
        zeros, poles, gain = scipy.signal.buttap(crossover.order // 2)
        return np.tile(zeros, 2), np.tile(poles, 2), gain**2
    if crossover.shape is Shape.BESSEL:
        found = scipy.signal.besselap(crossover.order, norm="mag")
    elif crossover.q is not None:
        found = scipy.signal.tf2zpk([1.0], [1.0, 1 / crossover.q, 1.0])
    else:
        found = scipy.signal.buttap(crossover.order)
    return tuple(found)


def _sections(turned: _Zpk, rate: float) -> tuple[Array, ...]:
    """An analogue filter as difference equations."""
    zeros, poles, gain = scipy.signal.bilinear_zpk(*turned, rate)
    return tuple(scipy.signal.zpk2sos(zeros, poles, gain))


def _reaching(prototype: _Zpk, depth_db: float) -> float:
    """Corners at which a low-pass is so many decibels down."""

    def above(octaves: float) -> float:
        _, response = scipy.signal.freqs_zpk(*prototype, [2.0**octaves])
        return float(20 * np.log10(abs(response[0]))) - depth_db

    return float(2.0 ** scipy.optimize.brentq(above, -8.0, 8.0))


@lru_cache(maxsize=2048)
def of_band(band: EqualiserBand, tone_hz: float, *, digital: bool) -> tuple[Array, ...]:
    """
    A band's sections, by the analogue prototypes of the W3C Audio EQ Cookbook.

    In a digital processor its centre is moved so that the tone passes as at the processor's own rate.
    """
    rate = CYCLE * tone_hz
    centre = band.frequency_hz
    if digital:
        half = np.pi / PROCESSOR_RATE_HZ
        highest = 0.49 * PROCESSOR_RATE_HZ
        centre = tone_hz * np.tan(half * min(centre, highest)) / np.tan(half * min(tone_hz, highest))
    a, q = 10 ** (band.gain_db / 40), band.q
    bend = np.sqrt(a) / q
    top, bottom = {
        BandKind.PEAK: ([1, a / q, 1], [1, 1 / (a * q), 1]),
        BandKind.LOW_SHELF: ([a, a * bend, a * a], [a, bend, 1]),
        BandKind.HIGH_SHELF: ([a * a, a * bend, a], [1, bend, a]),
    }[band.kind]
    warped = centre * _WARP
    zeros, poles, gain = scipy.signal.tf2zpk(top, bottom)
    return _sections(scipy.signal.lp2lp_zpk(zeros, poles, float(gain), warped), rate)
