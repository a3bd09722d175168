"""Clean maxima of every source point that was measured, and their results for a path, a source and a customer."""

import itertools
from collections.abc import Iterable, Iterator
from typing import Annotated
from uuid import UUID

from pydantic import Field

from upper_rook.core.common.units import Frozen, Hertz, Key, from_db, ratio_db
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.clean_maximum import Basis, CleanMaximum, GainPoint
from upper_rook.core.system.path import Path
from upper_rook.core.system.playing import InputKind, Side

TrimDb = Annotated[float, Field(ge=-24, le=24)]


class SourcePoint(Frozen):
    """
    Place and way of a source's clean maximum. None holds for all sides or ways together.

    Each has its own volume steps and its own clean maximum, since they differ (common practice, no source).
    """

    source: Key
    output: Key
    side: Side | None = None
    way: InputKind | None = None
    tone_hz: Hertz | None = None
    trim_db: TrimDb | None = None
    sub_level: float | None = None
    unflat: tuple[str, ...] = ()
    """Settings that were not at zero or off while it was measured, in the trade's words."""


class PointCleanMaximum(Frozen):
    """The clean maximum that was taken at one source point, and the readings around it."""

    point: SourcePoint
    clean_maximum: CleanMaximum
    volume_readings: tuple[GainPoint, ...] = ()
    """Volume numbers and volts as read there, lowest number first."""
    records: tuple[UUID, ...] = ()
    """The taking, and the reading that it took."""

    def around(self, number: int) -> tuple[GainPoint, ...]:
        """The readings that `volts_at` works from: the one at that number or at that end, or the two beside it."""
        volume_readings = self.volume_readings or (
            GainPoint(volume=self.clean_maximum.volume, voltage_v=self.clean_maximum.voltage_v),
        )
        lower = [volume_reading for volume_reading in volume_readings if volume_reading.volume <= number][-1:]
        upper = [volume_reading for volume_reading in volume_readings if volume_reading.volume >= number][:1]
        return tuple(lower if lower == upper else (*lower, *upper))

    def volts_at(self, number: int) -> float:
        """
        Volts at a volume number: a straight line in dB between two readings; past the last of them a decibel a number.

        The decibel is common practice, no source.
        """
        low, *high = self.around(number)
        if not high:
            return low.voltage_v * from_db(number - low.volume)
        part = (number - low.volume) / (high[0].volume - low.volume)
        return float(low.voltage_v * (high[0].voltage_v / low.voltage_v) ** part)

    def records_at(self, *numbers: int) -> Iterator[UUID]:
        """Figures that the clean maximum and the volts at these numbers rest on."""
        yield from self.records
        for volume_reading in itertools.chain.from_iterable(self.around(number) for number in numbers):
            if volume_reading.record:
                yield volume_reading.record


class PathCleanMaximum(Frozen):
    """Clean maximum of its source for one path."""

    volume: int
    """The number that governs the source: the lowest clean one of all that were measured."""
    gain_volume: int
    """Where gains are set: below it when numbers are kept in hand."""
    voltage_v: float | None
    """At the path's own output, at `volume`; None where another output was measured and ratings can't bridge it."""
    in_hand_db: float
    """How much less the output gives at `gain_volume`."""
    uncertainty_v: float | None
    basis: Basis
    way: InputKind | None = None
    """The way of playing that it was found by: the one that reaches clipping first."""
    scaled_from: SourcePoint | None = None
    """The other output that the volts are scaled from by the ratings, or None when this one was measured."""
    by_sheet: bool = False
    """Whether the volts are another unit's, by its sheet, and nothing was read here."""
    records: tuple[UUID, ...] = ()
    """The takings and readings that all this rests on."""


class CleanMaxima:
    """
    The clean maxima that were taken, by source point.

    >>> taken = CleanMaximum(volume=32, voltage_v=4.0, uncertainty_v=None, basis=Basis.MARKED)
    >>> front = PointCleanMaximum(point=SourcePoint(source="radio", output="front"), clean_maximum=taken)
    >>> usb = front.model_copy(update={"point": SourcePoint(source="radio", output="front", way=InputKind.USB),
    ...                                "clean_maximum": taken.model_copy(update={"volume": 30})})
    >>> CleanMaxima((front, usb)).governing("radio").clean_maximum.volume
    30
    """

    def __init__(
        self,
        taken: Iterable[PointCleanMaximum] = (),
        clicks_in_hand: int = 0,
        first: frozenset[tuple[str, str]] = frozenset(),
    ) -> None:
        """
        `clicks_in_hand` is how far below the governing number gains are set.

        Where any of the outputs `first` (source, output) was measured, they alone govern.
        """
        self._taken = {clean_maximum.point: clean_maximum for clean_maximum in taken}
        self._clicks = clicks_in_hand
        self._first = first

    def __iter__(self) -> Iterator[PointCleanMaximum]:
        """Every clean maximum that was taken."""
        return iter(self._taken.values())

    def at(self, point: SourcePoint) -> PointCleanMaximum | None:
        """The clean maximum taken at one source point."""
        return self._taken.get(point)

    def governing(self, source: str) -> PointCleanMaximum | None:
        """The one with the lowest number of all that were measured on a source: no louder is clean everywhere."""
        return min(self._counting(source), key=lambda clean_maximum: clean_maximum.clean_maximum.volume, default=None)

    def _counting(self, source: str) -> list[PointCleanMaximum]:
        own = [clean_maximum for clean_maximum in self if clean_maximum.point.source == source]
        return [clean_maximum for clean_maximum in own if (source, clean_maximum.point.output) in self._first] or own

    def gain_volume(self, source: str) -> int | None:
        """Where gains behind a source are set."""
        governing = self.governing(source)
        return max(1, governing.clean_maximum.volume - self._clicks) if governing else None

    def never_pass(self, source: str) -> dict[InputKind | None, int]:
        """The number never to pass, by way of playing; None stands for whatever was played."""
        numbers: dict[InputKind | None, int] = {}
        for clean_maximum in self._counting(source):
            way = clean_maximum.point.way
            numbers[way] = min(numbers.get(way, clean_maximum.clean_maximum.volume), clean_maximum.clean_maximum.volume)
        return numbers

    def most_volts(self, source: str, output: str) -> PointCleanMaximum | None:
        """The combination of level trim, sub level and volume that gives the most clean volts at an output."""
        own = [
            clean_maximum
            for clean_maximum in self
            if (clean_maximum.point.source, clean_maximum.point.output) == (source, output)
        ]
        return max(own, key=lambda clean_maximum: clean_maximum.clean_maximum.voltage_v, default=None)

    def of_path(self, chain: Chain, path: Path) -> PathCleanMaximum | None:
        """
        The clean maximum for a path: its own output's volts at the number that governs its source.

        An output that was not measured is taken to be as far from its rating as the one that was.
        """
        governing, number = self.governing(path.source), self.gain_volume(path.source)
        if governing is None or number is None:
            return None
        own = [
            clean_maximum
            for clean_maximum in self
            if (clean_maximum.point.source, clean_maximum.point.output) == (path.source, path.output)
        ]
        basis, volume = governing.clean_maximum.basis, governing.clean_maximum.volume
        # Volts are those of the speakers' own tone, where another one ends lower.
        plain = [clean_maximum for clean_maximum in own if clean_maximum.point.tone_hz is None] or own
        measured = min(plain, key=lambda clean_maximum: clean_maximum.clean_maximum.volume) if own else governing
        volts = (
            measured.volts_at(volume) if measured.clean_maximum.volume != volume else measured.clean_maximum.voltage_v
        )
        return PathCleanMaximum(
            volume=volume,
            gain_volume=number,
            voltage_v=volts if own else _scaled(chain, path, governing.point.output, volts),
            in_hand_db=ratio_db(volts, measured.volts_at(number)) if number != volume else 0.0,
            uncertainty_v=measured.clean_maximum.uncertainty_v if own else None,
            basis=basis,
            way=measured.point.way,
            scaled_from=None if own else governing.point,
            by_sheet=not measured.records and measured.clean_maximum.basis is Basis.SHEET,
            records=tuple(
                dict.fromkeys(
                    (*governing.records_at(number), *measured.records_at(number, volume), *self._against(chain, path))
                )
            ),
        )

    def _against(self, chain: Chain, path: Path) -> Iterator[UUID]:
        """Where a source's sheet is counted with, everything that was taken: it decides what of the sheet counts."""
        if chain.source_of(path).from_sheet is not None:
            for clean_maximum in self:
                if clean_maximum.point.source == path.source:
                    yield from clean_maximum.records


def _scaled(chain: Chain, path: Path, measured: str, volts: float) -> float | None:
    """Volts at a path's output by the ratings, from `volts` at another; a raised level ends where the rating does."""
    own = chain.output_of(path)
    outputs = {output.id: output for output in chain.source_of(path).outputs}
    measured_rated_v = outputs[measured].expected_v if measured in outputs else None
    if not own.expected_v or not own.clean_v or not measured_rated_v:
        return None
    # As far beyond its rating as the measured one is, no further: both have the same output stage.
    beyond = volts / measured_rated_v
    return min(beyond * own.expected_v, max(1.0, beyond) * own.clean_v)


UNMEASURED = CleanMaxima()
"""Before anything was measured."""
