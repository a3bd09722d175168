"""Trims and settings of a source: what each costs or gives, and which of them leave the most clean volts."""

import re
from collections.abc import Iterator

from typing_extensions import override

from upper_rook.core.common.units import format_hertz, format_signed, format_value, ratio_db
from upper_rook.core.plan.gain_tone import habit_tone
from upper_rook.core.run.clean_maxima.required_points import RequiredPoint
from upper_rook.core.run.freshness.dependencies import Dependencies
from upper_rook.core.run.freshness.dependency_places import output_of, source_settings
from upper_rook.core.run.readings.circumstances import Circumstances, Hanging
from upper_rook.core.run.readings.points import OutputPoint
from upper_rook.core.run.readings.records import Reading
from upper_rook.core.run.readings.step_keys import trims_key
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import rows
from upper_rook.core.run.steps.kind import CLEAN_MAXIMA, Place
from upper_rook.core.run.steps.step import Row, Step, StepKind
from upper_rook.core.run.steps.volume_steps import cautions_at
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.clean_maximum import start_volume
from upper_rook.core.system.methods import EXTENT
from upper_rook.core.system.source import Source

AS_SET = "as-set"
SETTINGS = (
    ("loudness", "Loudness on"),
    ("expander", "Expander or improver on"),
    ("bass", "Bass up as far as it is used"),
    ("fader", "Fader at one end"),
    ("normaliser", "Player’s normalisation on"),
    ("phone", "Player’s volume a notch down"),
)
"""Setting that is switched on for one reading, and off again."""
BASS = "-40"
"""Ending of the rows that are read with a bass tone as well: what lifts bass alone changes nothing at 1 kHz."""
_BASS_HZ, _HAS_BASS_APART_HZ = 40.0, 200.0
_TRIMS_DB = (-6.0, -3.0, 3.0, 6.0)
_SUB_STEPS = (-3.0, 3.0)
_LAST = 100
"""After the volume steps of any number of points."""
_TOLD_DB = 0.3
_NUMBER_DB = 1.0


def _worth_it(snapshot: JobSnapshot, source: Source) -> bool:
    """Whether there is anything to try: trims that were moved, a sub level, or everything that was asked for."""
    moved = any(one.trim_db for one in source.inputs) or source.tone.sub_level is not None
    return moved or EXTENT.of(snapshot.sheet.choices).every_output


def _rows(source: Source, asked: RequiredPoint, tone: Tone) -> Iterator[Row]:
    point = OutputPoint(source=source.id, output=asked.output.id)
    quiet = Circumstances(tone=tone, volume=start_volume(source.top_volume), way=asked.way, hanging=Hanging.NOTHING)
    tones = [("", tone)]
    if tone.frequency_hz >= _HAS_BASS_APART_HZ:
        tones.append((BASS, tone.model_copy(update={"frequency_hz": _BASS_HZ})))
    for key, name in ((AS_SET, f"As it is set, at {quiet.volume}"), *SETTINGS):
        for ending, played in tones:
            yield Row(
                key=f"{key}{ending}",
                name=f"{name}, {format_hertz(_BASS_HZ)}" if ending else name,
                point=point,
                wants=quiet.model_copy(update={"tone": played}),
                play=played.label,
                note="" if key == AS_SET else "if present",
                optional=key != AS_SET or bool(ending),
            )
    free = quiet.model_copy(update={"volume": None})
    trims = {one.kind: one.trim_db for one in source.inputs}
    stands = trims.get(asked.way, 0.0) if asked.way else 0.0
    for away in _TRIMS_DB if source.inputs else ():
        wants = free.model_copy(update={"trim_db": max(-24.0, min(24.0, stands + away))})
        yield _clean_row(
            f"trim-{_plain(away)}", f"Level trim {format_signed(wants.trim_db or 0.0)}", point, wants, tone
        )
    if source.tone.sub_level is not None:
        for away in _SUB_STEPS:
            level = max(-20.0, min(20.0, source.tone.sub_level + away))
            wants = free.model_copy(update={"sub_level": level})
            yield _clean_row(f"sub-{_plain(away)}", f"Sub level {format_signed(level)}", point, wants, tone)


def _plain(away: float) -> str:
    return f"{'up' if away > 0 else 'down'}-{abs(away):g}"


def away_of(key: str) -> float | None:
    """How far from where it stood a row's trim or sub level was moved; None for rows that move neither."""
    found = re.fullmatch(r"(?:trim|sub)-(up|down)-([\d.]+)", key)
    return (1 if found[1] == "up" else -1) * float(found[2]) if found else None


def _clean_row(key: str, name: str, point: OutputPoint, wants: Circumstances, tone: Tone) -> Row:
    return Row(
        key=key, name=name, point=point, wants=wants, play=tone.label, note="at its clean maximum", optional=True
    )


def _costs(step: Step, readings: dict[str, Reading]) -> Iterator[str]:
    """Effect of each setting on the volts at one and the same number, and on the room above it."""
    rows_of = {row.key: row for row in step.rows}
    for key, name in SETTINGS:
        found = [
            (rows_of[f"{key}{ending}"].wants.tone, ratio_db(with_it.value, flat.value))
            for ending in ("", BASS)
            if (flat := readings.get(f"{AS_SET}{ending}"))
            and (with_it := readings.get(f"{key}{ending}"))
            and flat.volume == with_it.volume
            and f"{key}{ending}" in rows_of
        ]
        if not found:
            continue
        effect = ", ".join(f"{_more(db)} at {format_hertz(tone.frequency_hz)}" for tone, db in found if tone)
        most_db = max(db for _, db in found)
        if most_db > _TOLD_DB:
            effect += f": clips about {max(1, round(most_db / _NUMBER_DB))} numbers earlier"
        elif len(found) == 1 and abs(most_db) <= _TOLD_DB and f"{key}{BASS}" in rows_of:
            effect += f"; try {format_hertz(_BASS_HZ)} too, which it may lift alone"
        yield f"{name}: {effect}."


def _more(db: float) -> str:
    return f"{format_signed(db, 1)} dB" if abs(db) > _TOLD_DB else "no difference"


def _best(snapshot: JobSnapshot, step: Step, readings: dict[str, Reading]) -> Iterator[str]:
    """Combination of trim, sub level and volume that gives the most clean volts."""
    point = step.point
    if not isinstance(point, OutputPoint):
        return
    own = snapshot.clean_maxima.most_volts(point.source, point.output)
    names = {row.key: row.name for row in step.rows if row.wants.volume is None}
    tried = {key: one for key, one in readings.items() if key in names}
    if not tried:
        return
    key, best = max(tried.items(), key=lambda one: one[1].value)
    if own is not None and own.clean_maximum.voltage_v >= best.value:
        clean = own.clean_maximum
        yield f"The present setting gives most: {format_value(clean.voltage_v, 'V', 3)} at {clean.volume}."
        return
    gained = (
        f", {ratio_db(best.value, own.clean_maximum.voltage_v):.1f} dB more than the present setting" if own else ""
    )
    yield f"Most clean volts: {names[key]} at {best.volume}, {format_value(best.value, 'V', 3)}{gained}."


class Trims(rows.RowsKind):
    kind = StepKind.TRIMS

    @override
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
        for number, source in enumerate(snapshot.sheet.chain.feeding()):
            asked = next((one for one in snapshot.asked if one.source.id == source.id), None)
            if asked is None or not _worth_it(snapshot, source):
                continue
            tone = habit_tone(snapshot.sheet.choices, snapshot.sheet.chain.load_of(asked.path))
            found = tuple(_rows(source, asked, tone.model_copy(update={"level_dbfs": 0.0})))
            yield (
                (CLEAN_MAXIMA, _LAST, number),
                Step(
                    key=trims_key(source.id),
                    kind=StepKind.TRIMS,
                    along=asked.path.id,
                    name="Trims",
                    title=f"Compare trims and settings: {source.name or 'the source'}",
                    do=(
                        "Save the volts as it is set, with both tones. Then switch on each setting at the same "
                        "number, save both, switch it off. Use the highest level of a setting that has several.",
                        "For each trim find its own clean maximum and save the volts there.",
                        "Leave empty what doesn’t apply. Set everything back before going on.",
                    ),
                    probe="the same output as for the clean maximum",
                    point=found[0].point,
                    wants=found[0].wants,
                    volume_free=True,
                    top_volume=source.top_volume,
                    play=found[0].play,
                    rows=found,
                    cautions=cautions_at(asked.output),
                    optional=True,
                ),
            )

    @override
    def rests_on(self, snapshot: JobSnapshot, step: Step) -> Dependencies:
        point = step.point
        source = next((one for one in snapshot.sheet.chain.feeding() if trims_key(one.id) == step.key), None)
        if source is None or not isinstance(point, OutputPoint):
            return ()
        return (*output_of(source, point.output), *source_settings(source))

    @override
    def otherwise(self, snapshot: JobSnapshot, row: Row, reading: Reading) -> str:
        """The effect of a setting can be compared only at the number that its row names."""
        number = row.wants.volume
        if number is not None and reading.volume not in (None, number):
            return f"read at {reading.volume}. Set {number} and read again"
        return super().otherwise(snapshot, row, reading)

    @override
    def in_words(self, snapshot: JobSnapshot, step: Step, readings: dict[str, Reading]) -> str:
        return " ".join((*_costs(step, readings), *_best(snapshot, step, readings)))
