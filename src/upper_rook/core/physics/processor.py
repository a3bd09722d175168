"""A simulated converter or processor: equaliser, filters and a gain between two clean maxima."""

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import Frozen, from_db
from upper_rook.core.physics.sections import of_band, of_crossover, settled
from upper_rook.core.signal.filters import Crossover, EqualiserBand

Array = NDArray[np.float64]


class TrimModel(Frozen):
    """The trim of a converter's output, even in decibels."""

    lowest_db: float
    highest_db: float

    def gain_db(self, turned: float) -> float:
        """From 0 (fully down) to 1 (fully up)."""
        return self.lowest_db + (self.highest_db - self.lowest_db) * turned


class ProcessorModel(Frozen):
    """One stage on the way to the amplifier."""

    highest_input_v: float
    highest_output_v: float
    gain_db: float = 0.0
    bands: tuple[EqualiserBand, ...] = ()
    filters: tuple[Crossover, ...] = ()
    trim: TrimModel | None = None
    asleep: bool = False
    """Whether it was not woken."""

    def wave(self, volts: Array, frequency_hz: float, turned: float = 0.0, *, limited: bool = True) -> Array:
        """Volts at the output, its trim where it is; with `limited` off as if nothing in it had an end."""
        most = np.sqrt(2) if limited else np.inf
        top_in, top_out = most * self.highest_input_v, most * self.highest_output_v
        wave = np.clip(volts, -top_in, top_in)
        for band in self.bands:
            wave = settled(wave, of_band(band, frequency_hz, digital=True))
        for crossover in self.filters:
            wave = settled(wave, of_crossover(crossover, frequency_hz))
        gain_db = self.gain_db + (self.trim.gain_db(turned) if self.trim else 0.0)
        return np.asarray(np.clip(wave * (0.0 if self.asleep else from_db(gain_db)), -top_out, top_out))
