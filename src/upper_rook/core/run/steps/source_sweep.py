"""The source over its whole band, from a recorded sweep or tone by tone: level and clean, or cut or lifted."""

from collections.abc import Iterator

from typing_extensions import override

from upper_rook.core.common.units import format_hertz, ratio_db
from upper_rook.core.metrology.comparison import Limits, Turn
from upper_rook.core.plan.target import Target
from upper_rook.core.run.clean_maxima.required_points import RequiredPoint
from upper_rook.core.run.freshness.dependencies import Dependencies
from upper_rook.core.run.freshness.dependency_places import output_of, source_settings
from upper_rook.core.run.readings.circumstances import Circumstances, Hanging
from upper_rook.core.run.readings.points import OutputPoint
from upper_rook.core.run.readings.records import Eye, Reading
from upper_rook.core.run.readings.step_keys import source_sweep_key
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import rows
from upper_rook.core.run.steps.kind import CLEAN_MAXIMA, Place
from upper_rook.core.run.steps.step import Row, Step, StepKind
from upper_rook.core.run.steps.volume_steps import cautions_at
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.choices import Meter
from upper_rook.core.system.clean_maximum import start_volume
from upper_rook.core.system.methods import EXTENT

_REFERENCE_HZ = 1000.0
_TONES_HZ = (30.0, 60.0, 120.0, 400.0, 4000.0, 10_000.0)
_WITHIN_DB, _EDGE_DB = 1.0, 3.0
"""Line outputs are this level over the band, and at its ends (common practice, no source)."""
_ENDS_HZ = (40.0, 8000.0)
_BEHIND_TRIMS = 200
_TURN = Turn(below="something cuts here", above="something lifts here")


def _key(hertz: float) -> str:
    return f"at-{hertz:g}"


def _within_db(hertz: float) -> float:
    return _WITHIN_DB if _ENDS_HZ[0] <= hertz <= _ENDS_HZ[1] else _EDGE_DB


def _is_offered(snapshot: JobSnapshot, key: str) -> bool:
    """Where somebody has a screen, or asks for everything; what was read stays."""
    choices = snapshot.sheet.choices
    return choices.meter is Meter.SCOPE or EXTENT.of(choices).every_output or bool(rows.last_readings(snapshot, key))


def _rows(snapshot: JobSnapshot, asked: RequiredPoint, key: str) -> Iterator[Row]:
    """A kilohertz first, then the others against it."""
    source, output = asked.source, asked.output
    number = snapshot.clean_maxima.gain_volume(source.id) or start_volume(source.top_volume)
    flat = rows.last_readings(snapshot, key).get(_key(_REFERENCE_HZ))
    low_hz, high_hz = output.lowest_hz or 0.0, output.highest_hz or float("inf")
    for hertz in (_REFERENCE_HZ, *_TONES_HZ):
        if hertz != _REFERENCE_HZ and not low_hz <= hertz <= high_hz:
            continue
        tone = Tone(frequency_hz=hertz)
        wants = Circumstances(tone=tone, volume=number, way=asked.way, hanging=Hanging.NOTHING)
        yield Row(
            key=_key(hertz),
            name=format_hertz(hertz),
            point=OutputPoint(source=source.id, output=output.id),
            wants=wants,
            play=wants.play,
            target=_target(flat, hertz) if flat and hertz != _REFERENCE_HZ else None,
            note="the reference" if hertz == _REFERENCE_HZ else f"as {format_hertz(_REFERENCE_HZ)}",
            optional=True,
        )


def _target(flat: Reading, hertz: float) -> Target:
    off = 10 ** (_within_db(hertz) / 20)
    return Target(
        value=flat.value,
        unit="V",
        limits=Limits(low=flat.value / off, high=flat.value * off),
        method="",
        because=(f"as {format_hertz(_REFERENCE_HZ)} gives",),
        turn=_TURN,
    )


def _conclusions(step: Step, readings: dict[str, Reading]) -> Iterator[str]:
    flat = readings.get(_key(_REFERENCE_HZ))
    named = {row.key: row.name for row in step.rows}
    clipped = [named[key] for key, reading in readings.items() if reading.seen is Eye.CLIPPED and key in named]
    if clipped:
        yield f"It clips at {', '.join(clipped)}: the clean maximum is lower there."
    if flat is None:
        return
    off: list[tuple[str, float]] = []
    for row in step.rows:
        reading, hertz = readings.get(row.key), row.wants.tone.frequency_hz if row.wants.tone else 0.0
        if reading is None or reading.value <= 0 or flat.value <= 0:
            continue
        db = ratio_db(reading.value, flat.value)
        if abs(db) > _within_db(hertz):
            off.append((row.name, db))
    if cut := [name for name, db in off if db < 0]:
        yield f"Cut at {', '.join(cut)}: look for a filter or a crossover left on in the source."
    if lifted := [name for name, db in off if db > 0]:
        yield f"Lifted at {', '.join(lifted)}: look for loudness, tone controls or an equaliser left on."
    if not off and len(readings) > 1 and not clipped:
        yield "Level over the band that was read."


class SourceSweeps(rows.RowsKind):
    kind = StepKind.SOURCE_SWEEP

    @override
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
        for number, source in enumerate(snapshot.sheet.chain.feeding()):
            asked = snapshot.first_asked(source.id)
            if asked is None:
                continue
            key = source_sweep_key(source.id)
            if not _is_offered(snapshot, key):
                continue
            found = tuple(_rows(snapshot, asked, key))
            yield (
                (CLEAN_MAXIMA, _BEHIND_TRIMS, number),
                Step(
                    key=key,
                    kind=StepKind.SOURCE_SWEEP,
                    along=asked.path.id,
                    name="Whole band",
                    title=f"Check the whole band: {source.name or 'the source'}",
                    do=(
                        "Play the sweep at the clean maximum, record the output and use the recording. Or read the "
                        "tones one by one.",
                        "A filter, loudness or an equaliser left on in the source shows here, before any amplifier is "
                        "on.",
                    ),
                    probe="the same output as for the clean maximum",
                    point=found[0].point,
                    wants=found[0].wants,
                    top_volume=source.top_volume,
                    play=found[0].play,
                    rows=found,
                    cautions=cautions_at(asked.output),
                    optional=True,
                ),
            )

    @override
    def rests_on(self, snapshot: JobSnapshot, step: Step) -> Dependencies:
        source = next(
            (source for source in snapshot.sheet.chain.feeding() if source_sweep_key(source.id) == step.key), None
        )
        if source is None or not isinstance(step.point, OutputPoint):
            return ()
        return (*output_of(source, step.point.output), *source_settings(source))

    @override
    def otherwise(self, snapshot: JobSnapshot, row: Row, reading: Reading) -> str:
        """Two tones can be compared only at one number."""
        flat = rows.last_readings(snapshot, reading.step).get(_key(_REFERENCE_HZ))
        if flat is not None and None not in (flat.volume, reading.volume) and flat.volume != reading.volume:
            return f"read at {reading.volume}, {format_hertz(_REFERENCE_HZ)} at {flat.volume}. Read both at one number"
        return super().otherwise(snapshot, row, reading)

    @override
    def in_words(self, snapshot: JobSnapshot, step: Step, readings: dict[str, Reading]) -> str:
        return " ".join(_conclusions(step, readings))
