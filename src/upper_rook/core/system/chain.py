"""The system: sources, amplifiers and loads, and the paths that join them; and the sheet of a job that holds it."""

from collections.abc import Iterator
from itertools import groupby
from typing import Annotated, Any, Protocol, Self, TypeVar, cast

from pydantic import Field, model_validator

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.labels import labelled
from upper_rook.core.common.stated import Stated
from upper_rook.core.common.units import Frozen
from upper_rook.core.signal.filters import FilterPlace
from upper_rook.core.system.amplifier import Amplifier, GainRange, Housing, Mode, Rating
from upper_rook.core.system.loads import Load
from upper_rook.core.system.path import Path
from upper_rook.core.system.processor import Processor, ProcessorKind
from upper_rook.core.system.source import Output, OutputKind, Sides, Source


class _Part(Protocol):
    @property
    def id(self) -> str: ...


_NOUNS = {
    "sources": "Source",
    "processors": "Converter or processor",
    "amplifiers": "Amplifier",
    "loads": "Speakers",
    "paths": "Filters of",
}


class Chain(Frozen):
    """Every part of one vehicle's system and the paths through it."""

    model_config = labelled(
        "",
        sources="Sources",
        processors="Converters and processors",
        amplifiers="Amplifiers",
        loads="Speakers",
        paths="Paths",
    )
    sources: Annotated[tuple[Source, ...], Field(min_length=1, max_length=8)]
    processors: Annotated[tuple[Processor, ...], Field(max_length=16)] = ()
    amplifiers: Annotated[tuple[Amplifier, ...], Field(min_length=1, max_length=64)]
    loads: Annotated[tuple[Load, ...], Field(min_length=1, max_length=64)]
    paths: Annotated[tuple[Path, ...], Field(min_length=1, max_length=64)]

    @model_validator(mode="after")
    def _joined(self) -> Self:
        for kind in ("sources", "processors", "amplifiers", "loads", "paths"):
            _once(getattr(self, kind), kind)
        for place, source in enumerate(self.sources):
            _once(source.outputs, f"sources.{place}.outputs")
        for place, amplifier in enumerate(self.amplifiers):
            _once(amplifier.sections, f"amplifiers.{place}.sections")
        for place, path in enumerate(self.paths):
            self._check(path, f"paths.{place}")
        self._each_ends_alone()
        return self

    def _each_ends_alone(self) -> None:
        """No two paths share a channel pair or speakers."""
        channels: set[tuple[str, str | None]] = set()
        loads: set[str] = set()
        for place, path in enumerate(self.paths):
            pair = (path.amplifier, path.section)
            if pair in channels:
                what, field = (
                    (f"section “{path.section}” of amplifier “{path.amplifier}”", "section")
                    if path.section
                    else (f"amplifier “{path.amplifier}”", "amplifier")
                )
                raise BadInput(
                    f"two paths end in {what}: give each its own channel pair, or the amplifier sections",
                    f"paths.{place}.{field}",
                )
            if path.load in loads:
                raise BadInput(
                    f"two paths end in load “{path.load}”: give each its own channel pair and speakers",
                    f"paths.{place}.load",
                )
            channels.add(pair)
            loads.add(path.load)

    def name_at(self, place: str) -> str:
        """Kind and name of the part at a place such as `amplifiers.front`; empty where there is none."""
        kind, _, part_id = place.partition(".")
        if kind not in _NOUNS:
            return ""
        parts: tuple[Source | Processor | Amplifier | Load | Path, ...] = getattr(self, kind)
        return next((f"{_NOUNS[kind]} {part.name}".rstrip() for part in parts if part.id == part_id), "")

    def _check(self, path: Path, place: str) -> None:
        named = [("sources", path.source), ("amplifiers", path.amplifier), ("loads", path.load)]
        for kind, wanted in (*named, *(("processors", text) for text in path.through)):
            if wanted not in {part.id for part in getattr(self, kind)}:
                field = {"processors": "through"}.get(kind, kind[:-1])
                raise BadInput(f"path “{path.id}” names “{wanted}”, which is not among the {kind}", f"{place}.{field}")
        self._check_outputs(path, place)
        self._check_section(path, place)
        self._check_between(path, f"{place}.through")
        if path.mode is Mode.BRIDGED and self.amplifier_of(path).channels == 1:
            raise BadInput("a mono amplifier has one channel and can’t be bridged", f"{place}.mode")

    def _check_outputs(self, path: Path, place: str) -> None:
        source = self.source_of(path)
        known = {output.id for output in source.outputs}
        for field, wanted in (("output", path.output), *(("also", text) for text in path.also)):
            if wanted not in known:
                raise BadInput(
                    f"“{wanted}” is not among the outputs of {source.name or 'its source'}", f"{place}.{field}"
                )
        if len({path.output, *path.also}) <= len(path.also):
            raise BadInput("an output can be summed with others, not with itself", f"{place}.also")

    def _check_between(self, path: Path, field: str) -> None:
        if len(set(path.through)) != len(path.through):
            raise BadInput(f"path “{path.id}” goes through the same processor twice: a loop", field)
        for number, processor in enumerate(self.processors_of(path)):
            if processor.inside is None:
                continue
            what = processor.name or processor.id
            if processor.inside != path.amplifier:
                raise BadInput(f"“{what}” is built into another amplifier than this path’s", field)
            if number + 1 < len(path.through):
                raise BadInput(f"“{what}” is built into the amplifier: nothing can come after it", field)
        if path.through and self.amplifier_of(path).place is Housing.SOURCE:
            raise BadInput(
                "nothing can be between a source and its built-in amplifier: remove the converter or processor, "
                "or choose “Own case” as the amplifier’s housing",
                field,
            )

    def _check_section(self, path: Path, place: str) -> None:
        amplifier = _part(self.amplifiers, path.amplifier)
        known = [section.id for section in amplifier.sections]
        if path.section is None and known:
            raise BadInput(
                f"“{amplifier.name or amplifier.id}” has sections: say which of them the path uses, "
                f"{' or '.join(known)}",
                f"{place}.section",
            )
        if path.section is not None and path.section not in known:
            raise BadInput(
                f"“{path.section}” is not among the sections of {amplifier.name or 'its amplifier'}", f"{place}.section"
            )

    def source_of(self, path: Path) -> Source:
        """The source that feeds `path`."""
        return _part(self.sources, path.source)

    def output_of(self, path: Path) -> Output:
        """The output of the source that feeds `path`."""
        return _part(self.source_of(path).outputs, path.output)

    def processors_of(self, path: Path) -> tuple[Processor, ...]:
        """Stages between source and amplifier, in order."""
        return tuple(_part(self.processors, text) for text in path.through)

    def amplifier_of(self, path: Path) -> Amplifier:
        """The amplifier that drives `path`: of one with sections, its section."""
        return _part(self.amplifiers, path.amplifier).section(path.section)

    def load_of(self, path: Path) -> Load:
        """The speakers at the end of `path`."""
        return _part(self.loads, path.load)

    def shaper_of(self, path: Path) -> Processor | None:
        """The processor that a path's equaliser, channel gain and processor filters are set in: the last on the way."""
        processors = (
            processor for processor in reversed(self.processors_of(path)) if processor.kind is ProcessorKind.PROCESSOR
        )
        return next(processors, None)

    def counted(self, path: Path) -> Path:
        """`path` without what only a processor could do where it goes through none."""
        if self.shaper_of(path) is not None:
            return path
        kept = tuple(
            channel_filter for channel_filter in path.filters if channel_filter.place is not FilterPlace.PROCESSOR
        )
        trimmed = not (path.left.is_flat and path.right.is_flat)
        if not path.equaliser and not path.channel_gain_db and not trimmed and len(kept) == len(path.filters):
            return path
        sides = {"left": path.left.untrimmed, "right": path.right.untrimmed}
        return path.model_copy(update={"equaliser": (), "channel_gain_db": 0.0, "filters": kept, **sides})

    def outputs_of(self, path: Path) -> tuple[Output, ...]:
        """The output that feeds `path`, and those summed with it."""
        outputs = self.source_of(path).outputs
        return tuple(_part(outputs, text) for text in (path.output, *path.also))

    def sides_of(self, path: Path) -> Sides:
        """Band that its outputs carry together."""
        sides = {output.sides for output in self.outputs_of(path)} if path.also else {self.output_of(path).sides}
        if Sides.PAIR in sides or {Sides.LEFT, Sides.RIGHT} <= sides:
            return Sides.PAIR
        return next(iter(sides)) if len(sides) == 1 else Sides.MONO

    def is_digital(self, path: Path) -> bool:
        """Whether numbers leave the source instead of volts."""
        return self.output_of(path).kind is OutputKind.DIGITAL

    def is_pair(self, path: Path) -> bool:
        """Whether one knob sets two channels, left and right, each with speakers of its own."""
        pair = self.amplifier_of(path).channels == 2 and self.sides_of(path) is Sides.PAIR
        return pair and path.mode is Mode.PER_CHANNEL

    def feeding(self) -> tuple[Source, ...]:
        """The sources that feed a path, in the order of the paths."""
        return tuple(_part(self.sources, source) for source in dict.fromkeys(path.source for path in self.paths))

    def outputs_used(self, source: Source) -> tuple[Output, ...]:
        """The outputs of `source` that feed a path, in the order of the paths."""
        own = (path for path in self.paths if path.source == source.id)
        used = dict.fromkeys(text for path in own for text in (path.output, *path.also))
        return tuple(_part(source.outputs, output) for output in used)

    def voltage_outputs_used(self, source: Source) -> tuple[Output, ...]:
        """Those of them that give volts: a digital output gives numbers."""
        return tuple(output for output in self.outputs_used(source) if output.kind is not OutputKind.DIGITAL)

    def idle(self) -> Iterator[tuple[str, str]]:
        """Kind and name of every part that no path uses."""
        used = {
            "source": {path.source for path in self.paths},
            "processor": {text for path in self.paths for text in path.through},
            "amplifier": {path.amplifier for path in self.paths},
            "load": {path.load for path in self.paths},
        }
        for kind, ids in used.items():
            for part in getattr(self, f"{kind}s"):
                if part.id not in ids:
                    yield kind, part.name or part.id


_Kind = TypeVar("_Kind", bound=_Part)


_FEW = 4
_MOST_KNOWN = 512
_known: dict[int, tuple[tuple[Any, ...], dict[str, Any]]] = {}
"""Parts by their ids, under the identity of their tuple, which is kept so that its identity lasts."""


def _part(parts: tuple[_Kind, ...], wanted: str) -> _Kind:
    """The part of that id. Asked thousands of times a plan: of a few by a loop, of many by a table."""
    if len(parts) <= _FEW:
        for part in parts:
            if part.id == wanted:
                return part
        raise KeyError(wanted)
    found = _known.get(id(parts))
    if found is None or found[0] is not parts:
        if len(_known) >= _MOST_KNOWN:
            _known.clear()
        found = _known[id(parts)] = parts, {part.id: part for part in reversed(parts)}
    part = found[1][wanted]
    return cast("_Kind", part)


def _once(parts: tuple[_Part, ...], place: str) -> None:
    ids = sorted(part.id for part in parts)
    if any(len(list(same)) > 1 for _, same in groupby(ids)):
        raise BadInput(f"two of the {place.rpartition('.')[2]} have the same id", place)


def line_output_pair() -> Chain:
    """The simplest system with middling parts: a receiver, one channel pair, a pair of 4 ohm speakers."""
    return Chain(
        sources=(
            Source(id="source", top_volume=40, outputs=(Output(id="line", name="Line out", rated=Stated(volts=4.0)),)),
        ),
        amplifiers=(
            Amplifier(
                id="amplifier",
                ratings=(Rating(power_w=75, load_ohm=4),),
                lowest_load_ohm=2,
                gain_range=GainRange(down_v=6.0, up_v=0.2),
            ),
        ),
        loads=(Load(id="front", impedance_ohm=4, power_w=60),),
        paths=(Path(id="front", name="Front", source="source", output="line", amplifier="amplifier", load="front"),),
    )
