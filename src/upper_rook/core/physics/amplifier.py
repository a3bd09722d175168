"""A simulated amplifier channel: a gain knob, and rails that move with supply and load."""

import math

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import Frozen

Array = NDArray[np.float64]

# The supply at which makers rate (CTA-2006, memory).
RATED_SUPPLY_V = 14.4
_FALLS = 0.3
"""A limiter's output falls by so much of what drives it too far, in decibels of decibels."""
_NEARLY = 0.985
"""Of the rails: where a clip light lights."""


class AmplifierModel(Frozen):
    """Gain, then symmetrical limits at the rails."""

    rated_v: float
    """Output that the printed scale refers to, RMS."""
    sensitivity_down_v: float
    sensitivity_up_v: float
    """Input volts that give `rated_v` at either end of the knob."""
    rail_peak_v: float
    """Peak of the output at the rails, unloaded, at the rated supply."""
    output_ohm: float
    """Resistance behind the rails, which makes them sag under load."""
    regulated: bool
    input_top_v: float | None = None
    """Highest clean input, volts RMS: its first stage clips before the gain. None for one that never does."""
    limiter: bool = False
    """Whether it holds itself back instead of clipping: at one more click its volts fall."""
    reaches: float = 1.0
    """How far up its knob does anything."""

    def gain(self, knob: float) -> float:
        """Voltage gain at a knob position from 0 (down) to 1 (up), on a logarithmic scale."""
        turned = min(knob, self.reaches)
        sensitivity = self.sensitivity_down_v * math.pow(self.sensitivity_up_v / self.sensitivity_down_v, turned)
        return self.rated_v / sensitivity

    def limit(self, supply_v: float, load_ohm: float) -> float:
        """Peak volts at which the output flattens; `load_ohm` is infinite for open terminals."""
        supply = 1.0 if self.regulated else supply_v / RATED_SUPPLY_V
        loaded = 1.0 if math.isinf(load_ohm) else load_ohm / (load_ohm + self.output_ohm)
        return self.rail_peak_v * supply * loaded

    def wave(self, input_v: Array, knob: float, supply_v: float, load_ohm: float, *, limited: bool = True) -> Array:
        """Volts at the speaker terminals; with `limited` off as if rails had no end."""
        if not limited:
            return np.asarray(input_v * self.gain(knob))
        most = math.inf if self.input_top_v is None else math.sqrt(2) * self.input_top_v
        limit, driven = self.limit(supply_v, load_ohm), np.clip(input_v, -most, most) * self.gain(knob)
        over = float(np.max(np.abs(driven))) / limit
        if self.limiter and over > 1:
            return np.asarray(driven * over ** -(1 + _FALLS))
        return np.asarray(np.clip(driven, -limit, limit))

    def lamp(self, input_v: Array, knob: float, supply_v: float, load_ohm: float) -> bool:
        """Whether its clip light is lit."""
        driven = float(np.max(np.abs(input_v))) * self.gain(knob)
        return driven > _NEARLY * self.limit(supply_v, load_ohm)
