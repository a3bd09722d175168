"""A simulated converter or processor: a gain at the tone's frequency between two ceilings."""

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import Frozen, from_db
from upper_rook.core.signal.grid import LOG_GRID

Array = NDArray[np.float64]


class ProcessorModel(Frozen):
    """One stage on the way to the amplifier."""

    highest_input_v: float
    highest_output_v: float
    gain_db: tuple[float, ...]
    """Over the grid of levels, or one figure for every frequency."""

    def wave(self, volts: Array, frequency_hz: float) -> Array:
        """What comes out; a tone passes with the gain at its frequency."""
        gain = self.gain_db[0] if len(self.gain_db) == 1 else np.interp(np.log(frequency_hz), LOG_GRID, self.gain_db)
        top_in, top_out = np.sqrt(2) * self.highest_input_v, np.sqrt(2) * self.highest_output_v
        return np.asarray(np.clip(np.clip(volts, -top_in, top_in) * from_db(float(gain)), -top_out, top_out))
