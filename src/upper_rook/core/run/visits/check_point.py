"""A point that a check can read again: where, with which tone, and the volts that it had."""

import math
from dataclasses import dataclass

from upper_rook.core.common.units import LongKey, from_db, ratio_db
from upper_rook.core.run.readings.points import OutputPoint, Terminals, TerminalsPoint
from upper_rook.core.run.readings.records import Reading
from upper_rook.core.system.playing import InputKind, Side

_LEAST_DB = 0.4
"""Readings of two days that lie within this say nothing: plugs, probes, warmth (common practice, no source)."""
_FOUR_READINGS = 1.4
"""Times the expanded doubt, so that four readings together rarely (2 %) miss by chance (normal distribution)."""
_NO_DOUBT_DB = 1.5
"""For a reading where the meter's data sheet promises nothing (common practice, no source)."""
_OF_SHIFT = 0.25
"""Part of a calculated difference that may be wrong: dials are off by some per cent (common practice, no source)."""


@dataclass(frozen=True)
class CheckPoint:
    """One reading of before that can be taken again as the vehicle is used."""

    key: str
    name: str
    """Path or output, and tone, in a few words."""
    reading: Reading
    step: LongKey
    """The step that it was read in."""
    probe: str
    """Where to measure, in words."""
    source: str
    output: str
    path: str | None
    """The path whose terminals it is at; None at a source's output."""
    shift_db: float = 0.0
    """Calculated difference between the reading, taken with filters open, and the same point in use."""
    again: Reading | None = None
    """The same point read on the visit; until then a reading of the same promise is expected."""

    @property
    def expected_v(self) -> float:
        """Volts RMS to be expected where nothing moved."""
        return self.reading.value * from_db(self.shift_db)

    @property
    def moved_db(self) -> float:
        """Decibels by which the reading of the visit differs from it; 0 until there is one."""
        return ratio_db(self.again.value, self.expected_v) if self.again else 0.0

    @property
    def allowed_db(self) -> float:
        """How far the reading of the visit may lie from it, either way."""
        return max(_LEAST_DB, self._doubt_db) + _OF_SHIFT * abs(self.shift_db)

    @property
    def _doubt_db(self) -> float:
        was = self.reading.uncertainty
        now = self.again.uncertainty if self.again else was
        if was is None or now is None or self.reading.value <= 0:
            return _NO_DOUBT_DB
        both = _FOUR_READINGS * math.hypot(was, now)
        return ratio_db(self.reading.value + both, self.reading.value)

    @property
    def hertz(self) -> float:
        """Frequency of its tone."""
        return self.reading.tone.frequency_hz if self.reading.tone else 1000.0

    @property
    def way(self) -> InputKind | None:
        """The way of playing that it was read by."""
        return self.reading.circumstances.way

    @property
    def is_right(self) -> bool:
        """Whether it sits on the right of a pair."""
        point = self.reading.point
        if isinstance(point, OutputPoint):
            return point.side is Side.RIGHT
        return isinstance(point, TerminalsPoint) and point.terminals is Terminals.RIGHT
