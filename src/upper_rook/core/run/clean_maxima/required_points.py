"""Clean maxima that a job asks for of its sources."""

import math
from collections.abc import Iterable, Iterator
from collections.abc import Set as AbstractSet
from typing import NamedTuple

from upper_rook.core.plan.gain_tone import habit_tone
from upper_rook.core.run.clean_maxima.against_sheet import lowest_told, told_at
from upper_rook.core.run.readings.step_keys import clean_maximum_key, second_tone_key
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.clean_maxima import SourcePoint
from upper_rook.core.system.from_sheet import ToldClean
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.methods import EXTENT, SOURCE_TONES
from upper_rook.core.system.path import Path
from upper_rook.core.system.playing import TONELESS, InputKind, Side
from upper_rook.core.system.source import Output, OutputKind, Sides, Source


class RequiredPoint(NamedTuple):
    """A source point whose clean maximum is asked for."""

    source: Source
    output: Output
    path: Path
    """A path that leads from it."""
    way: InputKind | None
    """The way of playing; None where the ways aren't distinguished."""
    optional: bool = False
    """Whether its output was measured for all ways together, or for both sides, before they were distinguished."""
    side: Side | None = None
    """The side; None where the sides aren't distinguished."""
    told: ToldClean | None = None
    """Figures of the source's sheet for it, where that counts."""
    second_tone: bool = False
    """Whether it is measured with the other of the job's two tones."""

    @property
    def key(self) -> str:
        """The key of its volume steps."""
        own = clean_maximum_key(self.source.id, self.output.id, self.way, self.side)
        return second_tone_key(own) if self.second_tone else own

    @property
    def point(self) -> SourcePoint:
        """The point itself."""
        return SourcePoint(source=self.source.id, output=self.output.id, side=self.side, way=self.way)


def tone_at(sheet: JobSheet, path: Path, *, second: bool = False) -> Tone:
    """
    The tone of a source's volume steps: a property of full scale, so never an attenuated one.

    The `second` is the other of the job's two tones.
    """
    tone, choices = habit_tone(sheet.choices, sheet.chain.load_of(path)), sheet.choices
    hertz = tone.frequency_hz
    if second:
        pair = (choices.sub_tone_hz, choices.full_tone_hz)
        hertz = max(pair, key=lambda value: abs(math.log(value / hertz)))
    return tone.model_copy(update={"level_dbfs": 0.0, "frequency_hz": hertz})


def with_second_tones(sheet: JobSheet, asked: Iterable[RequiredPoint]) -> Iterator[RequiredPoint]:
    """Each point, and where the job measures with two tones the same with the other one right behind it."""
    both = SOURCE_TONES.of(sheet.choices).both
    for point in asked:
        yield point
        if both and not point.optional:
            yield point._replace(second_tone=True, told=None)


def required_points(
    sheet: JobSheet, worked: AbstractSet[str], by_sheet: AbstractSet[str] = frozenset()
) -> Iterator[RequiredPoint]:
    """Where clean maxima are asked for, with every tone of the job; see `_with_one_tone` for outputs and ways."""
    return with_second_tones(sheet, _with_one_tone(sheet, worked, by_sheet))


def _with_one_tone(sheet: JobSheet, worked: AbstractSet[str], by_sheet: AbstractSet[str]) -> Iterator[RequiredPoint]:
    """
    Where clean maxima are asked for.

    Of every source that feeds a path its first output of each kind that has volts (line, speaker), by the first way of
    playing, by all that the customer uses, or every output by every way. Outputs of one kind mostly bend alike, a
    source's own amplifier bends earlier than its line outputs (common practice, no source). Volume steps that were read
    before the ways were distinguished stays: `worked` are the steps that have a record. Of a source `by_sheet` one is
    asked for at every output that its sheet knows, where that bends first; the other ways that it knows are free.
    """
    chain, extent = sheet.chain, EXTENT.of(sheet.choices)
    for source in chain.feeding():
        own = [path for path in chain.paths if path.source == source.id and not chain.is_digital(path)]
        first = {path.output: path for path in reversed(own)}
        paths = [path for path in own if first[path.output] is path]
        used = source.played if extent.every_way else source.played[:1]
        kinds: set[OutputKind] = set()
        for path in paths:
            output = chain.output_of(path)
            is_first = output.kind not in kinds
            kinds.add(output.kind)
            to_check = lowest_told(source, output.id) if source.id in by_sheet else None
            begun = _begun(source, output.id, worked)
            if not (is_first or extent.every_output) and to_check is None and not begun:
                continue
            together = not source.inputs or clean_maximum_key(source.id, output.id) in worked
            if together:
                yield RequiredPoint(source, output, path, None, told=to_check)
            if used:
                # Another output than the first is there to be checked, no more.
                ways = (playing.kind for playing in (used if extent.every_output or is_first else ()))
                yield from _by_way(RequiredPoint(source, output, path, None, together, told=to_check), (*ways, *begun))
            if extent.every_output and output.sides is Sides.PAIR:
                # What a person begins with is the left; the right is held against it, once.
                yield RequiredPoint(source, output, path, used[0].kind if used else None, True, Side.RIGHT)


def _begun(source: Source, output: str, worked: AbstractSet[str]) -> tuple[InputKind, ...]:
    """
    The ways by which an output was read already and that nothing asks for any more.

    Readings that a sheet asked for stay, whatever became of the sheet; so do those by a way without a tone.
    """
    ways = (playing.kind for playing in source.inputs if source.from_sheet or playing.kind in TONELESS)
    return tuple(way for way in ways if clean_maximum_key(source.id, output, way) in worked)


def _by_way(asked: RequiredPoint, ways: tuple[InputKind, ...]) -> Iterator[RequiredPoint]:
    """An output by every way that is asked for, the one to be checked against a sheet first."""
    if asked.told is None:
        yield from (asked._replace(way=way) for way in dict.fromkeys(ways))
        return
    checked = asked.told.way or asked.source.played[0].kind
    for way in dict.fromkeys((checked, *ways)):
        told = told_at(asked.source, asked.output.id, way)
        # What the sheet doesn't know is to be measured as ever.
        free = asked.optional or (way is not checked and told is not None)
        yield asked._replace(way=way, optional=free, told=told)
