"""A simulated receiver: a player, a volume law, tone controls, and a clean maximum in numbers and one in volts."""

import math

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from upper_rook.core.common.units import Frozen, from_db
from upper_rook.core.physics.sections import of_band, of_crossover, settled
from upper_rook.core.signal.filters import BandKind, Crossover, EqualiserBand
from upper_rook.core.system.playing import InputKind

Array = NDArray[np.float64]

_NUMBERS_END_DB = 6.0
"""Over full scale: so far tone controls and trims may lift before the numbers end."""


class SourceModel(Frozen):
    """An output that is clean up to a volume number and clips beyond it."""

    top_volume: int
    clean_v: float
    """Highest clean RMS voltage."""
    overdrive_db: float
    """How far the top volume number drives it past `clean_v`."""
    step_db: float
    """Decibels per volume number."""
    unevenness_db: float = 0.05
    """Size of the volume law's ripple."""
    player_db: float = 0.0
    """How much less than full scale arrives from the player."""
    ways_db: dict[InputKind, float] = Field(default_factory=dict)
    """How much less by each way of playing."""
    lifts: tuple[EqualiserBand, ...] = ()
    """Tone controls and loudness, before the numbers end."""
    output_db: float = 0.0
    """Fader, balance and this output's own level, before the output stage."""
    carries: tuple[Crossover, ...] = ()
    """Filters that divide this output, and the source's own."""
    takes_bass_db: float = 0.0
    """Bass that is taken away on the way from half volume to the top, as factory systems do."""

    def volts(self, volume: int) -> float:
        """RMS volts at full scale as if nothing clipped: a law of even steps with a little ripple."""
        ripple = self.unevenness_db * math.sin(2.4 * volume)
        below_top_db = (self.top_volume - volume) * self.step_db
        return self.clean_v * from_db(self.overdrive_db - below_top_db + ripple)

    def wave(
        self,
        volume: int,
        phase: Array,
        level_db: float,
        frequency_hz: float,
        way: InputKind | None = None,
        *,
        limited: bool = True,
    ) -> Array:
        """Volts at the output for a sine of `level_db` dBFS at `phase` radians; without `limited` nothing clips."""
        if volume <= 0:
            return np.zeros_like(phase)
        played_db = level_db + self.player_db + (self.ways_db.get(way, 0.0) if way else 0.0)
        wave = from_db(played_db) * np.sin(phase)
        for band in self.lifts:
            wave = settled(wave, of_band(band, frequency_hz, digital=True))
        full = from_db(_NUMBERS_END_DB) if limited else math.inf
        wave = np.clip(wave, -full, full) * math.sqrt(2) * self.volts(volume) * from_db(self.output_db)
        taken = self.takes_bass_db * max(0.0, 2 * volume / self.top_volume - 1)
        if taken:
            less = EqualiserBand(kind=BandKind.LOW_SHELF, frequency_hz=80, gain_db=-taken, q=0.7)
            wave = settled(wave, of_band(less, frequency_hz, digital=True))
        for crossover in self.carries:
            wave = settled(wave, of_crossover(crossover, frequency_hz))
        limit = math.sqrt(2) * self.clean_v if limited else math.inf
        return np.asarray(np.clip(wave, -limit, limit))
