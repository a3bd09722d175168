"""Ordinary mistakes of a person at the bench, drawn by a seed: a figure misread, one taken early, a click too far."""

import numpy as np

MISREAD = 0.02
"""So far off a display is misread (common practice, no source)."""
_EARLY = 0.9
"""Part of its way that a display has gone when it is read early (common practice, no source)."""
_MISREADS, _EARLIES, _LATE = 0.04, 0.04, 0.15
"""How often each happens: of readings, and of climbs that end one number late (common practice, no source)."""


class Mistakes:
    """A person's mistakes, one after the other; without `made` there are none."""

    def __init__(self, seed: int, *, made: bool) -> None:
        self._dice = np.random.default_rng([seed, 19]) if made else None
        self.count = 0
        """How many were made so far."""
        self._shown_v = 0.0

    def read(self, value_v: float) -> float:
        """The figure that is written down for a display that settles at `value_v`."""
        before_v, self._shown_v = self._shown_v, value_v
        if self._dice is None:
            return value_v
        chance = float(self._dice.random())
        if chance < _MISREADS:
            self.count += 1
            return value_v * (1 + MISREAD * float(self._dice.choice((-1, 1))))
        if chance < _MISREADS + _EARLIES and before_v > 0:
            self.count += 1
            return before_v + _EARLY * (value_v - before_v)
        return value_v

    def stops_late(self) -> bool:
        """Whether the first clipped number of a climb is taken for clean."""
        late = self._dice is not None and float(self._dice.random()) < _LATE
        self.count += late
        return late
