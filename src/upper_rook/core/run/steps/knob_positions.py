"""Knob positions: where every knob and switch was left, for when the vehicle comes back."""

from collections.abc import Iterator

from typing_extensions import override

from upper_rook.core.common.units import format_hertz, format_signed
from upper_rook.core.run.readings.records import Answer, standing
from upper_rook.core.run.readings.step_keys import KNOB_POSITIONS_KEY, gain_key
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import volts
from upper_rook.core.run.steps.extra_readings import KNOB, noted
from upper_rook.core.run.steps.kind import LISTEN, Kind, Place
from upper_rook.core.run.steps.step import Answered, CheckItem, State, Step, StepKind, StepState
from upper_rook.core.signal.filters import FilterPlace
from upper_rook.core.stages.knob import o_clock
from upper_rook.core.system.path import Path
from upper_rook.core.system.playing import INPUT_WORDS, InputKind
from upper_rook.core.system.processor import Processor, ProcessorKind
from upper_rook.core.system.source import Source

_PHONES = frozenset({InputKind.WIRED_PHONE, InputKind.WIRELESS_PHONE, InputKind.AUXILIARY})
"""Ways by which a phone’s own volume changes the level (common practice, no source)."""


def _items(snapshot: JobSnapshot) -> Iterator[CheckItem]:
    for _, path, plan in volts.planned(snapshot):
        knob = noted(snapshot, gain_key(path.id), KNOB)
        told = f"Saved as {o_clock(knob.value)} when it was set." if knob else ""
        yield _stands(f"gain.{path.id}", f"{plan.name}: gain", told)
        yield from _filters(path, plan.name)
    for source in snapshot.sheet.chain.feeding():
        yield from _source(source)
    for processor in snapshot.sheet.chain.processors:
        if any(processor.id in path.through for path in snapshot.sheet.chain.paths):
            yield _between(processor)


def _stands(key: str, text: str, why: str = "") -> CheckItem:
    return CheckItem(key=key, text=text, why=why, asks="position", blank="marked on the panel")


def _filters(path: Path, name: str) -> Iterator[CheckItem]:
    if path.filter_switch is not None:
        planned = f"Planned at {path.filter_switch.value}."
        yield _stands(f"switch.{path.id}", f"{name}: filter switch", planned)
    for place, channel_filter in enumerate(path.filters):
        if channel_filter.place is FilterPlace.AMPLIFIER and path.works(channel_filter):
            corner = f"{channel_filter.crossover.kind.value}-pass {format_hertz(channel_filter.crossover.corner_hz)}"
            yield _stands(f"dial.{path.id}.{place}", f"{name}: dial of the {corner}")


def _between(processor: Processor) -> CheckItem:
    """Settings between source and amplifiers: a converter's trims, or everything that a processor holds."""
    if processor.kind is ProcessorKind.CONVERTER:
        name = processor.name or "Converter"
        return _stands(f"trims.{processor.id}", f"{name}: output trims", "The volume number holds only with them.")
    return CheckItem(
        key=f"preset.{processor.id}",
        text=f"{processor.name or 'Processor'}: channel gains, equaliser and filters saved",
        why="The volume number holds only with them.",
        asks="preset or file",
        blank="saved in the processor",
    )


def _source(source: Source) -> Iterator[CheckItem]:
    name = source.name or "Source"
    if source.tone.sub_level is not None:
        planned = f"Planned at {format_signed(source.tone.sub_level)}. Don’t change it."
        yield _stands(f"sub.{source.id}", f"{name}: sub level", planned)
    for playing in source.inputs:
        if playing.trim_db:
            planned = f"Planned at {format_signed(playing.trim_db)} dB. The volume number holds only with it."
            way = INPUT_WORDS[playing.kind]
            yield _stands(f"trim.{source.id}.{playing.kind.value.replace('_', '-')}", f"{name}: trim of {way}", planned)
    phones = [INPUT_WORDS[playing.kind] for playing in source.inputs if playing.kind in _PHONES]
    if phones:
        yield CheckItem(
            key=f"phone.{source.id}",
            text=f"{name}: phone’s volume ({', '.join(phones)})",
            why="The volume number holds only with it.",
            asks="volume",
            blank="full",
        )
    if not source.keeps_settings:
        yield CheckItem(
            key=f"forgets.{source.id}",
            text=f"{name} forgets its settings",
            why="Tell the customer what to set again after the battery was disconnected.",
            asks="customer",
            blank="told",
        )


class KnobPositions(Kind):
    kind = StepKind.KNOB_POSITIONS

    @override
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
        items = tuple(_items(snapshot))
        if not items:
            return
        yield (
            (LISTEN, 2),
            Step(
                key=KNOB_POSITIONS_KEY,
                kind=StepKind.KNOB_POSITIONS,
                name="Mark knobs",
                title="Mark the knobs and note positions",
                do=("Mark each knob on the panel and type its position. Enter alone = marked on the panel.",),
                items=items,
                optional=True,
            ),
        )

    @override
    def state(self, snapshot: JobSnapshot, step: Step) -> StepState:
        said = {mark.item: mark for mark in standing(snapshot.marks, step.key) if mark.answer is not None}
        answers = tuple(
            Answered(item=item.key, answer=said[item.key].answer or Answer.DONE, note=said[item.key].note)
            for item in step.items
            if item.key in said
        )
        left = len(step.items) - len(answers)
        return StepState(
            step=step.key,
            state=State.OPEN if left else State.DONE,
            sentence=f"{left} of {len(step.items)} to mark." if left else "Every knob marked.",
            answers=answers,
        )

    @override
    def left(self, snapshot: JobSnapshot, step: Step, state: StepState) -> str:
        items = {item.key: item for item in step.items}
        told = [
            f"{items[answer.item].text} {answer.note or items[answer.item].blank}"
            for answer in state.answers
            if answer.answer is not Answer.ABSENT
        ]
        return "; ".join(told)
