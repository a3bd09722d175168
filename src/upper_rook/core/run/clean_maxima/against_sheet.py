"""
A source compared with its sheet: one reading at its number says whether this unit is as the other one was.

A sheet's figures count until a reading differs from one by more than the doubt of both; then none of them counts.
"""

import math
from collections.abc import Iterable, Iterator
from collections.abc import Set as AbstractSet

from upper_rook.core.common.units import Frozen, format_db, format_signed, format_value, from_db, ratio_db
from upper_rook.core.run.readings.points import OutputPoint
from upper_rook.core.run.readings.records import Eye, Reading, latest_by_volume
from upper_rook.core.run.readings.step_keys import is_of_second_tone
from upper_rook.core.system.clean_maxima import PointCleanMaximum, SourcePoint
from upper_rook.core.system.clean_maximum import Basis, CleanMaximum, GainPoint
from upper_rook.core.system.from_sheet import FromSheet, ToldClean
from upper_rook.core.system.playing import InputKind, Side
from upper_rook.core.system.source import Source

_SETTING_DB = 0.7
"""A setting whose cost is as near as this to what is missing is named first (common practice, no source)."""


class SheetCheck(Frozen):
    """A clean maximum on the sheet, and what the readings here say of it."""

    volume: int
    """The clean maximum on the sheet."""
    voltage_v: float
    uncertainty_v: float
    """Of another unit, at about 95 %: how far units differ, and the doubt of the reading there."""
    whose: str
    """Sheet, unit and day in words."""
    agrees: bool | None = None
    """None while no reading tells."""
    sentence: str


def lowest_told(source: Source, output: str) -> ToldClean | None:
    """Where an output bends first by the ways that the customer uses: what is to be checked there."""
    ways = {playing.kind for playing in source.inputs}
    own = (clean for clean in _known(source) if clean.output == output and clean.side is not Side.RIGHT)
    return min(
        (clean for clean in own if not ways or clean.way in (None, *ways)), key=lambda clean: clean.clean, default=None
    )


def told_at(source: Source, output: str, way: InputKind | None, side: Side | None = None) -> ToldClean | None:
    """Figures of the sheet for an output by a way; a figure measured for all ways together holds for each."""
    if way is None and side is None:
        return lowest_told(source, output)
    sides = (side,) if side is Side.RIGHT else (None, Side.LEFT)
    own = [clean for clean in _known(source) if clean.output == output and clean.side in sides]
    exact = next((clean for clean in own if clean.way is way), None)
    return exact or next((clean for clean in own if clean.way is None), None)


def _known(source: Source) -> tuple[ToldClean, ...]:
    """Figures of the sheet that fit the source as it is on the job's sheet now."""
    outputs = {output.id for output in source.outputs}
    told = source.from_sheet.clean if source.from_sheet else ()
    return tuple(clean for clean in told if clean.output in outputs and clean.clean <= source.top_volume)


def still_told(
    source: Source, outputs: AbstractSet[str], taken: Iterable[PointCleanMaximum]
) -> Iterator[PointCleanMaximum]:
    """The clean maxima of a source's sheet at some of its outputs that nothing taken here stands for."""
    measured = [clean_maximum.point for clean_maximum in taken if clean_maximum.point.source == source.id]
    for clean in _known(source):
        if clean.output in outputs and not any(_stands_for(point, clean) for point in measured):
            yield _as_clean_maximum(source, clean)


def _stands_for(point: SourcePoint, told: ToldClean) -> bool:
    same_way = point.way is None or told.way is None or point.way is told.way
    same_side = point.side is told.side or (point.side is None and told.side is not Side.RIGHT)
    return point.output == told.output and same_way and same_side


def _as_clean_maximum(source: Source, told: ToldClean) -> PointCleanMaximum:
    own = GainPoint(volume=told.clean, voltage_v=told.clean_v)
    return PointCleanMaximum(
        point=SourcePoint(source=source.id, output=told.output, side=told.side, way=told.way),
        clean_maximum=CleanMaximum(
            volume=told.clean, voltage_v=told.clean_v, uncertainty_v=_doubt_v(told, told.clean_v), basis=Basis.SHEET
        ),
        volume_readings=(
            *(GainPoint(volume=reading.volume, voltage_v=reading.voltage_v) for reading in told.volume_readings),
            own,
        ),
    )


def _doubt_v(told: ToldClean, volts: float) -> float:
    """How far another unit's volts may lie from `volts`: both doubts together (JCGM 100)."""
    return volts * math.hypot(from_db(told.within_db) - 1, told.doubt_v / told.clean_v)


def refuted(source: Source, readings: Iterable[Reading]) -> bool:
    """Whether a reading of the source's volume steps speaks against its sheet; readings that stand count."""
    groups: dict[OutputPoint, dict[InputKind | None, list[Reading]]] = {}
    for reading in readings:
        point = reading.point
        if isinstance(point, OutputPoint) and point.source == source.id and _is_of_first_tone(reading):
            groups.setdefault(point, {}).setdefault(reading.circumstances.way, []).append(reading)
    return any(
        held.agrees is False
        for point, by_way in groups.items()
        for way, own in by_way.items()
        if (held := check(source, told_at(source, point.output, way, point.side), own)) is not None
    )


def is_of_volume_steps(reading: Reading) -> bool:
    """Whether a reading counts and is a reading at a volume number."""
    return reading.struck is None and reading.step.startswith("ceiling.") and reading.volume is not None


def _is_of_first_tone(reading: Reading) -> bool:
    return is_of_volume_steps(reading) and not is_of_second_tone(reading.step)


def check(source: Source, told: ToldClean | None, readings: Iterable[Reading]) -> SheetCheck | None:
    """Volume steps beside the clean maximum on the sheet; None where the sheet has none."""
    if told is None or source.from_sheet is None:
        return None
    volume_readings = latest_by_volume(readings)
    verdict, sentence = None, _asks(source.from_sheet, told)
    low = [
        number for number, reading in volume_readings.items() if reading.seen is Eye.CLIPPED and number <= told.clean
    ]
    volts = {reading.volume: reading.voltage_v for reading in told.volume_readings} | {told.clean: told.clean_v}
    off = next(
        (
            reading
            for number, reading in volume_readings.items()
            if number in volts and _is_off(told, reading, volts[number])
        ),
        None,
    )
    if low:
        verdict, sentence = False, _bends_earlier(told, min(low))
    elif off is not None and off.volume is not None:
        verdict, sentence = False, _differs(source.from_sheet, told, off, volts[off.volume])
    elif told.clean in volume_readings:
        verdict, sentence = True, _agrees(told, volume_readings[told.clean])
    return SheetCheck(
        volume=told.clean,
        voltage_v=told.clean_v,
        uncertainty_v=_doubt_v(told, told.clean_v),
        whose=source.from_sheet.words,
        agrees=verdict,
        sentence=sentence,
    )


def _is_off(told: ToldClean, reading: Reading, told_v: float) -> bool:
    return abs(reading.value - told_v) > math.hypot(_doubt_v(told, told_v), reading.uncertainty or 0.0)


def _asks(sheet: FromSheet, told: ToldClean) -> str:
    volts = f"{format_value(told.clean_v, 'V', 3)} ± {format_value(_doubt_v(told, told.clean_v), 'V', 2)}"
    with_it = f", with {told.shown}" if told.shown else ""
    return f"By {sheet.words}, its clean maximum is {told.clean}, {volts}{with_it}. One reading there checks it."


def _agrees(told: ToldClean, reading: Reading) -> str:
    off_db = format_signed(ratio_db(reading.value, told.clean_v), 1)
    seen = "" if reading.seen is Eye.CLEAN else " The wave wasn’t seen here: the number is the other unit’s."
    return f"{told.clean} gives {format_value(reading.value, 'V')}, {off_db} dB of the sheet: it agrees.{seen} Save it."


_GOES_ON = "The sheet doesn’t count until that is clear: read again, or go number by number."


def _bends_earlier(told: ToldClean, number: int) -> str:
    return (
        f"Clean maximum on the sheet: {told.clean}. Here {number} clips. Check loudness, tone controls and trims. "
        f"Else it is another version of the source, or a fault. {_GOES_ON}"
    )


def _differs(sheet: FromSheet, told: ToldClean, reading: Reading, told_v: float) -> str:
    """Meaning of a disagreement (common practice, no source); a setting that costs just as much is named first."""
    db = ratio_db(reading.value, told_v)
    found = min(sheet.settings, key=lambda setting: abs(setting.db - db), default=None)
    near = found if found is not None and abs(found.db - db) <= _SETTING_DB else None
    named = f"{near.name} does {format_signed(near.db, 1)} dB by the sheet: look at that first. " if near else ""
    usual = (
        "loudness, tone controls or a trim above zero"
        if db > 0
        else "the player’s volume or normaliser, a trim, the fader, a track below full scale, the wrong output"
    )
    return (
        f"{reading.volume} gives {format_value(reading.value, 'V')}, {format_db(abs(db))} "
        f"{'more' if db > 0 else 'less'} "
        f"than the sheet’s {format_value(told_v, 'V')}, beyond its ± {format_db(told.within_db)}. {named}A "
        "setting in the "
        f"way ({usual}), another version of the source, or a fault. {_GOES_ON}"
    )
