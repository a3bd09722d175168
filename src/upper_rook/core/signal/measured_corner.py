"""A filter's true corner and slope from volts with it in and with it open."""

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import Frozen, Hertz, Volts, format_db
from upper_rook.core.signal.filters import Pass

Array = NDArray[np.float64]

_LEAST_DOUBT_DB = 0.05
_REACH_OCTAVES = 8.0
_SLOPES = (0.3, 10.0)
"""Orders that a fitted filter may have."""


def _first_guess(octaves: Array, down_db: Array, bounds: tuple[list[float], list[float]]) -> Array:
    """log2 x = log2(10^(down/10) − 1) / 2n: a straight line in log f, whose slope is the order."""
    past = (down_db / 10 * np.log2(10) + np.log2(-np.expm1(-down_db / 10 * np.log(10)))) / 2
    slope = float(np.polyfit(octaves, past, 1)[0]) if octaves.size > 1 and np.ptp(octaves) > 0 else 2.0
    slope = float(np.clip(slope, *_SLOPES))
    guess = np.array([float(np.mean(octaves - past / slope)), slope])
    return np.asarray(np.clip(guess, np.array(bounds[0]) + 1e-6, np.array(bounds[1]) - 1e-6))


class FilterReading(Frozen):
    """Volts with the filter in at one frequency, and with it open."""

    frequency_hz: Hertz
    filtered_v: Volts
    open_v: Volts


class MeasuredCorner(Frozen):
    """Where a filter really is, from readings."""

    corner_hz: float
    """3 dB down."""
    slope_db_octave: float
    order: int
    """The nearest whole one."""
    worst_db: float
    """The largest departure of a reading from the fitted filter."""
    reasons: tuple[str, ...] = ()


def measured_corner(kind: Pass, readings: Iterable[FilterReading], order: int | None = None) -> MeasuredCorner:
    """
    Corner and slope of a Butterworth filter through the readings; one reading needs `order`.

    Raises:
        BadInput: when the readings can't tell.
    """
    # It takes a while to load, which nothing else here needs.
    import scipy.optimize

    rows = list(readings)
    if not rows or (len(rows) == 1 and order is None):
        raise BadInput("One reading needs a known slope. Add a second reading, an octave away.")
    down_db = np.array([20 * np.log10(row.open_v / row.filtered_v) for row in rows])
    useful = down_db > _LEAST_DOUBT_DB
    if np.count_nonzero(useful) < (1 if order else 2):
        raise BadInput("The readings hardly fall. Read at the corner and beyond it.")
    octaves = np.log2([row.frequency_hz for row in rows]) * (1 if kind is Pass.LOW else -1)
    if order is None and np.ptp(octaves[useful]) < 0.1:
        raise BadInput("The readings are too close together. Add one an octave further.")

    def left(values: Array) -> Array:
        # 10·log10(1 + x²ⁿ), which must not overflow far beyond the corner.
        rise = 2 * (values[1] if order is None else order) * np.log(2) * (octaves - values[0])
        return np.asarray(10 / np.log(10) * np.logaddexp(0, rise) - down_db)

    # A corner some octaves outside of the readings can't be told from them anyway.
    lowest, highest = float(octaves.min()) - _REACH_OCTAVES, float(octaves.max()) + _REACH_OCTAVES
    bounds = ([lowest, _SLOPES[0]], [highest, _SLOPES[1]])
    found = scipy.optimize.least_squares(left, _first_guess(octaves[useful], down_db[useful], bounds), bounds=bounds).x
    bend = float(found[1]) if order is None else float(order)
    worst = float(np.max(np.abs(left(found))))
    reasons = (
        [] if worst < 1 else [f"A reading lies {format_db(worst)} off any filter: another filter may be in the way."]
    )
    return MeasuredCorner(
        corner_hz=float(2 ** (found[0] if kind is Pass.LOW else -found[0])),
        slope_db_octave=6.02 * bend,
        order=max(1, round(bend)),
        worst_db=worst,
        reasons=tuple(reasons),
    )


def corner_from(kind: Pass, order: int, frequency_hz: float, down_db: float) -> float | None:
    """
    The 3 dB corner of a Butterworth filter of a known order that is `down_db` down at a frequency; None where it isn't.

    |H|² = 1 / (1 + (f_c/f)^2n) for a high-pass, f/f_c for a low-pass.
    """
    ratio = 10 ** (down_db / 10) - 1
    if ratio <= 0:
        return None
    away = float(ratio ** (1 / (2 * order)))
    return frequency_hz * away if kind is Pass.HIGH else frequency_hz / away
