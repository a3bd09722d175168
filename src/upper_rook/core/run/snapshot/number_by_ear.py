"""The number never to pass by a way that plays no tone: that of a measured way, as far off as ears say."""

from collections.abc import Iterator

from upper_rook.core.common.units import Frozen
from upper_rook.core.run.readings.records import standing
from upper_rook.core.run.readings.step_keys import other_ways_key
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.system.playing import TONELESS, InputKind
from upper_rook.core.system.source import Source

DOUBT = 2
"""Numbers by which ears are off when two programmes are made to sound alike (common practice, no source)."""


class NumberByEar(Frozen):
    """A number that was found by ear."""

    way: InputKind
    volume: int
    """The number to hand over: with the doubt of ears taken off."""
    apart: int
    """How many numbers further up it sounds as loud as the way that was measured."""


def toneless(source: Source) -> tuple[InputKind, ...]:
    """The ways of a source that play no tone, where it has others to compare them with."""
    ways = tuple(playing.kind for playing in source.inputs if playing.kind in TONELESS)
    return ways if len(ways) < len(source.inputs) else ()


def way_row(way: InputKind) -> str:
    """Row of a way in its step."""
    return way.value.replace("_", "-")


def known_way(snapshot: JobSnapshot, source: Source) -> InputKind | None:
    """The way that the others are compared with: that with the lowest measured number."""
    governing = snapshot.clean_maxima.governing(source.id)
    playing = next((playing.kind for playing in source.inputs if playing.kind not in TONELESS), None)
    return (governing.point.way if governing else None) or playing


def numbers_by_ear(snapshot: JobSnapshot, source: Source, top: int) -> Iterator[NumberByEar]:
    """
    The number of every way that was compared; `top` is the one never to pass by the ways that were measured.

    A quieter programme allows a higher number. Of that the doubt of ears is kept, but never below what would hold for
    equal loudness.
    """
    readings = {
        reading.circumstances.row: reading for reading in standing(snapshot.readings, other_ways_key(source.id))
    }
    for way in toneless(source):
        reading = readings.get(way_row(way))
        if reading is None:
            continue
        apart = round(reading.value)
        careful = max(0, apart - DOUBT) if apart >= 0 else apart - DOUBT
        yield NumberByEar(way=way, volume=max(1, min(source.top_volume, top + careful)), apart=apart)
