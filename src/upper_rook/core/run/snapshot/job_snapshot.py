"""Everything a step is worked out from: a sheet, what was measured, and how both were earlier."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cached_property
from uuid import UUID

from upper_rook.core.common.errors import Lacking
from upper_rook.core.crossover.depth import with_depth
from upper_rook.core.plan.figures import Figures, figures
from upper_rook.core.plan.plan import Plan, plan
from upper_rook.core.run.clean_maxima.against_sheet import refuted, still_told
from upper_rook.core.run.clean_maxima.bench_order import asked_alone
from upper_rook.core.run.clean_maxima.required_points import RequiredPoint, required_points, tone_at
from upper_rook.core.run.clean_maxima.source_points import source_point_of
from upper_rook.core.run.freshness.equivalent_points import Measured
from upper_rook.core.run.readings.other_tone import in_words, is_other
from upper_rook.core.run.readings.records import Mark, Reading, latest_by_volume, worked_steps
from upper_rook.core.run.snapshot.heard import with_rated_volts
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.clean_maxima import CleanMaxima, PointCleanMaximum
from upper_rook.core.system.clean_maximum import Basis, CleanMaximum, GainPoint
from upper_rook.core.system.job_sheet import JobSheet, Subject
from upper_rook.core.system.methods import TOP_VOLUME
from upper_rook.core.system.path import Path
from upper_rook.core.system.source import OutputKind, Source

History = Callable[[int], JobSheet]
"""The sheet as it was in one of its versions."""


@dataclass(frozen=True, eq=False)
class JobSnapshot:
    """A job as it is, or as it stood. Each is only itself: what is worked out of it can be kept by it."""

    sheet: JobSheet
    readings: tuple[Reading, ...] = ()
    marks: tuple[Mark, ...] = ()
    history: History | None = None
    """None where nothing of before is asked for."""
    under: tuple[UUID, ...] | None = None
    """The records that clean maxima are taken from; None for the newest that stand."""

    @cached_property
    def clean_maxima(self) -> CleanMaxima:
        """The clean maxima that were taken."""
        choices = self.sheet.choices
        clicks = choices.clicks_in_hand if TOP_VOLUME.of(choices).in_hand else 0
        taken = (*self.measured.taken, *self._followed())
        told = (
            clean_maximum for source in self.by_sheet for clean_maximum in still_told(source, self._used(source), taken)
        )
        counted = (
            clean_maximum
            for clean_maximum in (*taken, *told)
            if self._is_played(clean_maximum) and self._is_fed_from(clean_maximum)
        )
        return CleanMaxima(counted, clicks, self._governing_first())

    def _governing_first(self) -> frozenset[tuple[str, str]]:
        """On the bench a source's line outputs govern, as in its sheet; in a vehicle every output that is used."""
        if self.sheet.subject is not Subject.SOURCE:
            return frozenset()
        sources = self.sheet.chain.sources
        return frozenset(
            (source.id, output.id) for source in sources for output in source.outputs if output.kind is OutputKind.LINE
        )

    @cached_property
    def measured(self) -> Measured:
        """Clean maxima measured of the sources, one set of volume steps after the other."""
        taken = _taken(self.counted, self.marks) if self.under is None else self._under(self.under)
        return Measured(tuple(taken), self.counted)

    @cached_property
    def counted(self) -> tuple[Reading, ...]:
        """The readings without those of volume steps that were taken with another tone than theirs."""
        tones = {point.key: tone_at(self.sheet, point.path, second=point.second_tone) for point in self.asked}
        counted = tuple(
            reading for reading in self._with_volts if not self._is_otherwise(reading, tones.get(reading.step))
        )
        # Mostly all of them do: the same object is looked through only once.
        return counted if len(counted) < len(self._with_volts) else self._with_volts

    @cached_property
    def _with_volts(self) -> tuple[Reading, ...]:
        """The readings, those of a source that were only heard with its rated volts."""
        return with_rated_volts(self.sheet, self.readings)

    def otherwise(self, reading: Reading, wanted: Tone | None) -> str:
        """
        That a reading was taken with another tone than was wanted, in words; empty where it wasn't.

        One that was taken while the sheet said something else isn't wrong but outdated, and freshness says so.
        """
        return in_words(reading.tone, wanted) if self._is_otherwise(reading, wanted) and reading.tone and wanted else ""

    def _is_otherwise(self, reading: Reading, wanted: Tone | None) -> bool:
        return is_other(reading.tone, wanted) and (
            self.history is None or self.history(reading.sheet_version) == self.sheet
        )

    def _followed(self) -> Iterable[PointCleanMaximum]:
        """Clean maxima taken over from measured points, as long as they still agree."""
        newest = _newest(mark for mark in self.marks if self.under is None or mark.id in self.under)
        points = (
            {point.key: point.point for point in self.asked}
            if any(_takes_over(mark) for mark in newest.values())
            else {}
        )
        for key, mark in newest.items():
            followed = self.measured.followed_by(points[key]) if _takes_over(mark) and key in points else None
            if followed is not None:
                over = followed.over_at(points[key])
                # Looked back at, it needs all that it was seen by.
                yield over.model_copy(update={"records": (mark.id, *over.records)})

    def _used(self, source: Source) -> frozenset[str]:
        """The outputs of a source that feed a path: no other counts."""
        return frozenset(output.id for output in self.sheet.chain.outputs_used(source))

    @cached_property
    def by_sheet(self) -> tuple[Source, ...]:
        """The sources whose sheets count: those that no reading speaks against."""
        readings = self.readings
        if self.under is not None:
            readings = tuple(reading for reading in readings if reading.id in self.under)
        sources = (source for source in self.sheet.chain.sources if source.from_sheet)
        return tuple(source for source in sources if not refuted(source, readings))

    def _is_fed_from(self, taken: PointCleanMaximum) -> bool:
        """Whether a path leads from that output; any other neither governs nor tells volts of a vehicle."""
        if self.sheet.subject is Subject.SOURCE:
            return True
        source = next((source for source in self.sheet.chain.sources if source.id == taken.point.source), None)
        return source is None or taken.point.output in self._used(source)

    def _is_played(self, taken: PointCleanMaximum) -> bool:
        """Whether the customer plays that way; one that was taken off the sheet counts no more."""
        source = next((source for source in self.sheet.chain.sources if source.id == taken.point.source), None)
        ways = {playing.kind for playing in source.inputs} if source else set()
        return taken.point.way is None or not ways or taken.point.way in ways

    @cached_property
    def asked(self) -> tuple[RequiredPoint, ...]:
        """The clean maxima that the job asks for."""
        worked = {*worked_steps(self.readings), *worked_steps(self.marks)}
        if self.sheet.subject is Subject.SOURCE:
            return tuple(asked_alone(self.sheet))
        return tuple(required_points(self.sheet, worked, {source.id for source in self.by_sheet}))

    def first_asked(self, source_id: str) -> RequiredPoint | None:
        """The first clean maximum that the job asks for of a source."""
        return next((point for point in self.asked if point.source.id == source_id), None)

    @cached_property
    def unchecked(self) -> tuple[RequiredPoint, ...]:
        """The points that a sheet tells and that are to be checked, as long as nothing was taken there."""
        measured = {clean_maximum.point for clean_maximum in self.clean_maxima if clean_maximum.records}
        return tuple(point for point in self.asked if point.told and not point.optional and point.point not in measured)

    @cached_property
    def plan(self) -> Plan:
        """Settings to make."""
        return plan(self.sheet, self.clean_maxima)

    @cached_property
    def _figures(self) -> dict[str, Figures | None]:
        return {}

    @cached_property
    def deepened(self) -> JobSheet:
        """The sheet with each filter's depth as the method takes it."""
        return self.sheet.model_copy(update={"chain": with_depth(self.sheet.chain, self.sheet.choices)})

    @cached_property
    def _then(self) -> dict[tuple[int, tuple[UUID, ...]], "JobSnapshot"]:
        return {}

    def path(self, path_id: str) -> Path | None:
        """One of its paths, or None when there is none of that id."""
        return next((path for path in self.sheet.chain.paths if path.id == path_id), None)

    def figures(self, path_id: str) -> Figures | None:
        """One path in numbers; None when it isn't there or can't be planned."""
        if path_id not in self._figures:
            self._figures[path_id] = self._worked_out(path_id)
        return self._figures[path_id]

    def _worked_out(self, path_id: str) -> Figures | None:
        chain = self.deepened.chain
        path = next((path for path in chain.paths if path.id == path_id), None)
        if path is None:
            return None
        try:
            return figures(self.deepened, path, self.clean_maxima.of_path(chain, path))
        except Lacking:
            return None

    def at(self, version: int, under: tuple[UUID, ...]) -> "JobSnapshot":
        """As it stood in a version of the sheet, with the clean maxima that these records gave."""
        if self.history is None:
            raise ValueError("a snapshot without history can’t look back")
        if (version, under) not in self._then:
            self._then[version, under] = JobSnapshot(
                sheet=self.history(version), readings=self.readings, marks=self.marks, under=under
            )
        return self._then[version, under]

    def until(self, arrival: int, version: int | None = None) -> "JobSnapshot":
        """
        The records from before one, with a version of the sheet, or with today's.

        Both share all that they work out alike.
        """
        sheet = self.history(version) if self.history and version is not None else self.sheet
        earlier = JobSnapshot(
            sheet=sheet,
            readings=tuple(reading for reading in self.readings if reading.arrival < arrival),
            marks=tuple(mark for mark in self.marks if mark.arrival < arrival),
            history=self.history,
        )
        shared: dict[str, object] = {"_then": self._then}
        if sheet == self.sheet and list(earlier.clean_maxima) == list(self.clean_maxima):
            shared |= {"plan": self.plan, "_figures": self._figures, "deepened": self.deepened}
        vars(earlier).update(shared)
        return earlier

    def _under(self, ids: tuple[UUID, ...]) -> Iterable[PointCleanMaximum]:
        """The clean maxima that these records stood for, struck since or not."""
        for mark in (
            mark for mark in self.marks if mark.id in ids and mark.basis is not None and not _takes_over(mark)
        ):
            named = [reading for reading in self._with_volts if reading.id in ids and reading.step == mark.step]
            taken = latest_by_volume(named).get(mark.volume or 0)
            # Older records name no more than the reading that was taken: then what had been read by the taking.
            volume_readings = named if len(named) > 1 else _volume_readings(self._with_volts, mark, until=mark.arrival)
            if taken:
                yield from _at_point(mark, taken, volume_readings)


def _volume_readings(readings: Iterable[Reading], mark: Mark, until: int | None = None) -> list[Reading]:
    """The readings of volume steps that stand, all or those of its time."""
    own = [reading for reading in readings if reading.step == mark.step and reading.struck is None]
    return [reading for reading in own if until is None or reading.arrival <= until]


def _takes_over(mark: Mark) -> bool:
    return mark.basis is Basis.FOLLOWS


def _newest(marks: Iterable[Mark]) -> dict[str, Mark]:
    """The newest taking of every set of volume steps that counts."""
    newest: dict[str, Mark] = {}
    for mark in sorted(marks, key=lambda mark: mark.arrival):
        if mark.basis is not None and mark.struck is None:
            newest[mark.step] = mark
    return newest


def _taken(readings: tuple[Reading, ...], marks: tuple[Mark, ...]) -> Iterable[PointCleanMaximum]:
    """For each set of volume steps the newest taking that counts, as long as its reading does."""
    for mark in _newest(marks).values():
        if _takes_over(mark):
            continue
        volume_readings = _volume_readings(readings, mark)
        reading = latest_by_volume(volume_readings).get(mark.volume or 0)
        if reading:
            yield from _at_point(mark, reading, volume_readings)


def _at_point(mark: Mark, reading: Reading, readings: list[Reading]) -> Iterable[PointCleanMaximum]:
    """The clean maximum that a mark takes with a reading of volume steps; nothing for other readings."""
    point = source_point_of(reading)
    if point is None or mark.basis is None or mark.volume is None:
        return
    volume_readings = latest_by_volume(readings) | {mark.volume: reading}
    yield PointCleanMaximum(
        point=point,
        clean_maximum=CleanMaximum(
            volume=mark.volume, voltage_v=reading.value, uncertainty_v=reading.uncertainty, basis=mark.basis
        ),
        volume_readings=tuple(
            GainPoint(volume=number, voltage_v=volume_readings[number].value, record=volume_readings[number].id)
            for number in sorted(volume_readings)
            if number <= mark.volume
        ),
        records=(mark.id, reading.id),
    )
