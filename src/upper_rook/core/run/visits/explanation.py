"""Explanations of readings that differ from those of before: one thing that moved, and by how much."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.run.visits.check_point import CheckPoint
from upper_rook.core.run.visits.possible_changes import PossibleChange

Array = NDArray[np.float64]

_CLIPS_FROM_DB = 1.0
"""A level raised by more than this at the clean maximum clips, and reads lower than it was raised."""


@dataclass(frozen=True)
class Explanation:
    """One thing that explains every reading of a check on its own."""

    change: PossibleChange
    amount: float
    """In the change's unit, of those that fit the one that fits best."""

    @property
    def words(self) -> str:
        """The thing, and by how much it moved."""
        return f"{self.change.name} {self.change.in_words(self.amount)}"


def telling_apart(found: Sequence[Explanation], points: Sequence[CheckPoint]) -> CheckPoint | None:
    """Of `points` the one whose reading would best tell explanations apart; None where none would."""

    def spread(point: CheckPoint) -> float:
        effects = [float(explanation.change.effects(point, np.array([explanation.amount]))[0]) for explanation in found]
        return (max(effects) - min(effects)) / (2 * point.allowed_db)

    best = max(points, key=spread, default=None) if len(found) > 1 else None
    return best if best is not None and spread(best) > 1 else None


def explanations(taken: Sequence[CheckPoint], changes: Sequence[PossibleChange]) -> tuple[Explanation, ...]:
    """
    Single changes that explain every reading within what it may miss by, the one that fits best first.

    `taken` are the points that were read again. Empty where nothing moved, or where no single change explains them.
    """
    missed = [point for point in taken if abs(point.moved_db) > point.allowed_db]
    if not missed:
        return ()
    fitting: list[tuple[float, PossibleChange, float]] = []
    for change in changes:
        if not all(change.shows_at(point) for point in missed):
            continue
        worst = np.max([_left(change.effects(point), point.moved_db) / point.allowed_db for point in taken], axis=0)
        # Of amounts that fit alike the smallest.
        best = int(np.lexsort((np.abs(change.amounts), worst))[0])
        if worst[best] <= 1:
            fitting.append((float(worst[best]), change, float(change.amounts[best])))
    fitting.sort(key=lambda fit: fit[0])
    return tuple(Explanation(change, amount) for _, change, amount in fitting)


def _left(effects: Array, moved: float) -> Array:
    """The difference left in a reading for each of the amounts that had those effects, in dB."""
    clipped = (effects > _CLIPS_FROM_DB) & (effects >= moved) & (moved >= _CLIPS_FROM_DB / 2)
    return np.where(clipped, 0.0, np.abs(moved - effects))
