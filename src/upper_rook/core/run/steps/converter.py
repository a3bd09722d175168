"""The converter: each of its outputs trimmed to one level, with the source at its clean maximum."""

from collections.abc import Iterator

from typing_extensions import override

from upper_rook.core.common.units import format_db, format_hertz, format_value, from_db, ratio_db
from upper_rook.core.metrology.comparison import Limits, Turn
from upper_rook.core.plan.target import Target
from upper_rook.core.run.freshness.dependencies import Dependencies, Dependency, DependencyKind
from upper_rook.core.run.freshness.dependency_places import output_of, source_settings
from upper_rook.core.run.readings.circumstances import Circumstances, Hanging
from upper_rook.core.run.readings.points import ProcessorPoint
from upper_rook.core.run.readings.records import Reading
from upper_rook.core.run.snapshot.converters import Trim, trims
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import diagnostics, rows, volts
from upper_rook.core.run.steps.kind import CONVERTERS, Place
from upper_rook.core.run.steps.needs import clean_maximum
from upper_rook.core.run.steps.step import Row, Step, StepKind
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.playing import Side
from upper_rook.core.system.source import Sides

_WITHIN_DB = 0.5
"""Outputs this near to each other are matched (common practice, no source)."""
_OVER_DB = 0.1
"""A converter at its highest clean output may read so much above it, and no more."""
_LOW_HZ, _HIGH_HZ = 40.0, 1000.0
_APART_DB = 1.0
"""So much between these betrays a filter or a roll-off (common practice, no source)."""


def _order(trim: Trim) -> str:
    return "left and right alike." if trim.figures.sides is Sides.PAIR else "this output carries one side."


def _wants(snapshot: JobSnapshot, trim: Trim, tone: Tone) -> Circumstances:
    return Circumstances(
        tone=tone,
        volume=volts.gain_volume(snapshot, trim.path),
        way=volts.gain_way(snapshot, trim.path),
        hanging=Hanging.NOTHING,
    )


def _point(trim: Trim, side: Side | None) -> ProcessorPoint:
    return ProcessorPoint(processor=trim.stage.processor.id, path=trim.path.id, side=side)


def _tone(snapshot: JobSnapshot, trim: Trim) -> Tone:
    """The tone of the gain behind it, at the level that converters are trimmed with."""
    level_dbfs = snapshot.sheet.choices_of(trim.path).trim_level_dbfs
    return trim.figures.gain_tone.tone.model_copy(update={"level_dbfs": level_dbfs})


def _target(snapshot: JobSnapshot, trim: Trim) -> Target:
    """The volts at the tone's level and the volume that gains are set at."""
    # What the gain's own tone leaves over is in the overlap: another tone's level stands in its place.
    overlap_db = trim.figures.overlap_db + trim.figures.gain_tone.tone.level_dbfs - _tone(snapshot, trim).level_dbfs
    volts_now = (trim.stage.output_v or 0.0) * from_db(-overlap_db)
    most = trim.stage.processor.highest_output_v * from_db(_OVER_DB - overlap_db)
    full = format_value(trim.stage.output_v or 0.0, "V", 3)
    return Target(
        value=volts_now,
        unit="V",
        limits=Limits(low=volts_now * from_db(-_WITHIN_DB), high=min(volts_now * from_db(_WITHIN_DB), most)),
        method="Trim",
        turn=Turn(below="turn its trim up", above="turn its trim down"),
        because=(f"{full} at full scale at the source’s clean maximum",),
    )


def _rows(snapshot: JobSnapshot, trim: Trim) -> Iterator[Row]:
    tone, target = _tone(snapshot, trim), _target(snapshot, trim)
    sides: tuple[Side | None, ...] = tuple(Side) if trim.figures.sides is Sides.PAIR else (None,)
    wants = _wants(snapshot, trim, tone)
    for side in sides:
        yield Row(
            key=side.value if side else "output",
            name=f"{side.value.capitalize()} output" if side else "Output",
            point=_point(trim, side),
            wants=wants,
            play=wants.play,
            target=target,
        )
    for hertz in (_LOW_HZ, _HIGH_HZ):
        if hertz != tone.frequency_hz:
            other = _wants(snapshot, trim, Tone(frequency_hz=hertz, level_dbfs=tone.level_dbfs))
            yield Row(
                key=f"at-{hertz:g}",
                name=f"The same output at {format_hertz(hertz)}",
                point=_point(trim, sides[0]),
                wants=other,
                play=other.play,
                optional=True,
            )


def _trim_of(snapshot: JobSnapshot, step: Step) -> Trim | None:
    return next((trim for trim in trims(snapshot) if trim.key == step.key), None)


def _roll_off(step: Step, readings: dict[str, Reading]) -> str:
    """The gap between 40 Hz and 1 kHz, where both were read."""
    by_hertz: dict[float, float] = {}
    for row in step.rows:
        reading = readings.get(row.key)
        if reading and row.wants.tone and reading.value > 0:
            by_hertz.setdefault(row.wants.tone.frequency_hz, reading.value)
    low, high = by_hertz.get(_LOW_HZ), by_hertz.get(_HIGH_HZ)
    if not low or not high:
        return ""
    apart = ratio_db(low, high)
    if abs(apart) < _APART_DB:
        return "40 Hz and 1 kHz are level."
    way, why = (
        ("below", "a high-pass is in, or the source cuts bass as it is turned up")
        if apart < 0
        else ("above", "bass is lifted somewhere, or a low-pass is in")
    )
    return f"40 Hz is {format_db(abs(apart))} {way} 1 kHz: {why}."


class Converters(rows.RowsKind):
    kind = StepKind.CONVERTER

    @override
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
        for number, trim in enumerate(trims(snapshot)):
            chain, path, name = snapshot.sheet.chain, trim.path, trim.stage.processor.name or "the converter"
            source = chain.source_of(path)
            volume_step_sets = volts.volume_step_sets_of(snapshot, path)
            first = clean_maximum(snapshot, path, "the trim is set at that volume")
            wants = _wants(snapshot, trim, _tone(snapshot, trim))
            yield (
                (CONVERTERS, number),
                Step(
                    key=trim.key,
                    kind=StepKind.CONVERTER,
                    along=path.id,
                    name=f"{path.name or 'Path'} trim",
                    title=f"Set converter {name} ({path.converter_output or path.name or 'output'})",
                    do=(
                        f"Turn the trim until the meter shows the target; {_order(trim)}",
                        "If the reading moves with the trim, the lead is in the right socket.",
                    ),
                    probe=f"{name}’s output, on the plug’s centre and shell, the amplifier’s lead unplugged",
                    point=_point(trim, None),
                    wants=wants,
                    top_volume=source.top_volume,
                    play=wants.play,
                    rows=tuple(_rows(snapshot, trim)),
                    builds_on=volts.builds_on(snapshot, path),
                    after=volume_step_sets,
                    needs=(first,) if first else (),
                ),
            )

    @override
    def rests_on(self, snapshot: JobSnapshot, step: Step) -> Dependencies:
        trim = _trim_of(snapshot, step)
        if trim is None:
            return ()
        source, tone = snapshot.sheet.chain.source_of(trim.path), _tone(snapshot, trim)
        return (
            *output_of(source, trim.path.output),
            *source_settings(source),
            Dependency(place="processor", label="converter", value=trim.stage.processor.id),
            Dependency(
                place="target", label="Target volts", value=_target(snapshot, trim).value, kind=DependencyKind.VOLTS
            ),
            Dependency(place="tone", label="tone", value=tone.frequency_hz, kind=DependencyKind.HERTZ),
            Dependency(place="volume", label="Clean maximum for gains", value=volts.gain_volume(snapshot, trim.path)),
        )

    @override
    def counts(self, then: JobSnapshot, step: Step) -> bool:
        return not volts.is_too_early(then, step.along or "")

    @override
    def in_words(self, snapshot: JobSnapshot, step: Step, readings: dict[str, Reading]) -> str:
        return _roll_off(step, readings)

    @override
    def meaning(self, snapshot: JobSnapshot, step: Step, row: Row, reading: Reading) -> tuple[str, ...]:
        return diagnostics.of_converter(reading.value, row.target) if row.target else ()
