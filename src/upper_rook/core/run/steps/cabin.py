"""The cabin: pink noise by each group of speakers, recorded at the seat before and after the blend, against a curve."""

import math
from collections.abc import Iterator
from hashlib import blake2b

import numpy as np
from typing_extensions import override

from upper_rook.core.common import cautions
from upper_rook.core.common.units import format_db
from upper_rook.core.crossover.played_band import played_band_hz
from upper_rook.core.judge.spectrum import SpectrumReport
from upper_rook.core.run.freshness.dependencies import Dependencies, Dependency, DependencyKind
from upper_rook.core.run.readings.circumstances import Circumstances, Hanging
from upper_rook.core.run.readings.points import TerminalsPoint
from upper_rook.core.run.readings.records import Quantity, Reading
from upper_rook.core.run.readings.step_keys import CABIN_KEY
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import rows, volts
from upper_rook.core.run.steps.kind import LISTEN, Place
from upper_rook.core.run.steps.step import PlayedBand, Row, Step, StepKind
from upper_rook.core.system.choices import BlendMethod
from upper_rook.core.system.path import Path

BEFORE, AFTER = "before", "after"
_BASS_HZ, _MID_HZ = 40.0, 1000.0
_INSIDE = 2 ** (1 / 6)
"""A third octave at the very end of a band belongs half to its neighbour."""
_WITHIN_DB = 1.5
"""Groups this near to each other are balanced: noise and a microphone in a cabin tell no more (common practice)."""


def curve_db(hertz: float, bass_db: float) -> float:
    """
    Level of the wanted curve at a frequency against that at 1 kHz: level above it, straight down to 40 Hz over octaves.

    >>> round(curve_db(40, 6), 1), round(curve_db(200, 6), 1), curve_db(5000, 6)
    (6.0, 3.0, 0.0)
    """
    down = math.log(_MID_HZ / min(max(hertz, _BASS_HZ), _MID_HZ)) / math.log(_MID_HZ / _BASS_HZ)
    return bass_db * down


def level_over_curve_db(noise: SpectrumReport, band: PlayedBand, bass_db: float) -> float | None:
    """
    Mean level of the third octaves of a band over the wanted curve, dBV; None where none of them was heard.

    Pink noise gives every third octave the same level, so a cabin as wanted gives the curve itself.
    """
    low, high = band.low_hz, band.high_hz
    inside = [
        20 * math.log10(band.v_rms) - curve_db(band.nominal_hz, bass_db)
        for band in noise.bands
        if low * _INSIDE <= band.nominal_hz <= high / _INSIDE and band.v_rms > 0
    ]
    return float(np.mean(inside)) if inside else None


def row_key(when: str, path: str) -> str:
    """Row of a group before or after; a path's id may be too long to be part of a key."""
    return f"{when}-{blake2b(path.encode(), digest_size=8).hexdigest()}"


def _groups(snapshot: JobSnapshot) -> list[tuple[Path, str]]:
    return [(path, plan.name) for _, path, plan in volts.planned(snapshot)]


def _rows(snapshot: JobSnapshot) -> Iterator[Row]:
    for when in (BEFORE, AFTER):
        for path, name in _groups(snapshot):
            low, high = played_band_hz(path, snapshot.sheet.chain.load_of(path))
            yield Row(
                key=row_key(when, path.id),
                name=f"{name}, {when} the blend",
                quantity=Quantity.LEVEL,
                unit="dBV",
                point=TerminalsPoint(path=path.id, terminals=volts.terminals_of(snapshot, path)),
                wants=Circumstances(hanging=Hanging.SPEAKERS),
                note="over the curve",
                optional=True,
                band=PlayedBand(low_hz=low, high_hz=high),
            )


def _balance(snapshot: JobSnapshot, when: str, readings: dict[str, Reading]) -> Iterator[str]:
    levels = [
        (reading.value, name)
        for path, name in _groups(snapshot)
        if (reading := readings.get(row_key(when, path.id))) is not None
    ]
    if len(levels) < 2:
        return
    lowest_dbv, lowest = min(levels)
    louder = [(level - lowest_dbv, name) for level, name in levels if level - lowest_dbv > _WITHIN_DB]
    if not louder:
        yield f"{when.capitalize()} the blend every group is within {_WITHIN_DB:g} dB of the curve."
    for db, name in louder:
        compared = f"{when.capitalize()} the blend {name} is {format_db(db)} above {lowest}, against the curve"
        yield f"{compared}: turn {name} down by {format_db(db)}."


class Cabin(rows.RowsKind):
    kind = StepKind.CABIN

    @override
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
        choices = snapshot.sheet.choices
        if choices.blend is not BlendMethod.SPECTRUM or len(_groups(snapshot)) < 2:
            return
        found = tuple(_rows(snapshot))
        yield (
            (LISTEN, 0),
            Step(
                key=CABIN_KEY,
                kind=StepKind.CABIN,
                name="Cabin",
                title="Compare the groups in the cabin",
                do=(
                    "Microphone where a head is. Play pink noise, one group at a time, at one moderate volume, and "
                    "record ten seconds of each. Any full scale will do: only differences count.",
                    f"The wanted curve has {choices.cabin_bass_db:g} dB more at 40 Hz than at 1 kHz. Record again "
                    "after the blend.",
                ),
                point=found[0].point,
                wants=found[0].wants,
                rows=found,
                cautions=(cautions.QUIET_LISTENING,),
                optional=True,
            ),
        )

    @override
    def rests_on(self, snapshot: JobSnapshot, step: Step) -> Dependencies:
        """The curve that the levels were taken over, and the band of each group."""
        bass_db, chain = snapshot.sheet.choices.cabin_bass_db, snapshot.sheet.chain
        curve = Dependency(
            place="choices.cabin_bass_db", label="bass of the wanted curve", value=bass_db, kind=DependencyKind.LEVEL
        )
        bands = (
            Dependency(
                place=f"paths.{path.id}.{end}",
                label=f"{name}: {end} end of its band",
                value=hertz,
                kind=DependencyKind.HERTZ,
            )
            for path, name in _groups(snapshot)
            for end, hertz in zip(("low", "high"), played_band_hz(path, chain.load_of(path)), strict=True)
            if hertz
        )
        return (curve, *bands)

    @override
    def in_words(self, snapshot: JobSnapshot, step: Step, readings: dict[str, Reading]) -> str:
        return " ".join((*_balance(snapshot, BEFORE, readings), *_balance(snapshot, AFTER, readings)))
