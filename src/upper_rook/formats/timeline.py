"""A column of times as it streams by: evenly spaced, or refused with the line where it isn't. Nothing is kept of it."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.errors import BadInput

Array = NDArray[np.float64]

_ROUNDED = 1.05
_EVEN = -1000
"""Stands for the decades of a batch in which no time stands still and all steps are alike."""


@dataclass
class _Steps:
    """The shortest and the longest step of a decade, and the line of the longest."""

    shortest: float
    longest: float
    line: int


class Timeline:
    """Running sums of the times: they give their interval by least squares, and show whether it holds."""

    def __init__(self, unit_s: float, lines_above: int) -> None:
        """`unit_s` is the seconds of the column's unit; lines are counted from `lines_above`."""
        self._unit, self._above = unit_s, lines_above
        self._count = 0
        self._sums = np.zeros(2)
        self._last: float | None = None
        self._first = 0.0
        self._steps: dict[int, _Steps] = {}
        """By the decade of the time: what is printed with few digits is rounded to one of its own in each."""
        self._marks: list[tuple[int, float]] = []
        self._moved_at = 0
        """The sample at which the time moved last; printed with few digits it stands still in between."""
        self._steepest = 0.0
        """The most time that passed for one sample, counted from one move to the next."""

    def add(self, column: Array) -> None:
        """Takes the next times. Raises BadInput when they run backwards."""
        if column.size == 0:
            return
        times = column * self._unit
        if self._last is None:
            self._first = self._last = float(times[0])
        steps = np.diff(times, prepend=self._last)
        if np.any(steps < 0):
            line = self._line(int(np.argmax(steps < 0)))
            raise BadInput(f"Time runs backwards at about line {line}: samples are expected in the order of time.")
        self._sort(times, steps)
        self._follow(steps)
        places = self._count + np.arange(times.size, dtype=np.float64)
        # About the first time, so that a late start costs no digits.
        self._sums += (float(np.sum(times - self._first)), float(places @ (times - self._first)))
        self._marks.append((self._count, float(times[0])))
        self._count += times.size
        self._last = float(times[-1])

    def _sort(self, times: Array, steps: Array) -> None:
        """Notes the shortest and the longest step that isn't nothing, of each decade where they differ."""
        moves = np.flatnonzero(steps > 0)
        if not moves.size:
            return
        own = steps[moves]
        if moves.size >= steps.size - 1 and own.max() <= _ROUNDED * own.min():
            self._note(_EVEN, float(own.min()), float(own.max()), self._line(int(moves[0])))
            return
        before = np.minimum(np.abs(times[moves]), np.abs(times[moves] - own))
        decades = np.floor(np.log10(np.maximum(before, 1e-300))).astype(int)
        for decade in np.unique(decades):
            there = np.flatnonzero(decades == decade)
            longest = there[int(np.argmax(own[there]))]
            shortest = float(own[there].min())
            self._note(int(decade), shortest, float(own[longest]), self._line(int(moves[longest])))

    def _note(self, decade: int, shortest: float, longest: float, line: int) -> None:
        known = self._steps.setdefault(decade, _Steps(shortest, longest, line))
        known.shortest = min(known.shortest, shortest)
        if longest > known.longest:
            known.longest, known.line = longest, line

    def _follow(self, steps: Array) -> None:
        moves = self._count + np.flatnonzero(steps > 0)
        if moves.size:
            samples = np.diff(moves, prepend=self._moved_at)
            self._steepest = max(self._steepest, float(np.max(steps[steps > 0] / np.maximum(1, samples))))
            self._moved_at = int(moves[-1])

    def interval_s(self) -> float:
        """Seconds between samples. Raises BadInput when the times stand still or are uneven."""
        count = self._count
        middle = (count - 1) / 2
        mean = self._sums[0] / count
        interval = float((self._sums[1] - middle * self._sums[0]) / (count * (count * count - 1) / 12))
        if not interval > 0:
            raise BadInput("The time column doesn’t advance: too few digits in the export.")
        # Printed times are rounded: with few digits they stand still, then step by one of the last digit.
        uneven = self._longer_than(2.2 * interval)
        if uneven and self._steepest > 2.2 * interval:
            line = max(uneven, key=lambda steps: steps.longest).line
            raise BadInput(f"The times are uneven, by most at about line {line}: evenly spaced samples are expected.")
        longest = max((step.longest for step in self._steps.values()), default=0.0)
        if self._drift(interval, mean, middle) > max(1.5, longest / interval):
            raise BadInput("The times are uneven over the file: evenly spaced samples are expected.")
        return interval

    def _longer_than(self, usual: float) -> list[_Steps]:
        """Decades with a step longer than this and than what rounding makes of one there."""
        found, rounded = [], np.inf
        # The last digit is worth no more in a decade than in those above it.
        for _, steps in sorted(self._steps.items(), reverse=True):
            rounded = min(rounded, steps.shortest)
            if steps.longest > max(usual, _ROUNDED * rounded):
                found.append(steps)
        return found

    def _drift(self, interval: float, mean: float, middle: float) -> float:
        """How far the times leave the even line, in samples, where batches begin."""
        line = [self._first + mean + interval * (place - middle) for place, _ in self._marks]
        return float(max(abs(time - even) for (_, time), even in zip(self._marks, line, strict=True)) / interval)

    def _line(self, place: int) -> int:
        return self._above + self._count + place + 1
