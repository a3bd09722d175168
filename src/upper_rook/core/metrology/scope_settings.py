"""Settings of an oscilloscope for a sine of known volts: what a person would turn to first."""

import math

from upper_rook.core.common.units import format_value

_HEIGHT, _WIDTH = 8, 10
"""Divisions of a common screen."""
_FILLED = 0.8
"""Share of the height that the wave takes: a trace larger than the screen looks clipped."""
_PERIODS = 2
_STEPS = (1.0, 2.0, 5.0, 10.0)


def scope_settings(volts: float, hertz: float) -> str:
    """
    Coupling, volts and time a division for a sine of `volts` RMS at `hertz`, in 1-2-5 steps.

    >>> scope_settings(16.0, 1000)
    'AC, 10 V and 200 µs a division'
    >>> scope_settings(4.0, 40)
    'AC, 2 V and 5 ms a division'
    """
    height = _step_up(2 * math.sqrt(2) * volts / (_FILLED * _HEIGHT))
    width = _step_up(_PERIODS / hertz / _WIDTH)
    return f"AC, {format_value(height, 'V', 3)} and {_seconds(width)} a division"


def _step_up(least: float) -> float:
    """The next setting of a 1-2-5 scale that is no smaller."""
    decade = 10.0 ** math.floor(math.log10(least))
    return float(next(step * decade for step in _STEPS if step * decade >= least * (1 - 1e-9)))


def _seconds(seconds: float) -> str:
    return f"{seconds * 1e3:g} ms" if seconds >= 1e-3 - 1e-12 else f"{seconds * 1e6:g} µs"
