"""What may explain readings that differ from those of before: one thing that moved, and by how much."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from upper_rook.core.common.units import ratio_db
from upper_rook.core.run.visits.check_point import CheckPoint
from upper_rook.core.run.visits.possible_changes import PossibleChange

_CLIPS_FROM_DB = 1.0
"""A level raised by more than this at the clean maximum clips, and reads lower than it was raised."""


@dataclass(frozen=True)
class Explanation:
    """One thing that explains every reading of a check by itself."""

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
        effects = [one.change.effect(point, one.amount) for one in found]
        return (max(effects) - min(effects)) / (2 * point.allowed_db)

    best = max(points, key=spread, default=None) if len(found) > 1 else None
    return best if best is not None and spread(best) > 1 else None


def explanations(
    read: Mapping[str, float], points: Sequence[CheckPoint], changes: Sequence[PossibleChange]
) -> tuple[Explanation, ...]:
    """
    Single changes that explain every reading within what it may miss by, the one that fits best first.

    `read` are volts RMS by the points' keys. Empty where nothing moved, or where no single change explains them.
    """
    taken = [one for one in points if one.key in read]
    moved = {one.key: ratio_db(read[one.key], one.expected_v) for one in taken}
    missed = [one for one in taken if abs(moved[one.key]) > one.allowed_db]
    if not missed:
        return ()
    fitting: list[tuple[float, PossibleChange, float]] = []
    for change in changes:
        if not all(any(change.effect(one, amount) for amount in change.smallest) for one in missed):
            continue
        worst, amount = min(
            ((_worst(change, amount, taken, moved), amount) for amount in change.amounts),
            key=lambda one: (one[0], abs(one[1])),
        )
        if worst <= 1:
            fitting.append((worst, change, amount))
    fitting.sort(key=lambda one: one[0])
    return tuple(Explanation(change, amount) for _, change, amount in fitting)


def _worst(change: PossibleChange, amount: float, taken: Sequence[CheckPoint], moved: Mapping[str, float]) -> float:
    """The largest difference left, in parts of what its reading may miss by."""
    return max(_left(change.effect(one, amount), moved[one.key]) / one.allowed_db for one in taken)


def _left(effect: float, moved: float) -> float:
    clipped = effect > _CLIPS_FROM_DB and _CLIPS_FROM_DB / 2 <= moved <= effect
    return 0.0 if clipped else abs(moved - effect)
