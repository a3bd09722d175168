"""A simulated filter on an amplifier: a dial whose scale is off by some per cent."""

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import Frozen, Hertz
from upper_rook.core.physics.sections import of_crossover, settled
from upper_rook.core.signal.filters import Crossover

Array = NDArray[np.float64]


class DialModel(Frozen):
    """A filter whose corner follows a logarithmic dial."""

    crossover: Crossover
    """Its kind, slope and shape, and the depth that its maker means."""
    lowest_hz: Hertz
    highest_hz: Hertz
    off: float = 1.0
    """Real corner as a multiple of the corner on the scale."""
    bypassed: bool = False
    """Whether its switch leaves it out wherever the dial stands."""

    def corner_hz(self, turned: float) -> float:
        """Its place, from 0 (fully down) to 1 (fully up)."""
        return float(self.off * self.lowest_hz * (self.highest_hz / self.lowest_hz) ** turned)

    def wave(self, volts: Array, frequency_hz: float, turned: float | None) -> Array:
        """Ratio that the filter passes; None while the filter is out, which passes everything."""
        if turned is None or self.bypassed:
            return volts
        set_to = self.crossover.model_copy(update={"corner_hz": self.corner_hz(turned)})
        return settled(volts, of_crossover(set_to, frequency_hz))
