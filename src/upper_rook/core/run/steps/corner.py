"""The corner: a filter on an amplifier, turned until the volts have fallen to its ratio."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import NamedTuple

from typing_extensions import override

from upper_rook.core.common.units import format_db, format_hertz, format_value, from_db, ratio_db
from upper_rook.core.crossover.corners import corner_plan
from upper_rook.core.metrology.comparison import Limits, Turn
from upper_rook.core.plan.target import Target
from upper_rook.core.run.freshness.dependencies import Dependencies, Dependency, DependencyKind
from upper_rook.core.run.readings.circumstances import Circumstances, Hanging
from upper_rook.core.run.readings.points import TerminalsPoint
from upper_rook.core.run.readings.records import Reading
from upper_rook.core.run.readings.step_keys import corner_key, gain_key
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import diagnostics, rows, volts
from upper_rook.core.run.steps.kind import CORNERS, Place
from upper_rook.core.run.steps.step import Row, Step, StepKind
from upper_rook.core.signal.filters import ChannelFilter, FilterPlace, Pass
from upper_rook.core.signal.measured_corner import corner_from
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.path import Path

OPEN, NOW = "open", "now"
_CLOSE = 0.05
"""So far from where it is wanted a corner may stand (common practice, no source)."""


@dataclass(frozen=True)
class _Dial:
    """A filter that is turned on an amplifier."""

    number: int
    """Of its path."""
    path: Path
    place: int
    """Among the path's filters."""
    filter: ChannelFilter
    """With its depth as the method takes it."""

    @property
    def key(self) -> str:
        return corner_key(self.path.id, self.place)


def _dials(snapshot: JobSnapshot) -> Iterator[_Dial]:
    """Every filter that is turned on an amplifier of a planned path."""
    planned = {path.path for path in snapshot.plan.paths}
    for number, path in enumerate(snapshot.deepened.chain.paths):
        for place, channel_filter in enumerate(path.filters):
            if path.id in planned and channel_filter.place is FilterPlace.AMPLIFIER and path.works(channel_filter):
                yield _Dial(number, path, place, channel_filter)


def _dial_of(snapshot: JobSnapshot, step: Step) -> _Dial | None:
    return next((dial for dial in _dials(snapshot) if dial.key == step.key), None)


def _target(channel_filter: ChannelFilter, opened: Reading) -> Target:
    """
    The open volts times the ratio, and what a corner some per cent off comes to.

    Round its corner a filter of order n falls by n·10/ln 10 dB for each e-fold of frequency.
    """
    crossover = channel_filter.crossover
    wanted = opened.value * crossover.ratio
    off_db = crossover.order * 10 / math.log(10) * _CLOSE
    return Target(
        value=wanted,
        unit="V",
        limits=Limits(low=wanted * from_db(-off_db), high=wanted * from_db(off_db)),
        method="Ratio",
        # A high-pass leaves the less the further up it is, a low-pass the more.
        turn=Turn(below="turn the filter back down", above="turn the filter further up")
        if crossover.kind is Pass.HIGH
        else Turn(below="turn the filter back up", above="turn the filter further down"),
        because=(
            f"{format_value(opened.value, 'V')} with the filter open",
            f"× {crossover.ratio:.3f} for {format_db(crossover.marked_db)} at the corner",
            f"± {100 * _CLOSE:.0f} % of the corner are ± {format_db(off_db)} here",
        ),
    )


class FoundCorner(NamedTuple):
    """A filter of an amplifier whose corner was measured."""

    path: Path
    place: int
    """Among the path's filters."""
    filter: ChannelFilter
    hertz: float
    reached: float
    """Share of the open volts."""
    now: Reading


def found_corners(snapshot: JobSnapshot) -> Iterator[FoundCorner]:
    """Every filter whose two readings tell where its corner is."""
    for dial in _dials(snapshot):
        if found := _found(dial, rows.last_readings(snapshot, dial.key)):
            yield found


def _found(dial: _Dial, readings: dict[str, Reading]) -> FoundCorner | None:
    """Where the corner really is, by the two readings and the slope that the sheet has."""
    opened, now = readings.get(OPEN), readings.get(NOW)
    if opened is None or now is None or opened.value <= 0 or not 0 < now.value < 0.97 * opened.value:
        return None
    crossover = dial.filter.crossover
    tone_hz = now.tone.frequency_hz if now.tone else crossover.corner_hz
    down_db = ratio_db(opened.value, now.value) + crossover.marked_db
    hertz = corner_from(crossover.kind, crossover.order, tone_hz, down_db + 3.0103)
    if hertz is None:
        return None
    return FoundCorner(dial.path, dial.place, dial.filter, hertz, now.value / opened.value, now)


class Corners(rows.RowsKind):
    kind = StepKind.CORNER

    @override
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
        chain = snapshot.sheet.chain
        for dial in _dials(snapshot):
            path, channel_filter, key = dial.path, dial.filter, dial.key
            plan = corner_plan(chain, path, channel_filter, snapshot.clean_maxima.of_path(chain, path))
            tone = Tone(frequency_hz=channel_filter.crossover.corner_hz)
            way = volts.gain_way(snapshot, path)
            wants = Circumstances(tone=tone, volume=plan.volume, way=way, hanging=Hanging.NOTHING)
            point = TerminalsPoint(path=path.id, terminals=volts.terminals_of(snapshot, path))
            opened = rows.last_readings(snapshot, key).get(OPEN)
            yield (
                (CORNERS, dial.number, dial.place),
                Step(
                    key=key,
                    kind=StepKind.CORNER,
                    path=path.id,
                    along=path.id,
                    name=f"{path.name or 'Path'} {channel_filter.crossover.kind.value}-pass",
                    title=f"Set the {channel_filter.crossover.kind.value}-pass of {path.name or 'this path'} "
                    f"to {format_hertz(channel_filter.crossover.corner_hz)}",
                    do=(
                        f"Volume {plan.volume}, filter open: save the volts. {plan.turn}",
                        plan.dial,
                    ),
                    probe=volts.probe_of(snapshot, path),
                    point=point,
                    wants=wants,
                    top_volume=chain.source_of(path).top_volume,
                    play=wants.play,
                    rows=(
                        Row(key=OPEN, name="With the filter open", point=point, wants=wants, play=wants.play),
                        Row(
                            key=NOW,
                            name="With the filter in",
                            point=point,
                            wants=wants,
                            play=wants.play,
                            target=_target(channel_filter, opened) if opened else None,
                            note=f"× {channel_filter.crossover.ratio:.3f} of that",
                        ),
                    ),
                    cautions=snapshot.plan.cautions_of(path.id),
                    builds_on=volts.builds_on(snapshot, path),
                    after=(gain_key(path.id),),
                ),
            )

    @override
    def rests_on(self, snapshot: JobSnapshot, step: Step) -> Dependencies:
        dial = _dial_of(snapshot, step)
        if dial is None:
            return ()
        crossover = dial.filter.crossover
        return (
            Dependency(place="corner", label="corner", value=crossover.corner_hz, kind=DependencyKind.HERTZ),
            Dependency(place="kind", label="kind of filter", value=crossover.kind.value),
            Dependency(place="order", label="slope", value=6 * crossover.order),
            Dependency(place="ratio", label="ratio at the corner", value=round(crossover.ratio, 3)),
            Dependency(place="amplifier", label="amplifier", value=dial.path.amplifier),
            Dependency(place="section", label="amplifier’s section", value=dial.path.section),
        )

    @override
    def in_words(self, snapshot: JobSnapshot, step: Step, readings: dict[str, Reading]) -> str:
        dial = _dial_of(snapshot, step)
        found = _found(dial, readings) if dial else None
        if found is None:
            return ""
        return f"× {found.reached:.3f} of the open volts: the corner is at about {format_hertz(found.hertz, 2)}."

    @override
    def meaning(self, snapshot: JobSnapshot, step: Step, row: Row, reading: Reading) -> tuple[str, ...]:
        opened = rows.last_readings(snapshot, step.key).get(OPEN)
        if row.key != NOW or opened is None or opened.value <= 0 or reading.value <= 0:
            return ()
        return diagnostics.of_corner(ratio_db(reading.value, opened.value), opened.value, reading.value)
