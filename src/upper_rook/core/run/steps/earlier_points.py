"""Readings of volts from before a visit as points that can be read again."""

from collections.abc import Iterator
from hashlib import blake2s

from upper_rook.core.common.units import format_hertz
from upper_rook.core.run.readings.points import OutputPoint
from upper_rook.core.run.readings.records import Reading
from upper_rook.core.run.readings.step_keys import BLEND_KEY
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import rows
from upper_rook.core.run.steps.gain import Gains
from upper_rook.core.run.steps.kind import Kind
from upper_rook.core.run.steps.match import Matches
from upper_rook.core.run.steps.prove import Proofs
from upper_rook.core.run.steps.step import State, Step
from upper_rook.core.run.visits.check_point import CheckPoint
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.path import Path
from upper_rook.core.system.playing import INPUT_WORDS, InputKind


def earlier_points(then: JobSnapshot) -> Iterator[CheckPoint]:
    """Every reading of volts that still holds: proofs first, then gains and other channels, then sources."""
    proofs = list(_of_proofs(then))
    yield from proofs
    proved = {(proof.reading.point, round(proof.hertz)) for proof in proofs}
    yield from (point for point in _of_volts(then) if (point.reading.point, round(point.hertz)) not in proved)
    yield from _of_sources(then)


def _key(reading: Reading) -> str:
    """A row's key, by what its reading was of: ids change where a job is brought in from an archive."""
    of = f"{reading.step}|{reading.circumstances.row}|{reading.volume}"
    return f"again-{blake2s(of.encode(), digest_size=12).hexdigest()}"


def _of_proofs(then: JobSnapshot) -> Iterator[CheckPoint]:
    kind = Proofs()
    for _, step in kind.steps(then):
        state, path = kind.state(then, step), then.path(step.path or "")
        if path is None or state.state is State.OUTDATED:
            continue
        for row, row_state in zip(step.rows, state.rows, strict=True):
            reading = row_state.reading
            if reading and not row_state.otherwise and not row_state.early:
                name = f"{path.name or 'Path'}, {row.name}"
                yield _at_terminals(reading, step, path, name, _blended_db(then, path, reading))


def _of_volts(then: JobSnapshot) -> Iterator[CheckPoint]:
    kinds: tuple[Kind, ...] = (Gains(), Matches())
    for kind in kinds:
        for _, step in kind.steps(then):
            state, path = kind.state(then, step), then.path(step.path or "")
            reading = state.reading
            if path is None or reading is None or state.state is not State.DONE or reading.tone is None:
                continue
            if reading.value <= 0:
                continue
            shift = _filters_in_db(then, path, reading.tone.frequency_hz) + _blended_db(then, path, reading)
            yield _at_terminals(reading, step, path, f"{step.name}, {format_hertz(reading.tone.frequency_hz)}", shift)


def _at_terminals(reading: Reading, step: Step, path: Path, name: str, shift_db: float) -> CheckPoint:
    return CheckPoint(
        key=_key(reading),
        name=name,
        reading=reading,
        step=step.key,
        probe=f"{path.name or 'Path'}: {step.probe}",
        source=path.source,
        output=path.output,
        path=path.id,
        shift_db=shift_db,
    )


def _filters_in_db(then: JobSnapshot, path: Path, hertz: float) -> float:
    """By how much the amplifier's filters change the gain's tone when they are in: a gain is set with them open."""
    figures = then.figures(path.id)
    if figures is None:
        return 0.0
    shape = figures.levels.shape
    place = shape.place(hertz)
    return float(shape.in_use_db[place] - shape.opened_db[place])


def _blended_db(then: JobSnapshot, path: Path, reading: Reading) -> float:
    """By how much a path was turned down by ear after a reading."""
    down = rows.last_readings(then, BLEND_KEY).get(path.id)
    return -down.value if down and down.arrival > reading.arrival else 0.0


def _of_sources(then: JobSnapshot) -> Iterator[CheckPoint]:
    kept = {reading.id: reading for reading in then.readings}
    names = {
        (source.id, output.id): output.name or source.name or "Source"
        for source in then.sheet.chain.sources
        for output in source.outputs
    }
    for taken in then.clean_maxima:
        reading = next((kept[record] for record in taken.records if record in kept), None)
        if reading is None or not isinstance(reading.point, OutputPoint) or reading.tone is None:
            continue
        if reading.value <= 0:
            continue
        name = names.get((reading.point.source, reading.point.output), "Source")
        yield CheckPoint(
            key=_key(reading),
            name=f"{name} itself, {_tone_and_way(reading.tone, reading.circumstances.way)}",
            reading=reading,
            step=reading.step,
            probe=f"{name}: the source’s own plug, pulled out of what it feeds",
            source=reading.point.source,
            output=reading.point.output,
            path=None,
        )


def _tone_and_way(tone: Tone, way: InputKind | None) -> str:
    hertz = format_hertz(tone.frequency_hz)
    return f"{hertz} by {INPUT_WORDS[way]}" if way else hertz
