"""The seam between the run and whatever measures: a meter on a socket fulfils the same protocol as a simulated one."""

from typing import Protocol

from upper_rook.core.common.units import Frozen
from upper_rook.core.metrology.meters import MeterProfile
from upper_rook.core.run.readings.points import Point
from upper_rook.core.signal.tones import Tone


class Sample(Frozen):
    """One update of a meter's display."""

    value_v: float
    """AC volts; 0 when the display shows zero."""
    uncertainty_v: float | None
    point: Point | None = None
    """Where it is clipped on, or None when the instrument can't know."""
    tone: Tone | None = None
    """Frequency it measured, where it knows."""
    volume: int | None = None


class Meter(Protocol):
    """An AC voltmeter that can be read at any time."""

    @property
    def profile(self) -> MeterProfile:
        """Its uncertainty by its data sheet."""

    @property
    def period_s(self) -> float:
        """Seconds between its updates."""

    def read(self) -> Sample:
        """Its present display. Blocks while it measures. Raises InstrumentError when there is no reading."""
