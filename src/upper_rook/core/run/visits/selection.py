"""The few readings that together show most of what may have moved: a greedy search over what was read before."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.run.visits.check_point import CheckPoint
from upper_rook.core.run.visits.possible_changes import PossibleChange

Array = NDArray[np.float64]

FIRST = 4
"""So many readings make a check of ten minutes."""
MOST = 12
"""So many are proposed in all."""
_RISES_DB = 1.5
"""A level raised at the clean maximum clips, and a meter then shows little more: a square is 3 dB over its sine."""
_ENOUGH = 1.6
"""Times what a reading may miss by: a change that moves it so far is seen in spite of the reading's own error."""
_AT_SOURCE = 0.3
"""A source's output costs more than terminals: its plug has to come out."""
_LEAST_GAIN = 0.05


class Selected:
    """Readings in the order in which they are worth taking, and what the first of them show."""

    def __init__(self, points: Sequence[CheckPoint], changes: Sequence[PossibleChange]) -> None:
        self._points, self._changes = list(points), list(changes)
        self._seen = _visibility(self._points, self._changes)
        self._weights = np.array([change.weight for change in self._changes])
        self._pulled = np.array([float(point.path is None) for point in self._points])
        self.order = self._ordered()

    def _ordered(self) -> tuple[CheckPoint, ...]:
        if not self._points:
            return ()
        # Path by path, so that the probe moves least.
        chosen = sorted(self._exchanged(self._grown([], FIRST)))
        return tuple(self._points[place] for place in self._grown(chosen, MOST))

    def _grown(self, chosen: list[int], most: int) -> list[int]:
        """The point that adds most, again and again, until none adds anything."""
        chosen = list(chosen)
        while len(chosen) < min(most, len(self._points)):
            worth = self._worth_with(chosen)
            best = int(np.argmax(worth))
            if chosen and worth[best] - self._worth(chosen) < _LEAST_GAIN:
                break
            chosen.append(best)
        return chosen

    def _exchanged(self, chosen: list[int]) -> list[int]:
        """Single points exchanged as long as that shows more: what was best first need not be best together."""
        better = True
        while better:
            better = False
            for at in range(len(chosen)):
                others = [*chosen[:at], *chosen[at + 1 :]]
                worth = self._worth_with(others)
                best = int(np.argmax(worth))
                if worth[best] > self._worth(chosen) + _LEAST_GAIN:
                    chosen, better = [*others, best], True
        return chosen

    def _worth(self, chosen: Sequence[int]) -> float:
        """How many changes these show, those that they show in part counted in part, less what a pulled plug costs."""
        *others, last = chosen
        return float(self._worth_with(others)[last])

    def _worth_with(self, others: Sequence[int]) -> Array:
        """The same for each point together with `others`; those themselves can't be taken twice."""
        shown = self._seen
        if others:
            shown = np.maximum(shown, shown[:, :, list(others)].max(axis=2, keepdims=True))
        # A change that can go either way is seen as far as the way that shows less.
        worth = np.minimum(1.0, shown).min(axis=1).T @ self._weights
        worth = worth - _AT_SOURCE * (self._pulled + self._pulled[list(others)].sum())
        worth[list(others)] = -np.inf
        return np.asarray(worth)

    def unseen(self, taken: Sequence[CheckPoint]) -> tuple[PossibleChange, ...]:
        """The changes that these readings would not show, at the smallest amount that matters."""
        keys = {point.key for point in taken}
        chosen = [place for place, point in enumerate(self._points) if point.key in keys]
        if not chosen:
            return tuple(self._changes)
        shown = self._seen[:, :, chosen].max(axis=2).min(axis=1)
        return tuple(change for change, seen in zip(self._changes, shown, strict=True) if seen < 1.0)


def _visibility(points: list[CheckPoint], changes: list[PossibleChange]) -> Array:
    """
    How plainly a reading shows a change: 1 and above where it does in spite of its own error.

    Of shape (changes, ways that it can go, points).
    """
    if not points or not changes:
        return np.zeros((0, 1, len(points)))
    allowed = np.array([point.allowed_db for point in points])
    effects = np.zeros((len(changes), 2, len(points)))
    for number, change in enumerate(changes):
        ends = np.array([change.smallest[0], change.smallest[-1]])
        for place, point in enumerate(points):
            effects[number, :, place] = change.effects(point, ends)
    return np.asarray(np.abs(np.minimum(effects, _RISES_DB)) / (_ENOUGH * allowed))
