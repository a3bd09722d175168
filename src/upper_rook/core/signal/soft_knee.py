"""
A sine through a limiter that has no sharp clean maximum, found by its harmonics.

One with a knee, x / (1 + |x|ᵖ)^(1/p), hard where p is large, or a cubic one, x − x³/3 up to its end.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from upper_rook.core.signal import harmonic_fit
from upper_rook.core.signal.harmonic_fit import SINE, Array, Complex
from upper_rook.core.signal.tone_fit import Harmonics

CLEAN_THD = 0.01
_DB = 20 / float(np.log(10))
_STARTS_DB = (3.0, 10.0)
_FEWEST_HARMONICS = 5


@dataclass(frozen=True)
class SoftKnee:
    """A drive past the clean maximum, which is where the distortion reaches 1 %. Doubts are standard uncertainties."""

    over_db: float
    over_doubt_db: float
    clean_v: float
    clean_doubt_v: float
    unexplained: float
    chi_square: float
    phasors: Complex


def fit(harmonics: Harmonics) -> SoftKnee | None:
    """The limiter that explains these harmonics best, one with a knee or a cubic one; None where neither does."""
    found = [soft_knee for shape in (_KNEE, _CUBIC) if (soft_knee := _fitted(harmonics, shape)) is not None]
    return min(found, key=lambda soft_knee: soft_knee.chi_square, default=None)


@dataclass(frozen=True)
class _Shape:
    """A limiter: what comes out at a drive, with the parameters that it has of its own."""

    bend: Callable[[Array, Array], Array]
    starts: tuple[tuple[float, ...], ...]
    low: tuple[float, ...]
    high: tuple[float, ...]


def _fitted(harmonics: Harmonics, shape: _Shape) -> SoftKnee | None:
    orders = harmonic_fit.numbers(harmonics)
    if orders.size < _FEWEST_HARMONICS:
        return None

    def model(rows: Array) -> Complex:
        return harmonic_fit.phasors_of(shape.bend(np.exp(rows[:, :1]) * SINE, rows[:, 3:]), orders)

    starts = (np.array([drive_db / _DB, 0.0, 0.0, *own]) for own in shape.starts for drive_db in _STARTS_DB)
    low, high = np.array([-20.0 / _DB, -25.0, -25.0, *shape.low]), np.array([30.0 / _DB, 25.0, 25.0, *shape.high])
    found = harmonic_fit.fit(harmonics, model, starts, low, high)
    if found is None or not found.explains:
        return None

    def over_db(values: Array) -> float:
        return _DB * (float(values[0]) - _log_drive_at_clean_maximum(shape, values[3:]))

    def log_clean(values: Array) -> float:
        at = np.exp(_log_drive_at_clean_maximum(shape, values[3:]))
        there = shape.bend((at * SINE)[None], values[None, 3:])
        return float(values[1] + np.log(np.sqrt(np.mean(there**2))))

    clean = float(np.exp(log_clean(found.values)))
    return SoftKnee(
        over_db=over_db(found.values),
        over_doubt_db=found.spread_of(over_db),
        clean_v=clean,
        clean_doubt_v=clean * found.spread_of(log_clean),
        unexplained=found.unexplained,
        chi_square=found.chi_square,
        phasors=found.phasors,
    )


def knee(driven: Array, power: ArrayLike) -> Array:
    """X / (1 + |x|ᵖ)^(1/p) of a wave in limits, `power` a number or one for each row."""
    # As max·(1 + (min/max)ᵖ)^(1/p), so that no power of a large number is needed.
    size = np.abs(driven)
    high, low = np.maximum(size, 1.0), np.minimum(size, 1.0)
    exponent = np.asarray(power, dtype=np.float64)
    return np.asarray(driven / (high * (1 + (low / high) ** exponent) ** (1 / exponent)))


def _knee(driven: Array, own: Array) -> Array:
    return knee(driven, np.exp(own[:, :1]))


def cubic(driven: Array) -> Array:
    """The limiter x − x³/3 up to its end, where it stays."""
    held = np.clip(driven, -1.0, 1.0)
    return np.asarray(held - held**3 / 3)


_KNEE = _Shape(_knee, tuple((float(np.log(power)),) for power in (6.0, 2.5, 15.0)), (np.log(0.9),), (np.log(60.0),))
_CUBIC = _Shape(lambda driven, _own: cubic(driven), ((),), (), ())


def _log_drive_at_clean_maximum(shape: _Shape, own: Array) -> float:
    """The drive at which such a limiter makes 1 % of distortion, found by halving."""
    low, high = np.log(1e-4), np.log(30.0)
    for _ in range(40):
        middle = (low + high) / 2
        bins = np.abs(np.fft.rfft(shape.bend((np.exp(middle) * SINE)[None], own[None])[0]))
        thd = np.sqrt(np.sum(bins[2:] ** 2)) / bins[1]
        low, high = (middle, high) if thd < CLEAN_THD else (low, middle)
    return float(low)
