"""The volume steps: a source's clean maximum at one source point, number by number."""

from collections.abc import Iterator

from typing_extensions import override

from upper_rook.core.common import cautions
from upper_rook.core.common.cautions import Caution
from upper_rook.core.common.units import format_hertz, format_value
from upper_rook.core.run.clean_maxima.against_sheet import SheetCheck, check, told_at
from upper_rook.core.run.clean_maxima.required_points import RequiredPoint, tone_at
from upper_rook.core.run.clean_maxima.volume_step_state import Offer, VolumeSteps, volume_step_state
from upper_rook.core.run.freshness.dependencies import Dependencies, Dependency, DependencyKind, Spoiled, spoiled_by
from upper_rook.core.run.freshness.dependency_places import output_of, source_settings, ways_of_playing
from upper_rook.core.run.freshness.equivalent_points import Followed, in_words
from upper_rook.core.run.readings.circumstances import Circumstances, Hanging
from upper_rook.core.run.readings.points import OutputPoint
from upper_rook.core.run.readings.records import Eye, Mark, Quantity, Reading, standing
from upper_rook.core.run.readings.step_keys import is_of_second_tone
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.kind import CLEAN_MAXIMA, Kind, Place
from upper_rook.core.run.steps.step import State, Step, StepKind, StepState
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.choices import Meter
from upper_rook.core.system.clean_maxima import PointCleanMaximum, SourcePoint
from upper_rook.core.system.clean_maximum import Basis, start_volume
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.methods import TOP_VOLUME
from upper_rook.core.system.playing import INPUT_WORDS, InputKind
from upper_rook.core.system.source import Output, OutputKind, Source

BASIS_WORDS = {
    Basis.MARKED: ", seen clean.",
    Basis.JUDGED: ", by the volts alone.",
    Basis.RATED: ", where it reaches its rated volts.",
    Basis.GUESS: ", by the three-quarter rule: a guess.",
    Basis.SHEET: ", from its sheet, which agrees here.",
    Basis.FOLLOWS: ", from another output: not measured here.",
}
_PROBES = {
    OutputKind.LINE: "line output, on the plug’s centre and shell, amplifier unplugged",
    OutputKind.SPEAKER: "speaker output, across its two leads, nothing else connected",
}


def cautions_at(output: Output) -> tuple[Caution, ...]:
    """Cautions at an output of a source; speaker outputs have no ground side, a factory radio's neither."""
    speaker = output.kind is OutputKind.SPEAKER
    return cautions.at_output(output.expected_v or 0.0) if speaker else (cautions.SPEAKERS_OFF,)


HEARD_LATE = "by ear, which hears clipping late, from about 1 to 3 % of distortion. No volts were read."
LISTEN = (
    "Keep the speaker quiet: the gain before it just above its lowest. Go up one number at a time, the tone on for "
    "five seconds at most, and say whether it is clean or harsh."
)
_ENOUGH_BELOW = 2
"""Where another point of a source bends is known, volume steps begin so many numbers below (common practice)."""


def _known_elsewhere(snapshot: JobSnapshot, point: RequiredPoint) -> PointCleanMaximum | None:
    """The lowest clean maximum of its source, where that was taken at another point."""
    known = snapshot.clean_maxima.governing(point.source.id)
    own = {mark.id for mark in snapshot.marks if mark.step == point.key}
    return None if known is None or own.intersection(known.records) else known


def _begin_at(snapshot: JobSnapshot, point: RequiredPoint) -> int:
    """Where the sheet says, half of the scale, or just below where another point of the source already bends."""
    if point.told:
        return point.told.clean
    known = _known_elsewhere(snapshot, point)
    return max(1, known.clean_maximum.volume - _ENOUGH_BELOW) if known else start_volume(point.source.top_volume)


def _told_apart(asked: tuple[RequiredPoint, ...], point: RequiredPoint, tone: Tone | None = None) -> str:
    """Name of these volume steps, as far as it distinguishes them from others."""
    told = []
    if len({point.source.id for point in asked}) > 1:
        told.append(point.source.name or point.source.id)
    own = [other for other in asked if other.source.id == point.source.id]
    if len({point.output.id for point in own}) > 1:
        told.append(point.output.name or point.output.id)
    if point.way is not None and len({point.way for point in own}) > 1:
        told.append(INPUT_WORDS[point.way])
    if point.side is not None:
        told.append(f"{point.side.value} side")
    if tone is not None and any(point.second_tone for point in asked):
        told.append(format_hertz(tone.frequency_hz))
    return ", ".join(told)


def _other_ways(snapshot: JobSnapshot, asked: tuple[RequiredPoint, ...], point: RequiredPoint) -> Iterator[str]:
    """Way that is played, and the customer's ways that aren't measured."""
    player = next((playing.player for playing in point.source.inputs if playing.kind is point.way), "")
    if point.way is not None and (len(point.source.inputs) > 1 or player):
        yield f"Play by {INPUT_WORDS[point.way]}{f', {player}' if player else ''}."
    if point.way is None and point.source.inputs:
        yield "The lowest clean number of all ways of playing counts."
        return
    if snapshot.sheet.choices.meter not in (Meter.SCOPE, Meter.EAR):
        yield "If the meter’s hertz jump to twice or three times the tone, the wave is distorted."
    if point.told:
        return
    measured = {other.way for other in asked if other.source.id == point.source.id}
    left = [INPUT_WORDS[playing.kind] for playing in point.source.played if playing.kind not in measured]
    if left:
        yield f"Not measured, by choice: {', '.join(left)}."
    known = _known_elsewhere(snapshot, point)
    if known is not None and point.second_tone:
        yield f"With the other tone it is clean to {known.clean_maximum.volume}. Begin just below that."
    elif known is not None:
        yield f"Another output clips at {known.clean_maximum.volume}. Begin just below that."


def rests_on(
    sheet: JobSheet, point: OutputPoint, way: InputKind | None = None, *, second_tone: bool = False
) -> Dependencies:
    """Dependencies of a source's clean maximum at `point`, by a way of playing; none where the source isn't there."""
    source = next((source for source in sheet.chain.sources if source.id == point.source), None)
    path = next(
        (path for path in sheet.chain.paths if (path.source, path.output) == (point.source, point.output)), None
    )
    if source is None or path is None:
        return ()
    return (
        *output_of(source, point.output),
        Dependency(place=f"sources.{source.id}.top_volume", label="end of the volume scale", value=source.top_volume),
        Dependency(
            place="tone.frequency_hz",
            label="tone",
            value=tone_at(sheet, path, second=second_tone).frequency_hz,
            kind=DependencyKind.HERTZ,
        ),
        *source_settings(source),
        # Read for all ways together it has to hold for each of them.
        *(ways_of_playing(source) if way is None else ()),
    )


def volume_steps_of(snapshot: JobSnapshot, step: Step) -> VolumeSteps:
    """State of the volume steps so far."""
    point = step.point
    if not isinstance(point, OutputPoint):
        raise TypeError("volume steps are read at a source’s output")
    source = next(source for source in snapshot.sheet.chain.sources if source.id == point.source)
    output = next(output for output in source.outputs if output.id == point.output)
    volume_readings = standing(snapshot.counted, step.key)
    volume_steps = volume_step_state(
        volume_readings, source.top_volume, TOP_VOLUME.of(snapshot.sheet.choices).basis, output.expected_v
    )
    volume_steps = _with_other_tones(snapshot, step, volume_steps)
    if step.by_ear and output.clean_v is None:
        told = f"Ears give no volts: type the rated volts of {output.name or 'the output'} on the System page first."
        volume_steps = volume_steps.model_copy(update={"questions": (told, *volume_steps.questions)})
    begin = step.wants.volume if step.wants else None
    if not volume_readings and begin not in (None, volume_steps.next_volume):
        known = "the number with the other tone" if is_of_second_tone(step.key) else "where another output clips"
        told = f"Set the volume to {begin}, just below {known}, and save the first reading."
        volume_steps = volume_steps.model_copy(update={"next_volume": begin, "next_step": told})
    way = step.wants.way if step.wants else None
    held = check(source, told_at(source, output.id, way, point.side), volume_readings)
    if held is not None and held.agrees is not False and source not in snapshot.by_sheet:
        # Another of its outputs has put the sheet aside.
        held = None
    tone_hz = step.wants.tone.frequency_hz if is_of_second_tone(step.key) and step.wants and step.wants.tone else None
    own = SourcePoint(**point.model_dump(exclude={"kind"}), way=way, tone_hz=tone_hz)
    followed = snapshot.measured.followed_by(own)
    return _following(_beside(volume_steps, held, bool(volume_readings)), followed, source, bool(volume_readings))


def _with_other_tones(snapshot: JobSnapshot, step: Step, volume_steps: VolumeSteps) -> VolumeSteps:
    """Asks about readings with another tone, which don't count."""
    tone = step.wants.tone if step.wants else None
    questions = tuple(
        f"{format_value(reading.value, 'V')}{'' if reading.volume is None else f' at {reading.volume}'} "
        f"doesn’t count here: {why}."
        for reading in standing(snapshot.readings, step.key)
        if (why := snapshot.otherwise(reading, tone))
    )
    return volume_steps.model_copy(update={"questions": (*questions, *volume_steps.questions)})


def _following(volume_steps: VolumeSteps, followed: Followed | None, source: Source, begun: bool) -> VolumeSteps:
    """Volume steps that may be left out, since others were seen to give the same."""
    if followed is None or volume_steps.first_clipped is not None:
        return volume_steps
    told, volume = in_words(followed, source), followed.taken.clean_maximum.volume
    offer = Offer(basis=Basis.FOLLOWS, volume=volume, words=f"Use {volume} without measuring")
    if begun:
        return volume_steps.model_copy(update={"offers": (*volume_steps.offers, offer)})
    return volume_steps.model_copy(update={"offers": (offer,), "next_step": f"{told}: use it, or measure it."})


def _beside(volume_steps: VolumeSteps, sheet: SheetCheck | None, begun: bool) -> VolumeSteps:
    """Volume steps with what the source's sheet says: it may be taken at one reading that agrees."""
    if sheet is None:
        return volume_steps
    shown = volume_steps.model_copy(update={"sheet": sheet})
    if sheet.agrees is False:
        return shown.model_copy(update={"questions": (sheet.sentence, *volume_steps.questions)})
    if volume_steps.first_clipped is not None:
        # Climbed to its end it needs no sheet any more.
        return shown
    if not begun or sheet.agrees is None:
        return shown.model_copy(update={"next_step": sheet.sentence, "next_volume": sheet.volume})
    words = f"Save {sheet.volume}, as on its sheet"
    offer = Offer(basis=Basis.SHEET, volume=sheet.volume, words=words)
    if volume_steps.last_clean is not None and volume_steps.last_clean.volume > sheet.volume:
        # Who goes on past the sheet's number looks for this unit's own.
        return shown.model_copy(update={"offers": (*volume_steps.offers, offer)})
    return shown.model_copy(update={"offers": (offer, *volume_steps.offers), "next_step": sheet.sentence})


def taken_at(snapshot: JobSnapshot, step: Step) -> PointCleanMaximum | None:
    """The clean maximum that the volume steps ended with."""
    marks = {mark.id for mark in standing(snapshot.marks, step.key)}
    return next(
        (
            clean_maximum
            for clean_maximum in snapshot.clean_maxima
            if clean_maximum.records and clean_maximum.records[0] in marks
        ),
        None,
    )


def _taking(snapshot: JobSnapshot, taken: PointCleanMaximum) -> Mark | None:
    """The mark that took a clean maximum."""
    return next((mark for mark in snapshot.marks if mark.id == taken.records[0]), None)


def _follows_otherwise(snapshot: JobSnapshot, taken: PointCleanMaximum) -> Iterator[Spoiled]:
    """Changes of a number that was taken over since it was measured."""
    mark = _taking(snapshot, taken)
    if taken.clean_maximum.basis is Basis.FOLLOWS and mark and mark.volume != taken.clean_maximum.volume:
        yield Spoiled(
            place="follows",
            label="Clean maximum that it follows",
            was=str(mark.volume),
            now=str(taken.clean_maximum.volume),
        )


def _spoiled(snapshot: JobSnapshot, stands: Reading | None) -> Iterator[Spoiled]:
    if snapshot.history and stands and isinstance(stands.point, OutputPoint):
        way = stands.circumstances.way
        second = is_of_second_tone(stands.step)
        was = rests_on(snapshot.history(stands.sheet_version), stands.point, way, second_tone=second)
        yield from spoiled_by(was, rests_on(snapshot.sheet, stands.point, way, second_tone=second))


def _contradicted(taken: PointCleanMaximum, volume_steps: VolumeSteps) -> Iterator[Spoiled]:
    """Later readings of the same volume steps may say another number."""
    clean_maximum, sheet = taken.clean_maximum, volume_steps.sheet
    if clean_maximum.basis is Basis.SHEET and (
        sheet is None or not sheet.agrees or sheet.volume != clean_maximum.volume
    ):
        yield Spoiled(
            place="sheet",
            label="Clean maximum on its sheet",
            was=str(clean_maximum.volume),
            now="none"
            if sheet is None
            else f"{sheet.volume}, which does not agree here"
            if not sheet.agrees
            else str(sheet.volume),
        )
    if clean_maximum.basis not in (Basis.MARKED, Basis.JUDGED):
        return
    now = volume_steps.by_volts if clean_maximum.basis is Basis.JUDGED else volume_steps.last_clean
    if now is None or now.volume != clean_maximum.volume:
        yield Spoiled(
            place="last-clean",
            label="Clean maximum by the readings",
            was=str(clean_maximum.volume),
            now=str(now.volume) if now else "none",
        )


def _lowered(
    snapshot: JobSnapshot, step: Step, taken: PointCleanMaximum | None, volume_steps: VolumeSteps
) -> int | None:
    """The higher number that was seen clean before a lower one was taken on purpose; None where none was."""
    highest = volume_steps.last_clean
    if taken is None or highest is None or taken.clean_maximum.basis is not Basis.MARKED:
        return None
    mark = _taking(snapshot, taken)
    known = (
        reading.volume == highest.volume
        and reading.seen is Eye.CLEAN
        and mark is not None
        and reading.arrival < mark.arrival
        for reading in standing(snapshot.counted, step.key)
    )
    return highest.volume if highest.volume > taken.clean_maximum.volume and any(known) else None


class VolumeStepsKind(Kind):
    kind = StepKind.VOLUME_STEPS

    @override
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
        sheet = snapshot.sheet
        asked, by_ear = snapshot.asked, sheet.choices.meter is Meter.EAR
        for number, point in enumerate(asked):
            source, output, path = point.source, point.output, point.path
            tone = tone_at(sheet, path, second=point.second_tone)
            told = _told_apart(asked, point, tone)
            whose = f": {told}" if told else ""
            yield (
                (CLEAN_MAXIMA, number),
                Step(
                    key=point.key,
                    kind=StepKind.VOLUME_STEPS,
                    along=path.id,
                    name=f"Clean maximum{whose}",
                    title=f"Check the source against its sheet{whose}"
                    if point.told
                    else f"Find the source’s clean maximum{whose}",
                    do=(
                        f"Set {point.told.clean}, type the volts there and say whether the wave is clean."
                        if point.told
                        else LISTEN
                        if by_ear
                        else "Go up one number at a time. At each, type the volts and say whether the wave is clean.",
                        *_other_ways(snapshot, asked, point),
                    ),
                    probe=("one speaker, the gain before it just above its lowest" if by_ear else _PROBES[output.kind])
                    + (f" ({output.name})" if len(source.outputs) > 1 and output.name else ""),
                    point=OutputPoint(source=source.id, output=output.id, side=point.side),
                    wants=Circumstances(
                        tone=tone, volume=_begin_at(snapshot, point), way=point.way, hanging=Hanging.NOTHING
                    ),
                    volume_free=True,
                    optional=point.optional,
                    top_volume=source.top_volume,
                    play=tone.label,
                    cautions=(cautions.QUIET_LISTENING,) if by_ear else cautions_at(output),
                    by_ear=by_ear,
                ),
            )

    @override
    def state(self, snapshot: JobSnapshot, step: Step) -> StepState:
        volume_steps, taken = volume_steps_of(snapshot, step), taken_at(snapshot, step)
        lowered = _lowered(snapshot, step, taken, volume_steps)
        if taken is None:
            return StepState(
                step=step.key, state=State.OPEN, sentence=volume_steps.next_step, volume_steps=volume_steps
            )
        clean_maximum = taken.clean_maximum
        own = (reading for reading in snapshot.readings if reading.step == step.key)
        stands = next((reading for reading in own if reading.id in taken.records[1:]), None)
        spoiled = [
            *_spoiled(snapshot, stands),
            *(() if lowered else _contradicted(taken, volume_steps)),
            *_follows_otherwise(snapshot, taken),
        ]
        return StepState(
            step=step.key,
            state=State.OUTDATED if spoiled else State.DONE,
            sentence=(
                f"{clean_maximum.volume} by ear, {format_value(clean_maximum.voltage_v, 'V')} by its rating"
                if stands and stands.quantity is Quantity.VERDICT
                else f"{clean_maximum.volume} gives {format_value(clean_maximum.voltage_v, 'V')}"
            )
            + (f", lower on purpose: {lowered} was clean too." if lowered else BASIS_WORDS[clean_maximum.basis]),
            spoiled=tuple(spoiled),
            reading=stands,
            volume_steps=volume_steps,
            clean_maximum=clean_maximum,
        )

    @override
    def left(self, snapshot: JobSnapshot, step: Step, state: StepState) -> str:
        taken = taken_at(snapshot, step)
        lowered = _lowered(snapshot, step, taken, state.volume_steps) if state.volume_steps else None
        if taken is None or lowered is None:
            return ""
        mark = _taking(snapshot, taken)
        why = f" ({mark.note})" if mark and mark.note else ""
        return f"{step.name}: {taken.clean_maximum.volume} on purpose{why}; {lowered} was clean too."

    @override
    def guessed(self, snapshot: JobSnapshot, step: Step, state: StepState) -> Iterator[str]:
        if state.reading is not None and state.reading.quantity is Quantity.VERDICT:
            yield f"{step.title}: {HEARD_LATE}"
        told = next((point for point in snapshot.unchecked if point.key == step.key), None)
        if told and told.told and told.source.from_sheet:
            yield f"{step.title}: {told.told.clean} is from {told.source.from_sheet.words} and wasn’t checked here."
        if state.clean_maximum and state.clean_maximum.basis is Basis.GUESS:
            yield f"{step.title}: {state.clean_maximum.volume} is three quarters of its scale, not measured."
