"""Trims and settings of a source: what each costs or gives, and which of them leave the most clean volts."""

import re
from collections.abc import Iterator

from typing_extensions import override

from upper_rook.core.common.units import format_db, format_hertz, format_signed, format_value, ratio_db
from upper_rook.core.plan.gain_tone import habit_tone
from upper_rook.core.run.clean_maxima.required_points import RequiredPoint, tone_at
from upper_rook.core.run.freshness.dependencies import Dependencies
from upper_rook.core.run.freshness.dependency_places import output_of, source_settings
from upper_rook.core.run.readings.circumstances import Circumstances, Hanging
from upper_rook.core.run.readings.points import OutputPoint
from upper_rook.core.run.readings.records import Reading, standing
from upper_rook.core.run.readings.step_keys import trims_key
from upper_rook.core.run.readings.tried_setting import SettingKind, row_name
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import rows
from upper_rook.core.run.steps.kind import CLEAN_MAXIMA, Place
from upper_rook.core.run.steps.step import NamedOutput, OwnRows, Row, Step, StepKind
from upper_rook.core.run.steps.volume_steps import cautions_at
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.clean_maxima import PointCleanMaximum
from upper_rook.core.system.clean_maximum import start_volume
from upper_rook.core.system.loads import Band
from upper_rook.core.system.methods import EXTENT
from upper_rook.core.system.path import Path
from upper_rook.core.system.source import Output, Source

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
    moved = any(playing.trim_db for playing in source.inputs) or source.tone.sub_level is not None
    return moved or EXTENT.of(snapshot.sheet.choices).every_output


def _rows(snapshot: JobSnapshot, source: Source, asked: RequiredPoint, tone: Tone) -> Iterator[Row]:
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
    trims = {playing.kind: playing.trim_db for playing in source.inputs}
    stands = trims.get(asked.way, 0.0) if asked.way else 0.0
    for away in _TRIMS_DB if source.inputs else ():
        wants = free.model_copy(update={"trim_db": max(-24.0, min(24.0, stands + away))})
        yield _clean_row(
            f"trim-{_plain(away)}", f"Level trim {format_signed(wants.trim_db or 0.0)}", point, wants, tone
        )
    if source.tone.sub_level is not None:
        path = _sub_path(snapshot, source)
        low = tone_at(snapshot.sheet, path) if path else tone
        there = point.model_copy(update={"output": path.output}) if path else point
        for away in _SUB_STEPS:
            level = max(-20.0, min(20.0, source.tone.sub_level + away))
            wants = free.model_copy(update={"sub_level": level, "tone": low})
            name = f"Sub level {format_signed(level)}"
            named = f"{name}, {_called(source, there)}, {format_hertz(low.frequency_hz)}" if path else name
            row = _clean_row(f"sub-{_plain(away)}", named, there, wants, low)
            yield row.model_copy(update={"probe": f"the output {_called(source, there)}"})
    yield from _own_rows(snapshot, source)


def _sub_path(snapshot: JobSnapshot, source: Source) -> Path | None:
    """The path whose output the sub level moves: the first of a subwoofer; None where there is none."""
    chain = snapshot.sheet.chain
    own = (path for path in chain.paths if path.source == source.id and not chain.is_digital(path))
    return next((path for path in own if chain.load_of(path).band is Band.SUB), None)


def _called(source: Source, point: OutputPoint) -> str:
    output = next((output for output in source.outputs if output.id == point.output), None)
    return _name(output) if output else point.output


def _name(output: Output) -> str:
    return output.name or output.id


def _own_rows(snapshot: JobSnapshot, source: Source) -> Iterator[Row]:
    """The settings that people tried beyond those that are asked for, as their readings say, each once."""
    names = {output.id: _name(output) for output in source.outputs}
    found: dict[str, Row] = {}
    for reading in standing(snapshot.readings, trims_key(source.id)):
        now = reading.circumstances
        if now.setting is None or now.row is None or now.setting.output not in names or now.row in found:
            continue
        found[now.row] = Row(
            key=now.row,
            name=row_name(now.setting, names[now.setting.output], now.way, now.tone),
            point=OutputPoint(source=source.id, output=now.setting.output),
            probe=f"the output {names[now.setting.output]}",
            wants=Circumstances(tone=now.tone, way=now.way, hanging=Hanging.NOTHING, setting=now.setting),
            play=now.play,
            note="at its clean maximum",
            optional=True,
        )
    yield from found.values()


def _addable(snapshot: JobSnapshot, source: Source, tone: Tone) -> OwnRows:
    chain = snapshot.sheet.chain
    pair = (snapshot.sheet.choices.sub_tone_hz, snapshot.sheet.choices.full_tone_hz)
    own_first = dict.fromkeys((tone.frequency_hz, *pair))
    return OwnRows(
        settings=tuple(SettingKind),
        outputs=tuple(NamedOutput(id=output.id, name=_name(output)) for output in chain.voltage_outputs_used(source)),
        ways=tuple(playing.kind for playing in source.inputs),
        tones=tuple(tone.model_copy(update={"frequency_hz": value}) for value in own_first),
    )


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
    """Combination of trim, sub level and volume that gives the most clean volts, output by output."""
    rows_of = {row.key: row for row in step.rows if row.wants.volume is None}
    by_output: dict[str, list[Reading]] = {}
    for key, reading in readings.items():
        if key in rows_of and isinstance(reading.point, OutputPoint):
            by_output.setdefault(reading.point.output, []).append(reading)
    for tried in by_output.values():
        yield _best_of(snapshot, rows_of, tried)


def _best_of(snapshot: JobSnapshot, rows_of: dict[str, Row], tried: list[Reading]) -> str:
    """The same at one output, of which at least one setting was tried."""
    best = max(tried, key=lambda reading: reading.value)
    row = rows_of[best.circumstances.row or ""]
    own = _as_it_is_set(snapshot, row)
    if own is not None and own.clean_maximum.voltage_v >= best.value:
        clean = own.clean_maximum
        return f"The present setting gives most: {format_value(clean.voltage_v, 'V', 3)} at {clean.volume}."
    gained = (
        f", {format_db(ratio_db(best.value, own.clean_maximum.voltage_v))} more than the present setting" if own else ""
    )
    return f"Most clean volts: {row.name} at {best.volume}, {format_value(best.value, 'V', 3)}{gained}."


def _as_it_is_set(snapshot: JobSnapshot, row: Row) -> PointCleanMaximum | None:
    """The clean maximum at a row's output without its setting: by its own way of playing, where that was measured."""
    point = row.point
    if not isinstance(point, OutputPoint):
        return None
    here = [
        clean_maximum
        for clean_maximum in snapshot.clean_maxima
        if (clean_maximum.point.source, clean_maximum.point.output) == (point.source, point.output)
    ]
    own = [
        clean_maximum for clean_maximum in here if row.wants.setting and clean_maximum.point.way == row.wants.way
    ] or here
    return max(own, key=lambda clean_maximum: clean_maximum.clean_maximum.voltage_v, default=None)


def _own_numbers(step: Step, readings: dict[str, Reading]) -> Iterator[str]:
    """The clean number of every setting that was added."""
    for row in step.rows:
        if row.wants.setting and (reading := readings.get(row.key)):
            yield f"{row.name}: clean to {reading.volume}, {format_value(reading.value, 'V', 3)}."


class Trims(rows.RowsKind):
    kind = StepKind.TRIMS

    @override
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
        for number, source in enumerate(snapshot.sheet.chain.feeding()):
            asked = snapshot.first_asked(source.id)
            if asked is None or not _worth_it(snapshot, source):
                continue
            tone = habit_tone(snapshot.sheet.choices, snapshot.sheet.chain.load_of(asked.path))
            tone = tone.model_copy(update={"level_dbfs": 0.0})
            found = tuple(_rows(snapshot, source, asked, tone))
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
                        "For each trim find its own clean maximum and save the volts there. Add what isn’t listed.",
                        "Leave empty what doesn’t apply. Set everything back before going on.",
                    ),
                    probe="the same output as for the clean maximum",
                    point=found[0].point,
                    wants=found[0].wants,
                    volume_free=True,
                    top_volume=source.top_volume,
                    play=found[0].play,
                    rows=found,
                    own_rows=_addable(snapshot, source, tone),
                    cautions=cautions_at(asked.output),
                    optional=True,
                ),
            )

    @override
    def rests_on(self, snapshot: JobSnapshot, step: Step) -> Dependencies:
        source = next((source for source in snapshot.sheet.chain.feeding() if trims_key(source.id) == step.key), None)
        if source is None:
            return ()
        outputs = dict.fromkeys(row.point.output for row in step.rows if isinstance(row.point, OutputPoint))
        places = dict.fromkeys(place for output in outputs for place in output_of(source, output))
        return (*places, *source_settings(source))

    @override
    def otherwise(self, snapshot: JobSnapshot, row: Row, reading: Reading) -> str:
        """The effect of a setting can be compared only at the number that its row names."""
        number = row.wants.volume
        if number is not None and reading.volume not in (None, number):
            return f"read at {reading.volume}. Set {number} and read again"
        return super().otherwise(snapshot, row, reading)

    @override
    def in_words(self, snapshot: JobSnapshot, step: Step, readings: dict[str, Reading]) -> str:
        return " ".join((*_costs(step, readings), *_own_numbers(step, readings), *_best(snapshot, step, readings)))
