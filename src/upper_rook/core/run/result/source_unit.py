"""Measurements of a source in a run, as a unit of a source sheet."""

from collections.abc import Iterator
from itertools import product

from upper_rook.core.common.errors import NotFound
from upper_rook.core.common.units import format_hertz, format_signed
from upper_rook.core.run.readings.points import OutputPoint
from upper_rook.core.run.readings.records import Eye, Reading, standing
from upper_rook.core.run.readings.step_keys import clean_maximum_key, second_tone_key, trims_key
from upper_rook.core.run.readings.tried_setting import SETTING_WORDS, SettingKind, TriedSetting
from upper_rook.core.run.snapshot.heard import was_heard
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.trims import AS_SET, BASS, SETTINGS, away_of
from upper_rook.core.sources.source_sheet import Cell, OtherSetting, Settings, SheetOutput, SourceSheet, Tried, Unit
from upper_rook.core.system.clean_maxima import PointCleanMaximum
from upper_rook.core.system.clean_maximum import Basis, VolumeReading
from upper_rook.core.system.source import Source

_HABIT_HZ = 1000.0


def sheet_of_source(snapshot: JobSnapshot, source_id: str, unit_id: str, unit_name: str) -> SourceSheet:
    """
    A sheet of one source of a job with the one unit that was measured there.

    Raises NotFound without that source, or before a clean maximum of it was taken.
    """
    source = next((source for source in snapshot.sheet.chain.sources if source.id == source_id), None)
    if source is None:
        raise NotFound("There is no such source in this job: reload the page.", "source")
    taken = [
        clean_maximum
        for clean_maximum in snapshot.clean_maxima
        if clean_maximum.point.source == source_id and clean_maximum.records
    ]
    if not taken:
        raise NotFound("Nothing of this source was measured yet: find its clean maximum first.", "source")
    cells = (
        *(_cell(snapshot, source, clean_maximum) for clean_maximum in taken),
        *_by_setting(snapshot, source, taken[0]),
    )
    own = {cell.spot: cell for cell in reversed(cells)}
    return SourceSheet(
        name=source.name or "Source without a name",
        kind=source.kind,
        top_volume=source.top_volume,
        outputs=tuple(
            SheetOutput(id=output.id, name=output.name, kind=output.kind, sides=output.sides, rated=output.rated)
            for output in source.outputs
        ),
        units=(
            Unit(
                id=unit_id,
                name=unit_name,
                cells=tuple(reversed(own.values())),
                tried=tuple(_tried(snapshot, source, taken[0])),
            ),
        ),
    )


def _trim(source: Source, clean_maximum: PointCleanMaximum) -> str:
    """A way's own trim as it stood; zero is how it is left, and isn't said."""
    trim_db = next((playing.trim_db for playing in source.inputs if playing.kind is clean_maximum.point.way), 0.0)
    return format_signed(trim_db) if trim_db else ""


def _sub_level(source: Source) -> str:
    level = source.tone.sub_level
    return "" if level is None else format_signed(level)


def _cell(snapshot: JobSnapshot, source: Source, maximum: PointCleanMaximum) -> Cell:
    point, clean_maximum = maximum.point, maximum.clean_maximum
    key = clean_maximum_key(point.source, point.output, point.way, point.side)
    readings = standing(snapshot.readings, second_tone_key(key) if point.tone_hz else key)
    clipped = (reading.volume for reading in readings if reading.seen is Eye.CLIPPED and reading.volume is not None)
    taken = next((reading for reading in readings if reading.id in maximum.records), None)
    heard = was_heard(snapshot.readings, maximum)
    told = taken or next((mark for mark in snapshot.marks if mark.id in maximum.records), None)
    return Cell(
        output=point.output,
        side=point.side,
        way=point.way,
        tone_hz=taken.tone.frequency_hz if taken and taken.tone else _HABIT_HZ,
        trim=_trim(source, maximum),
        sub_level=_sub_level(source),
        clean=clean_maximum.volume,
        # The volts of a rating tell the library nothing.
        clean_v=None if heard else clean_maximum.voltage_v,
        doubt_v=None if heard else clean_maximum.uncertainty_v,
        clipped=min((number for number in clipped if number > clean_maximum.volume), default=None),
        volume_readings=()
        if heard
        else tuple(VolumeReading(volume=reading.volume, voltage_v=reading.voltage_v) for reading in _rising(maximum)),
        basis=clean_maximum.basis,
        taken_on=told.taken_at.date() if told else None,
        by=told.by if told else "",
        taken_over=clean_maximum.basis is Basis.FOLLOWS,
    )


def _rising(clean_maximum: PointCleanMaximum) -> Iterator[VolumeReading]:
    """Its readings as far as each gives more than the one below: a reading taken at the wrong number doesn't count."""
    highest = 0.0
    for volume_reading in clean_maximum.volume_readings:
        if volume_reading.voltage_v >= highest and volume_reading.voltage_v > 0:
            highest = volume_reading.voltage_v
            yield VolumeReading(volume=volume_reading.volume, voltage_v=volume_reading.voltage_v)


def _trims(snapshot: JobSnapshot, source: Source) -> dict[str, Reading]:
    """The last reading of every row of the trims that were tried."""
    return {
        reading.circumstances.row: reading
        for reading in standing(snapshot.readings, trims_key(source.id))
        if reading.circumstances.row is not None
    }


def _tried(snapshot: JobSnapshot, source: Source, at: PointCleanMaximum) -> Iterator[Tried]:
    """Settings switched on for one reading, at the number of the reading without."""
    readings = _trims(snapshot, source)
    for (key, name), ending in product(SETTINGS, ("", BASS)):
        without, reading = readings.get(f"{AS_SET}{ending}"), readings.get(f"{key}{ending}")
        if without is None or reading is None or reading.volume is None or reading.volume != without.volume:
            continue
        yield Tried(
            setting=f"{name}, {format_hertz(reading.tone.frequency_hz)}" if ending and reading.tone else name,
            output=at.point.output,
            way=at.point.way,
            volume=reading.volume,
            without_v=without.value,
            with_v=reading.value,
        )


def _with(left: Settings, tried: TriedSetting) -> Settings:
    """The settings as they are left, but for the one that was tried."""
    match tried.kind:
        case SettingKind.TRIM:
            return left._replace(trim=tried.shown)
        case SettingKind.SUB_LEVEL:
            return left._replace(sub_level=tried.shown)
        case _:
            other = OtherSetting(setting=SETTING_WORDS[tried.kind], value=tried.shown)
            return left._replace(others=(other,))


def _by_setting(snapshot: JobSnapshot, source: Source, at: PointCleanMaximum) -> Iterator[Cell]:
    """The last clean volts with each setting that was tried."""
    left = Settings(_trim(source, at), _sub_level(source))
    stands = next((playing.trim_db for playing in source.inputs if playing.kind is at.point.way), 0.0)
    for key, reading in _trims(snapshot, source).items():
        away, point, setting = away_of(key), reading.point, reading.circumstances.setting
        if reading.volume is None or not isinstance(point, OutputPoint):
            continue
        if setting:
            with_it = _with(left, setting)
        elif away is None:
            continue
        elif key.startswith("trim-"):
            with_it = left._replace(trim=format_signed(stands + away))
        else:
            with_it = left._replace(sub_level=format_signed((source.tone.sub_level or 0.0) + away))
        yield Cell(
            output=point.output,
            way=reading.circumstances.way if setting else at.point.way,
            tone_hz=reading.tone.frequency_hz if reading.tone else _HABIT_HZ,
            **with_it._asdict(),
            clean=reading.volume,
            clean_v=reading.value,
            doubt_v=reading.uncertainty,
            taken_on=reading.taken_at.date(),
            by=reading.by,
        )
