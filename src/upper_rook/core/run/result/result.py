"""Result of a run: the sheet that is handed over."""

from collections.abc import Iterator
from datetime import date

from upper_rook.core.common.finding import Severity
from upper_rook.core.common.units import Frozen, Key, format_hertz, format_value
from upper_rook.core.plan.plan import Plan
from upper_rook.core.run.clean_maxima.required_points import tone_at
from upper_rook.core.run.readings.records import Answer, Mark, Quantity, Reading
from upper_rook.core.run.result.holds_with import settings_between, source_settings
from upper_rook.core.run.result.left_over import left_over
from upper_rook.core.run.result.progress import Run
from upper_rook.core.run.result.sureness import Sureness, sureness
from upper_rook.core.run.snapshot.heard import was_heard
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.snapshot.number_by_ear import numbers_by_ear, toneless
from upper_rook.core.run.snapshot.safe_volume import SafeVolume, safe_volume
from upper_rook.core.run.steps import KINDS
from upper_rook.core.run.steps.kind import Measured
from upper_rook.core.run.steps.plugs import PlugDrawing, drawings
from upper_rook.core.run.steps.step import State, Step, StepState
from upper_rook.core.system.clean_maxima import PointCleanMaximum
from upper_rook.core.system.clean_maximum import Basis, CleanMaximum
from upper_rook.core.system.kind_limits import KindLimit, kind_limits
from upper_rook.core.system.part_words import part_words
from upper_rook.core.system.playing import INPUT_WORDS
from upper_rook.core.system.source import Source


class LastClean(Frozen):
    """The clean maximum of one way of playing, or of one output."""

    of: str
    volume: int


class TopVolume(Frozen):
    """The number never to pass on one source."""

    source: Key
    name: str
    volume: int | None
    """None while nobody knows."""
    voltage_v: float | None
    uncertainty_v: float | None
    basis: Basis | None
    sentence: str
    by_way: tuple[LastClean, ...] = ()
    """The number never to pass by way of playing, where those differ."""
    by_tone: tuple[LastClean, ...] = ()
    """The clean maximum of each tone, where two were played and they differ."""
    by_kind: tuple[KindLimit, ...] = ()
    """The number by kind of output, where there are several."""
    by_output: tuple[LastClean, ...] = ()
    """The clean maximum of each output that was measured, the lowest first, where those differ."""
    not_measured: tuple[str, ...] = ()
    """Outputs in use that nobody measured: their volts are worked out from another output's by the ratings."""
    holds_with: tuple[str, ...] = ()
    """Settings without which the number doesn't hold, each as it stands."""
    source_settings: tuple[str, ...] = ()
    """Those of them that are the source's own, or the phone's."""
    taken_on: date | None = None
    """The day that the clean maximum behind it was taken."""
    sureness: Sureness | None = None


class Result(Frozen):
    """The sheet: what was set, at which volume, and what is still open, skipped or guessed."""

    vehicle: str
    note: str
    complete: bool
    top_volumes: tuple[TopVolume, ...]
    """The numbers for the customer, one for each source that feeds a path."""
    outputs: tuple[Measured, ...]
    chosen: tuple[str, ...]
    """Choices that should be mentioned at hand-over."""
    left: tuple[str, ...]
    """Supply, trims and corners as they were left."""
    plugs: tuple[PlugDrawing, ...]
    """Plugs of a factory system, with what their wires were found to be."""
    guessed: tuple[str, ...]
    skipped: tuple[str, ...]
    outdated: tuple[str, ...]
    open: tuple[str, ...]
    parts: tuple[str, ...]
    """The parts of the system, equal ones counted."""


def result(snapshot: JobSnapshot, run: Run) -> Result:
    """The sheet of `run`, which is that of `snapshot`."""
    pairs = list(zip(run.steps, run.states, strict=True))
    lines = [KINDS[step.kind].measured(snapshot, step, state) for step, state in pairs]
    sheet = snapshot.sheet
    return Result(
        vehicle=sheet.vehicle,
        note=sheet.note,
        complete=run.complete,
        top_volumes=tuple(_top_volumes(snapshot)),
        outputs=tuple(line for line in lines if line),
        chosen=tuple(_chosen(run.plan)),
        left=(
            *(f"{lacking.name}: {lacking.sentence}" for lacking in run.plan.lacking if lacking.by_ear),
            *(told for step, state in pairs if (told := KINDS[step.kind].left(snapshot, step, state))),
        ),
        plugs=drawings(snapshot),
        guessed=(*_guessed(snapshot, pairs), *_scaled(run.plan), *_not_confirmed(run.plan)),
        skipped=tuple(_skipped(pairs)),
        outdated=tuple(_outdated(pairs)),
        open=(
            *(f"{lack.name}: not planned. {lack.sentence}" for lack in run.plan.unplanned),
            *_stops(run.plan),
            *(
                f"{step.title}: {state.sentence}"
                for step, state in pairs
                if state.state is State.OPEN and not step.optional
            ),
        ),
        parts=part_words(sheet.chain),
    )


def _outdated(pairs: list[tuple[Step, StepState]]) -> Iterator[str]:
    """Readings that a change has spoiled, with its effect where that can be worked out."""
    for step, state in pairs:
        for spoiled in state.spoiled:
            yield f"{step.title}: {spoiled.label}: {spoiled.was} → {spoiled.now}. {spoiled.remedy}".rstrip()
        if state.effect:
            yield f"{step.title}: {state.effect.sentence}"


def _chosen(plan: Plan) -> Iterator[str]:
    """Each once, with the paths that it holds for."""
    names: dict[str, list[str]] = {}
    for path in plan.paths:
        for finding in path.findings:
            if finding.hand_over:
                names.setdefault(f"{finding.title}. {finding.reason}", []).append(path.name)
    for told, paths in names.items():
        yield f"{', '.join(paths)}: {told}"


def _stops(plan: Plan) -> Iterator[str]:
    """Reasons not to run the system as it is."""
    names = {path.path: path.name for path in plan.paths}
    for cause in plan.causes:
        if cause.severity is Severity.STOP:
            where = ", ".join(names.get(path, path) for path in cause.paths)
            told = f"{where}: " if where and where not in cause.title else ""
            yield f"{told}{cause.title}. {cause.reason} {cause.remedy}"


def _top_volumes(snapshot: JobSnapshot) -> Iterator[TopVolume]:
    for source in snapshot.sheet.chain.feeding():
        governing, found = snapshot.clean_maxima.governing(source.id), safe_volume(snapshot, source)
        clean_maximum = governing.clean_maximum if governing else None
        lowered = governing and found and found.volume != governing.clean_maximum.volume
        heard = was_heard(snapshot.readings, governing)
        own = tuple(source_settings(snapshot, source))
        yield TopVolume(
            source=source.id,
            name=source.name or "Source",
            volume=found.volume if found else None,
            voltage_v=governing.volts_at(found.volume) if governing and found and not heard else None,
            # Read between two numbers, or below all of them, it has no doubt of its own.
            uncertainty_v=None if lowered or heard or clean_maximum is None else clean_maximum.uncertainty_v,
            basis=clean_maximum.basis if clean_maximum else None,
            sentence=_never_pass(
                _because(clean_maximum, heard=heard),
                found,
                _measured_at(source, governing),
                left_over(snapshot, source, governing),
            ),
            by_way=tuple(_by_way(snapshot, source, found.volume if lowered and found else None)),
            by_tone=tuple(_by_tone(snapshot, source)),
            by_kind=_by_kind(snapshot, source),
            by_output=tuple(_by_output(snapshot, source)),
            not_measured=tuple(_not_measured(snapshot, source)) if clean_maximum else (),
            holds_with=(*own, *settings_between(snapshot, source)) if found else (),
            source_settings=own if found else (),
            taken_on=_taken_on(snapshot, governing),
            sureness=sureness(snapshot, source),
        )


def _taken_on(snapshot: JobSnapshot, governing: PointCleanMaximum | None) -> date | None:
    """The day of the newest record that a clean maximum stands on; None for another unit's."""
    own = governing.records if governing else ()
    records: tuple[Reading | Mark, ...] = (*snapshot.readings, *snapshot.marks)
    return max((record.taken_at.date() for record in records if record.id in own), default=None)


def _by_way(snapshot: JobSnapshot, source: Source, lowered_to: int | None) -> Iterator[LastClean]:
    """By measured ways where they differ and nothing behind them ends lower; by others as ears say."""
    numbers = snapshot.clean_maxima.never_pass(source.id)
    if not numbers:
        return
    if lowered_to is None and len(set(numbers.values())) > 1:
        for way, volume in numbers.items():
            yield LastClean(of=INPUT_WORDS[way] if way else "any other", volume=volume)
    top = min(numbers.values()) if lowered_to is None else lowered_to
    for by_ear in numbers_by_ear(snapshot, source, top):
        yield LastClean(of=f"{INPUT_WORDS[by_ear.way]}, by ear", volume=by_ear.volume)


def _by_tone(snapshot: JobSnapshot, source: Source) -> Iterator[LastClean]:
    """The lowest clean number with each of two tones, where they differ."""
    own = {
        point.output.id: tone_at(snapshot.sheet, point.path).frequency_hz
        for point in snapshot.asked
        if point.source == source
    }
    lowest: dict[float, int] = {}
    for clean_maximum in snapshot.clean_maxima:
        hertz = clean_maximum.point.tone_hz or own.get(clean_maximum.point.output)
        if clean_maximum.point.source == source.id and hertz is not None:
            lowest[hertz] = min(
                lowest.get(hertz, clean_maximum.clean_maximum.volume), clean_maximum.clean_maximum.volume
            )
    if any(point.second_tone for point in snapshot.asked) and len(set(lowest.values())) > 1:
        for hertz, volume in sorted(lowest.items()):
            yield LastClean(of=format_hertz(hertz), volume=volume)


def _by_kind(snapshot: JobSnapshot, source: Source) -> tuple[KindLimit, ...]:
    kinds = {output.id: output.kind for output in source.outputs}
    own = [
        clean_maximum
        for clean_maximum in snapshot.clean_maxima
        if clean_maximum.point.source == source.id and clean_maximum.point.output in kinds
    ]
    return kind_limits((kinds[clean_maximum.point.output], clean_maximum.clean_maximum.volume) for clean_maximum in own)


def _by_output(snapshot: JobSnapshot, source: Source) -> Iterator[LastClean]:
    names = {output.id: output.name or output.id for output in source.outputs}
    lowest: dict[str, int] = {}
    for clean_maximum in snapshot.clean_maxima:
        if clean_maximum.point.source == source.id:
            known = lowest.get(clean_maximum.point.output, clean_maximum.clean_maximum.volume)
            lowest[clean_maximum.point.output] = min(known, clean_maximum.clean_maximum.volume)
    if len(set(lowest.values())) > 1:
        for output, volume in sorted(lowest.items(), key=lambda item: item[1]):
            yield LastClean(of=names.get(output, output), volume=volume)


_BECAUSE = {
    Basis.GUESS: "three quarters of the scale, a guess, because clipping could not be seen",
    Basis.RATED: "the source reaches its rated volts there, and the wave wasn’t seen",
    Basis.JUDGED: "the clean maximum by the volts alone",
    Basis.MARKED: "the clean maximum, seen clean",
    Basis.FOLLOWS: "the clean maximum of the output that it follows",
    Basis.SHEET: "the clean maximum of another unit, by its sheet",
}


def _because(clean_maximum: CleanMaximum | None, *, heard: bool) -> str:
    if heard:
        return "the clean maximum by ear, which hears clipping late"
    return _BECAUSE[clean_maximum.basis] if clean_maximum else ""


def _never_pass(because: str, found: SafeVolume | None, *where: str) -> str:
    if found is None:
        return "Not known yet: the source’s clean maximum has not been measured."
    return f"Never pass {found.volume}: {found.because or ''.join((because, *where))}."


def _measured_at(source: Source, governing: PointCleanMaximum | None) -> str:
    """The output that a number was measured at, where a source has several."""
    names = {output.id: output.name or output.id for output in source.outputs}
    return f", at {names[governing.point.output]}" if governing and len(names) > 1 else ""


def _not_measured(snapshot: JobSnapshot, source: Source) -> Iterator[str]:
    """The outputs in use that have volts and were not measured."""
    measured = {
        clean_maximum.point.output for clean_maximum in snapshot.clean_maxima if clean_maximum.point.source == source.id
    }
    for output in snapshot.sheet.chain.voltage_outputs_used(source):
        if output.id not in measured:
            yield output.name or output.id


def _not_confirmed(plan: Plan) -> Iterator[str]:
    """Defaults that counted and came with a layout; a part that no path uses counted for nothing."""
    words = [doubt.words for doubt in plan.not_confirmed if doubt.paths]
    if words:
        yield f"Unchecked defaults in use: {'; '.join(words)}."


def _scaled(plan: Plan) -> Iterator[str]:
    """Paths whose source volts were measured at another output, or not at all."""
    for path in plan.paths:
        if path.source_because:
            yield f"{path.name}: {path.source_because}"


def _guessed(snapshot: JobSnapshot, pairs: list[tuple[Step, StepState]]) -> Iterator[str]:
    for source in snapshot.sheet.chain.feeding():
        heard = {by_ear.way for by_ear in numbers_by_ear(snapshot, source, source.top_volume)}
        if silent := [INPUT_WORDS[way] for way in toneless(source) if way not in heard]:
            yield f"{source.name or 'Source'}: {', '.join(silent)} plays no tone and wasn’t compared by ear."
    for step, state in pairs:
        yield from KINDS[step.kind].guessed(snapshot, step, state)
        for reading in _readings_of(state):
            if reading.uncertainty is not None or reading.quantity is not Quantity.AC_VOLTS:
                continue
            yield (
                f"{step.title}: {format_value(reading.value, 'V')} was read where the meter’s data sheet gives no "
                "accuracy, so its doubt isn’t known."
            )


def _readings_of(state: StepState) -> Iterator[Reading]:
    """Every reading that a step stands by."""
    if state.rows:
        yield from (row.reading for row in state.rows if row.reading is not None)
    elif state.reading is not None:
        yield state.reading


def _skipped(pairs: list[tuple[Step, StepState]]) -> list[str]:
    found = []
    for step, state in pairs:
        if state.state is State.SKIPPED:
            found.append(f"{step.title}. {state.sentence}.")
        texts = {item.key: item.text for item in step.items}
        found += [
            f"{texts[answer.item]}: left as is, {answer.note}."
            for answer in state.answers
            if answer.answer is Answer.LEFT
        ]
    return found
