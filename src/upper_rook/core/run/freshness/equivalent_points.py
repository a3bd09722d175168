"""
Points of a source that follow others: measured together somewhere, the rest needs no measuring.

Where two outputs, or two sides, gave the same volts by one way of playing, they do by another; and two ways that gave
the same at one output do at the next (common practice, no source).
"""

import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from uuid import UUID

from upper_rook.core.common.units import Frozen, format_db, from_db, ratio_db
from upper_rook.core.run.clean_maxima.against_sheet import is_of_volume_steps
from upper_rook.core.run.clean_maxima.source_points import source_point_of
from upper_rook.core.run.readings.records import Reading, latest_by_volume
from upper_rook.core.system.clean_maxima import PointCleanMaximum, SourcePoint
from upper_rook.core.system.clean_maximum import Basis, CleanMaximum
from upper_rook.core.system.playing import INPUT_WORDS, InputKind, Side
from upper_rook.core.system.source import Source

WITHIN_DB = 0.05
"""Volts that differ by less are the same: half of what a good meter promises."""
_POINTS = 3


class Followed(Frozen):
    """The clean maximum that one point takes over from another."""

    taken: PointCleanMaximum
    """That of the other."""
    apart_db: float
    """The most that the two were apart where both were measured."""
    points: int
    """At how many volume numbers."""
    shown: SourcePoint
    """Where it was seen: the one of the two that follows."""
    beside: SourcePoint
    """The one that it follows there."""
    grounds: tuple[UUID, ...]
    """The takings and readings that all this rests on."""

    def over_at(self, point: SourcePoint) -> PointCleanMaximum:
        """Readings that `point` takes over."""
        clean_maximum = self.taken.clean_maximum
        doubt_v = math.hypot(clean_maximum.uncertainty_v or 0.0, clean_maximum.voltage_v * (from_db(WITHIN_DB) - 1))
        return PointCleanMaximum(
            point=point,
            clean_maximum=CleanMaximum(
                volume=clean_maximum.volume,
                voltage_v=clean_maximum.voltage_v,
                uncertainty_v=doubt_v,
                basis=Basis.FOLLOWS,
            ),
            volume_readings=self.taken.volume_readings,
            records=self.grounds,
        )


@dataclass(frozen=True)
class Measured:
    """Every set of volume steps that was measured on a job's sources, and its clean maximum."""

    taken: tuple[PointCleanMaximum, ...]
    readings: tuple[Reading, ...]

    @cached_property
    def _by_point(self) -> dict[SourcePoint, PointCleanMaximum]:
        return {
            clean_maximum.point: clean_maximum
            for clean_maximum in self.taken
            if clean_maximum.clean_maximum.basis in (Basis.MARKED, Basis.JUDGED)
        }

    @cached_property
    def _volume_readings(self) -> dict[SourcePoint, dict[int, Reading]]:
        found: dict[SourcePoint, list[Reading]] = {}
        for reading in self.readings:
            own = source_point_of(reading) if is_of_volume_steps(reading) else None
            if own is not None:
                found.setdefault(own, []).append(reading)
        return {point: latest_by_volume(own) for point, own in found.items()}

    def followed_by(self, point: SourcePoint) -> Followed | None:
        """Nearest point that `point` may follow; None where no agreement was measured."""
        return min(self._pairs(point), key=lambda pair: (pair.apart_db, -pair.points), default=None)

    def _pairs(self, point: SourcePoint) -> Iterator[Followed]:
        known = [other for other in self._by_point if other.source == point.source]
        for other in known:
            if other == point or other.tone_hz != point.tone_hz:
                continue
            if other.way is point.way:
                # Two outputs or sides, seen beside each other by another way.
                seen = ((_at(point, clean.way), _at(other, clean.way)) for clean in known if clean.way is not point.way)
            elif (other.output, other.side) == (point.output, point.side):
                # Two ways, seen beside each other at another output or side.
                places = (other for other in known if (other.output, other.side) != (point.output, point.side))
                seen = ((_at(place, point.way), _at(place, other.way)) for place in places)
            else:
                continue
            for own, beside in seen:
                found = self._apart(own, beside)
                if found is not None:
                    apart_db, points = found
                    known_by = (self._by_point[point].records for point in (other, own, beside))
                    yield Followed(
                        taken=self._by_point[other],
                        apart_db=apart_db,
                        points=points,
                        shown=own,
                        beside=beside,
                        grounds=tuple(dict.fromkeys(itertools.chain.from_iterable(known_by))),
                    )

    def _apart(self, point: SourcePoint, other: SourcePoint) -> tuple[float, int] | None:
        """How far two measured points lie apart, and in how many numbers; None unless they agree all along."""
        clean = [self._by_point.get(place) for place in (point, other)]
        if clean[0] is None or clean[1] is None or clean[0].clean_maximum.volume != clean[1].clean_maximum.volume:
            return None
        own, others = (self._volume_readings.get(place, {}) for place in (point, other))
        shared = [number for number in own.keys() & others.keys() if number <= clean[0].clean_maximum.volume]
        if len(shared) < _POINTS:
            return None
        apart = max(abs(ratio_db(own[number].value, others[number].value)) for number in shared)
        return (apart, len(shared)) if apart <= WITHIN_DB else None


def _at(point: SourcePoint, way: InputKind | None) -> SourcePoint:
    return point.model_copy(update={"way": way})


def in_words(followed: Followed, source: Source) -> str:
    """Pairs of points where one follows the other: how well, and where that was measured."""
    own, other = followed.shown, followed.beside
    names = {output.id: output.name or output.id for output in source.outputs}
    if own.way is not other.way:
        what, whom = _way(own), _way(other)
        seen = _place(names, own)
    else:
        sides = own.output == other.output
        what, whom = (_place(names, point, sides) for point in (own, other))
        seen = _way(own)
    within = f"{format_db(max(0.01, followed.apart_db), 2)} in {followed.points} points"
    return f"{what[:1].upper()}{what[1:]} follows {whom} within {within}, seen at {seen}"


def _way(point: SourcePoint) -> str:
    return INPUT_WORDS[point.way] if point.way else "what was played"


def _place(names: dict[str, str], point: SourcePoint, sides: bool = False) -> str:
    """An output; with its side where the side distinguishes two. A person begins with the left."""
    name = names.get(point.output, point.output)
    side = point.side or (Side.LEFT if sides else None)
    return f"{name}, {side.value} side" if side else name
