"""Everything that a volume number rests on beside the source itself: it holds only as long as that stays as it is."""

from collections.abc import Iterator

from upper_rook.core.common.units import format_signed
from upper_rook.core.run.readings.records import standing
from upper_rook.core.run.readings.step_keys import KNOB_POSITIONS_KEY
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.system.playing import INPUT_WORDS
from upper_rook.core.system.processor import ProcessorKind
from upper_rook.core.system.source import Source


def source_settings(snapshot: JobSnapshot, source: Source) -> Iterator[str]:
    """Settings of the source and the phone that the number rests on: those within the customer's reach."""
    if source.tone.sub_level is not None:
        yield f"sub level {format_signed(source.tone.sub_level)}"
    for playing in source.inputs:
        if playing.trim_db:
            yield f"{INPUT_WORDS[playing.kind]} trim {format_signed(playing.trim_db)} dB"
        if playing.player:
            yield f"{INPUT_WORDS[playing.kind]} from {playing.player}"
    if phone := _noted(snapshot).get(f"phone.{source.id}"):
        yield f"phone’s volume {phone}"


def settings_between(snapshot: JobSnapshot, source: Source) -> Iterator[str]:
    """Settings of everything between source and amplifiers that the number rests on."""
    noted = _noted(snapshot)
    own = [path for path in snapshot.sheet.chain.paths if path.source == source.id]
    for processor in snapshot.sheet.chain.processors:
        if not any(processor.id in path.through for path in own):
            continue
        converter = processor.kind is ProcessorKind.CONVERTER
        left = noted.get(f"{'trims' if converter else 'preset'}.{processor.id}")
        name = processor.name or ("the converter" if converter else "the processor")
        what = "trims" if converter else "channel gains and equaliser"
        yield f"{name}’s {what} {left or 'as they were left'}"


def _noted(snapshot: JobSnapshot) -> dict[str, str]:
    """Knobs and trims as they were noted at the end, by their items."""
    return {mark.item: mark.note for mark in standing(snapshot.marks, KNOB_POSITIONS_KEY) if mark.item}
