"""The system: sources, amplifiers and loads, and the paths that join them; and the sheet of a job that holds it."""

from collections.abc import Iterator
from itertools import groupby
from typing import Annotated, Protocol, Self, TypeVar

from pydantic import Field, model_validator

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.labels import labelled
from upper_rook.core.common.stated import Stated
from upper_rook.core.common.units import Frozen, Key, Name
from upper_rook.core.signal.filters import ChannelFilter, EqualiserBand, FilterPlace, SwitchPosition
from upper_rook.core.system.amplifier import Amplifier, GainRange, InputLevel, Mode, Rating, Routing
from upper_rook.core.system.loads import Load
from upper_rook.core.system.processor import Processor, ProcessorKind
from upper_rook.core.system.source import Output, Sides, Source


class Path(Frozen):
    """Joins one source output pair to one load by one amplifier channel pair."""

    model_config = labelled(
        "Path",
        id="id",
        name="name",
        source="source",
        output="source's output",
        through="converter or processor",
        amplifier="amplifier",
        input="amplifier's input",
        routing="input routing",
        leads="signal leads",
        mode="channels used",
        load="speakers",
        group="group",
        inverted="polarity",
        delay_ms="delay",
        channel_gain_db="channel gain",
        equaliser="equaliser",
        boost="boost",
        filter_switch="filter switch",
        filters="filters",
    )
    id: Key
    name: Name = ""
    source: Key
    output: Key
    """Which output of the source."""
    through: Annotated[tuple[Key, ...], Field(max_length=4)] = ()
    """Converters and processors on the way, the first after the source first."""
    amplifier: Key
    input: InputLevel = InputLevel.LOW
    """Which input of the amplifier."""
    routing: Routing | None = None
    """Where the amplifier's input routing switch stands; None when it has none."""
    leads: Annotated[int, Field(ge=0, le=2)] | None = None
    """Signal leads plugged into this pair; None while nobody has counted."""
    mode: Mode = Mode.PER_CHANNEL
    load: Key
    group: Name = ""
    """What it sounds together with: the ways of a front have one group. A sub joins every group."""
    inverted: bool = False
    """Whether its polarity is turned."""
    delay_ms: Annotated[float, Field(ge=0, le=100)] = 0.0
    """How much later than the others it is set to play."""
    channel_gain_db: Annotated[float, Field(ge=-60, le=24)] = 0.0
    """The processor's gain for this path."""
    equaliser: Annotated[tuple[EqualiserBand, ...], Field(max_length=31)] = ()
    """The processor's bands for this path."""
    boost: EqualiserBand | None = None
    """The amplifier's boost, unless it is at zero."""
    filter_switch: SwitchPosition | None = None
    """Where the amplifier's filter switch stands; None when it has none."""
    filters: Annotated[tuple[ChannelFilter, ...], Field(max_length=8)] = ()
    """Every filter on the way, the amplifier's idle ones included."""

    def works(self, one: ChannelFilter) -> bool:
        """Whether a filter of this path is in the signal with the filter switch where it is."""
        return not (one.active_in and self.filter_switch and self.filter_switch not in one.active_in)

    @property
    def working(self) -> tuple[ChannelFilter, ...]:
        """The filters that are in the signal."""
        if self.filter_switch is None:
            return self.filters
        return tuple(one for one in self.filters if self.works(one))


class _Part(Protocol):
    @property
    def id(self) -> str: ...


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
        for place, path in enumerate(self.paths):
            self._check(path, f"paths.{place}")
        for kind in ("amplifier", "load"):
            used = [getattr(path, kind) for path in self.paths]
            for place, part in enumerate(used):
                if part in used[:place]:
                    raise BadInput(
                        f"two paths end in {kind} “{part}”: give each its own channel pair and speakers",
                        f"paths.{place}.{kind}",
                    )
        return self

    def _check(self, path: Path, place: str) -> None:
        named = [("sources", path.source), ("amplifiers", path.amplifier), ("loads", path.load)]
        for kind, wanted in (*named, *(("processors", one) for one in path.through)):
            if wanted not in {part.id for part in getattr(self, kind)}:
                field = {"processors": "through"}.get(kind, kind[:-1])
                raise BadInput(f"path “{path.id}” names “{wanted}”, which is not among the {kind}", f"{place}.{field}")
        source = self.source_of(path)
        if path.output not in {one.id for one in source.outputs}:
            raise BadInput(
                f"“{path.output}” is not among the outputs of {source.name or 'its source'}", f"{place}.output"
            )
        if len(set(path.through)) != len(path.through):
            raise BadInput(f"path “{path.id}” goes through the same processor twice: a loop", f"{place}.through")
        if path.mode is Mode.BRIDGED and self.amplifier_of(path).channels == 1:
            raise BadInput("a mono amplifier has one channel and can't be bridged", f"{place}.mode")

    def source_of(self, path: Path) -> Source:
        """The source that feeds `path`."""
        return _part(self.sources, path.source)

    def output_of(self, path: Path) -> Output:
        """The output of the source that feeds `path`."""
        return _part(self.source_of(path).outputs, path.output)

    def processors_of(self, path: Path) -> tuple[Processor, ...]:
        """What lies between source and amplifier, in order."""
        return tuple(_part(self.processors, one) for one in path.through)

    def amplifier_of(self, path: Path) -> Amplifier:
        """The amplifier that drives `path`."""
        return _part(self.amplifiers, path.amplifier)

    def load_of(self, path: Path) -> Load:
        """The speakers at the end of `path`."""
        return _part(self.loads, path.load)

    def shaper_of(self, path: Path) -> Processor | None:
        """The processor that a path's equaliser, channel gain and processor filters are set in: the last on the way."""
        processors = (one for one in reversed(self.processors_of(path)) if one.kind is ProcessorKind.PROCESSOR)
        return next(processors, None)

    def counted(self, path: Path) -> Path:
        """`path` without what only a processor could do where it goes through none."""
        if self.shaper_of(path) is not None:
            return path
        kept = tuple(one for one in path.filters if one.place is not FilterPlace.PROCESSOR)
        if not path.equaliser and not path.channel_gain_db and len(kept) == len(path.filters):
            return path
        return path.model_copy(update={"equaliser": (), "channel_gain_db": 0.0, "filters": kept})

    def is_pair(self, path: Path) -> bool:
        """Whether one knob sets two channels, left and right, each with speakers of its own."""
        pair = self.amplifier_of(path).channels == 2 and self.output_of(path).sides is Sides.PAIR
        return pair and path.mode is Mode.PER_CHANNEL

    def feeding(self) -> tuple[Source, ...]:
        """The sources that feed a path, in the order of the paths."""
        return tuple(_part(self.sources, source) for source in dict.fromkeys(path.source for path in self.paths))

    def outputs_used(self, source: Source) -> tuple[Output, ...]:
        """The outputs of `source` that feed a path, in the order of the paths."""
        used = dict.fromkeys(path.output for path in self.paths if path.source == source.id)
        return tuple(_part(source.outputs, output) for output in used)

    def idle(self) -> Iterator[tuple[str, str]]:
        """Kind and name of every part that no path uses."""
        used = {
            "source": {path.source for path in self.paths},
            "processor": {one for path in self.paths for one in path.through},
            "amplifier": {path.amplifier for path in self.paths},
            "load": {path.load for path in self.paths},
        }
        for kind, ids in used.items():
            for part in getattr(self, f"{kind}s"):
                if part.id not in ids:
                    yield kind, part.name or part.id


_Kind = TypeVar("_Kind", bound=_Part)


def _part(parts: tuple[_Kind, ...], wanted: str) -> _Kind:
    # A plain loop, which costs half of what next() on a generator does, and this is asked thousands of times a plan.
    for part in parts:
        if part.id == wanted:
            return part
    raise KeyError(wanted)


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
