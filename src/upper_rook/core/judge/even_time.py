"""A tone whose frequency drifts, brought back to even cycles: a generator warming up, a clock that wanders."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import format_value
from upper_rook.core.judge.segment import Part

Array = NDArray[np.float64]

_FEWEST_BLOCKS = 4
_DEGREE = 3
_LEAST_CYCLES = 0.002
"""How far from even cycles a tone must be, to be brought back."""
_SMOOTH = 0.2
"""Of that, at most, may be other than a slow bend: a jump is no drift."""
_MOST_DRIFT = 0.3
_TURN = 2 * np.pi


def evened(part: Part) -> Part | None:
    """The part at even cycles of its tone, with the reason; None where its frequency doesn't drift."""
    bend = _bend(part)
    if bend is None:
        return None
    steps = np.arange(part.volts.size, dtype=float)
    turns = part.frequency * steps + bend
    rate = np.diff(turns)
    if rate.min() < (1 - _MOST_DRIFT) * part.frequency or rate.max() > (1 + _MOST_DRIFT) * part.frequency:
        return None
    even = np.linspace(turns[0], turns[-1], part.volts.size)
    # It takes a moment to load, which a steady tone need not wait for.
    from scipy.interpolate import CubicSpline

    volts = np.asarray(CubicSpline(steps, part.volts)(np.interp(even, turns, steps)))
    drift = 100 * float(np.ptp(rate)) / part.frequency
    told = (
        f"The tone’s frequency drifts by {format_value(drift, '%', 2)} in this capture: corrected before the analysis."
    )
    frequency = float((turns[-1] - turns[0]) / (part.volts.size - 1))
    return replace(part, volts=volts, frequency=frequency, reasons=(*part.reasons, told))


def _bend(part: Part) -> Array | None:
    """By how many cycles the tone is ahead of an even one at each sample, shape (n,); None where it isn't."""
    period = max(2, round(1 / part.frequency))
    count = part.volts.size // period
    if count < _FEWEST_BLOCKS:
        return None
    steps = np.arange(count * period)
    ac = part.volts[: count * period] - part.volts.mean()
    turned = (ac * np.exp(-1j * _TURN * part.frequency * steps)).reshape(count, period).mean(axis=1)
    ahead = np.unwrap(np.angle(turned)) / _TURN
    places = ((np.arange(count) + 0.5) * period / part.volts.size) * 2 - 1
    degree = min(_DEGREE, count - 2)
    fitted = np.polynomial.polynomial.polyfit(places, ahead, degree)
    straight = np.polynomial.polynomial.polyfit(places, ahead, 1)
    off = float(np.std(ahead - np.polynomial.polynomial.polyval(places, straight)))
    left = float(np.std(ahead - np.polynomial.polynomial.polyval(places, fitted)))
    if off < _LEAST_CYCLES or left > _SMOOTH * off:
        return None
    along = 2 * np.arange(part.volts.size) / part.volts.size - 1
    return np.asarray(np.polynomial.polynomial.polyval(along, fitted))
