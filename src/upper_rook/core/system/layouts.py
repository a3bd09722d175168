"""Systems to begin with: usual parts for the usual layouts, to be edited into what is really there."""

from collections.abc import Callable

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.stated import Stated
from upper_rook.core.common.units import Frozen, Key
from upper_rook.core.signal.filters import ChannelFilter, Crossover, Dial, FilterPlace, Pass, Shape
from upper_rook.core.system.amplifier import Amplifier, GainRange, InputLevel, Mode, Rating, Section
from upper_rook.core.system.chain import Chain, line_output_pair
from upper_rook.core.system.confirmation import Unconfirmed, counting
from upper_rook.core.system.loads import Band, Box, Load
from upper_rook.core.system.path import Path
from upper_rook.core.system.processor import Processor, ProcessorKind
from upper_rook.core.system.source import Output, OutputKind, Source, SourceKind

_DIALS = {
    (Pass.HIGH, True): Dial(lowest_hz=10, highest_hz=60),
    (Pass.HIGH, False): Dial(lowest_hz=30, highest_hz=250),
    (Pass.LOW, False): Dial(lowest_hz=40, highest_hz=250),
}


class Template(Frozen):
    """A layout by name."""

    key: Key
    name: str
    chain: Chain
    not_confirmed: tuple[Unconfirmed, ...]
    """Its values: every one of them is to be confirmed on the vehicle."""


def templates() -> tuple[Template, ...]:
    """Every layout, those that most vehicles have first."""
    found = ((key, name, make()) for key, name, make in _MADE)
    return tuple(Template(key=key, name=name, chain=chain, not_confirmed=counting(chain)) for key, name, chain in found)


def template(key: str) -> Template:
    """The layout of that key. Raises BadInput."""
    for candidate in templates():
        if candidate.key == key:
            return candidate
    raise BadInput(f"There is no layout “{key}”: choose one of those listed.", "layout")


def _source(*outputs: str) -> Source:
    named = tuple(Output(id=key, name=key.capitalize(), rated=Stated(volts=4.0)) for key in outputs or ("front",))
    return Source(id="source", top_volume=40, outputs=named)


def _amplifier(key: str, power_w: float = 75, *, mono: bool = False) -> Amplifier:
    return Amplifier(
        id=f"amplifier-{key}",
        channels=1 if mono else 2,
        ratings=(Rating(power_w=power_w, load_ohm=4), Rating(power_w=1.6 * power_w, load_ohm=2)),
        lowest_load_ohm=1 if mono else 2,
        gain_range=GainRange(down_v=6.0, up_v=0.2),
    )


def _filter(
    kind: Pass, corner_hz: float, order: int = 2, *, subsonic: bool = False, place: FilterPlace = FilterPlace.AMPLIFIER
) -> ChannelFilter:
    dial = _DIALS.get((kind, subsonic)) if place is FilterPlace.AMPLIFIER else None
    inside = dial is not None and dial.lowest_hz <= corner_hz <= dial.highest_hz
    # In step at −6 dB each, two Linkwitz–Riley filters sum flat.
    shape = Shape.LINKWITZ_RILEY if place is FilterPlace.PROCESSOR else Shape.BUTTERWORTH
    crossover = Crossover(kind=kind, corner_hz=corner_hz, order=order, shape=shape)
    return ChannelFilter(crossover=crossover, place=place, dial=dial if inside else None)


def _path(
    key: str,
    name: str,
    *filters: ChannelFilter,
    output: str = "front",
    mode: Mode = Mode.PER_CHANNEL,
    through: tuple[str, ...] = (),
    group: str = "",
) -> Path:
    return Path(
        id=key,
        name=name,
        source="source",
        output=output,
        amplifier=f"amplifier-{key}",
        load=f"speakers-{key}",
        mode=mode,
        through=through,
        group=group,
        filters=filters,
    )


def _speakers(key: str, lowest_hz: float, highest_hz: float, power_w: float = 60) -> Load:
    return Load(id=f"speakers-{key}", impedance_ohm=4, power_w=power_w, lowest_hz=lowest_hz, highest_hz=highest_hz)


def _sub(key: str = "sub", power_w: float = 400, *, ported: bool = True) -> Load:
    return Load(
        id=f"speakers-{key}",
        band=Band.SUB,
        impedance_ohm=4,
        power_w=power_w,
        lowest_hz=28,
        highest_hz=200,
        box=Box.PORTED if ported else Box.SEALED,
        tuning_hz=34 if ported else None,
    )


def _front_rear() -> Chain:
    return Chain(
        sources=(_source("front", "rear"),),
        amplifiers=(_amplifier("front"), _amplifier("rear")),
        loads=(_speakers("front", 70, 20_000), _speakers("rear", 80, 20_000)),
        paths=(
            _path("front", "Front", _filter(Pass.HIGH, 80)),
            _path("rear", "Rear", _filter(Pass.HIGH, 100), output="rear"),
        ),
    )


def _front_rear_sub() -> Chain:
    both = _front_rear()
    return both.model_copy(
        update={
            "sources": (_source("front", "rear", "sub"),),
            "amplifiers": (*both.amplifiers, _amplifier("sub", 300, mono=True)),
            "loads": (*both.loads, _sub()),
            # Its steeper filter is out of step with the front's where they meet.
            "paths": (*both.paths, _sub_path().model_copy(update={"inverted": True})),
        }
    )


def _front_sub() -> Chain:
    both = _front_rear_sub()
    return Chain(
        sources=(_source("front", "sub"),),
        amplifiers=tuple(amplifier for amplifier in both.amplifiers if amplifier.id != "amplifier-rear"),
        loads=tuple(load for load in both.loads if load.id != "speakers-rear"),
        paths=tuple(path for path in both.paths if path.id != "rear"),
    )


def _on_four_channels(chain: Chain) -> Chain:
    """Front and rear of `chain` on one amplifier with two pairs."""
    pair = next(amplifier for amplifier in chain.amplifiers if amplifier.id == "amplifier-front")
    sections = (Section(id="front", name="Channels 1 + 2"), Section(id="rear", name="Channels 3 + 4"))
    four = pair.model_copy(update={"id": "amplifier", "sections": sections})
    others = (amplifier for amplifier in chain.amplifiers if amplifier.id not in ("amplifier-front", "amplifier-rear"))
    paths = (
        path.model_copy(update={"amplifier": "amplifier", "section": path.id}) if path.id in ("front", "rear") else path
        for path in chain.paths
    )
    return chain.model_copy(update={"amplifiers": (four, *others), "paths": tuple(paths)})


def _four_channel() -> Chain:
    return _on_four_channels(_front_rear())


def _four_channel_sub() -> Chain:
    return _on_four_channels(_front_rear_sub())


def _five_channel() -> Chain:
    """The same on one amplifier: two pairs and a mono channel that share supply and routing."""
    whole = _front_rear_sub()
    pair, _, mono = whole.amplifiers
    sections = (
        Section(id="front", name="Front pair"),
        Section(id="rear", name="Rear pair"),
        Section(id="sub", name="Sub channel", channels=1, ratings=mono.ratings, lowest_load_ohm=mono.lowest_load_ohm),
    )
    paths = (path.model_copy(update={"amplifier": "amplifier", "section": path.id}) for path in whole.paths)
    amplifier = pair.model_copy(update={"id": "amplifier", "sections": sections})
    return whole.model_copy(update={"amplifiers": (amplifier,), "paths": tuple(paths)})


def _sub_path(mode: Mode = Mode.PER_CHANNEL) -> Path:
    filters = (_filter(Pass.HIGH, 28, 4, subsonic=True), _filter(Pass.LOW, 80, 4))
    return _path("sub", "Sub", *filters, output="sub", mode=mode)


def _sub_only() -> Chain:
    return Chain(
        sources=(_source("sub"),),
        amplifiers=(_amplifier("sub", 300, mono=True),),
        loads=(_sub(),),
        paths=(_sub_path(),),
    )


def _strapped_sub() -> Chain:
    amplifier = Amplifier(
        id="amplifier-sub",
        channels=1,
        ratings=(Rating(power_w=1000, load_ohm=2), Rating(power_w=2000, load_ohm=4, mode=Mode.STRAPPED)),
        lowest_load_ohm=1,
        gain_range=GainRange(down_v=6.0, up_v=0.2),
    )
    return Chain(
        sources=(_source("sub"),),
        amplifiers=(amplifier,),
        loads=(_sub(power_w=2500),),
        paths=(_sub_path(Mode.STRAPPED),),
    )


def _active(*ways: tuple[str, str, float, float], splits: tuple[float, ...]) -> Chain:
    """A fully active front behind a processor: (key, name, lowest, highest usable Hz) from the lowest way up."""
    corners = (70.0, *splits)
    paths = []
    for place, (key, name, _, _) in enumerate(ways):
        filters = [_filter(Pass.HIGH, corners[place], 4, place=FilterPlace.PROCESSOR)]
        if place < len(splits):
            filters.append(_filter(Pass.LOW, splits[place], 4, place=FilterPlace.PROCESSOR))
        paths.append(_path(key, name, *filters, through=("processor",), group="Front"))
    return Chain(
        sources=(_source(),),
        processors=(Processor(id="processor", highest_input=Stated(volts=4.0), highest_output_v=4.0),),
        amplifiers=tuple(_amplifier(key) for key, *_ in ways),
        loads=tuple(_speakers(key, lowest, highest) for key, _, lowest, highest in ways),
        paths=tuple(paths),
    )


_BASS = ("bass", "Mid-bass", 60.0, 5000.0)
_MID = ("mid", "Midrange", 300.0, 8000.0)
_TWEETER = ("tweeter", "Tweeter", 2000.0, 20_000.0)


def _active_two() -> Chain:
    return _active(_BASS, _TWEETER, splits=(2500.0,))


def _active_two_sub() -> Chain:
    """An active two-way front and a sub, all crossovers in the processor."""
    front = _active_two()
    inside = FilterPlace.PROCESSOR
    filters = (_filter(Pass.HIGH, 28, 4, place=inside), _filter(Pass.LOW, 70, 4, place=inside))
    return front.model_copy(
        update={
            "amplifiers": (*front.amplifiers, _amplifier("sub", 300, mono=True)),
            "loads": (*front.loads, _sub()),
            "paths": (*front.paths, _path("sub", "Sub", *filters, through=("processor",))),
        }
    )


def _active_three() -> Chain:
    return _active(_BASS, _MID, _TWEETER, splits=(400.0, 3500.0))


def _converter() -> Chain:
    """A factory radio's speaker outputs through a line-output converter."""
    pair = line_output_pair()
    converter = Processor(
        id="converter", kind=ProcessorKind.CONVERTER, highest_input=Stated(volts=20.0), highest_output_v=5.0
    )
    (path,) = pair.paths
    path = path.model_copy(update={"through": ("converter",), "output": "front"})
    return pair.model_copy(update={"sources": (_factory("radio"),), "processors": (converter,), "paths": (path,)})


def _factory(what: str, watts: float = 16.0) -> Source:
    front = Output(id="front", name="Front speakers", kind=OutputKind.SPEAKER, rated=Stated(watts=watts))
    return Source(
        id="source", kind=SourceKind.FACTORY, name=f"Factory {what}, speaker outputs", top_volume=30, outputs=(front,)
    )


def _high_level() -> Chain:
    """A factory amplifier's speaker outputs straight into high-level inputs."""
    pair = line_output_pair()
    amplifier = pair.amplifiers[0].model_copy(update={"high_level_range": GainRange(down_v=20.0, up_v=1.0)})
    (path,) = pair.paths
    path = path.model_copy(update={"output": "front", "input": InputLevel.HIGH})
    return pair.model_copy(
        update={"sources": (_factory("amplifier", 25.0),), "amplifiers": (amplifier,), "paths": (path,)}
    )


def _two_way() -> Chain:
    """A front pair of component sets, each behind its own passive crossover."""
    pair = line_output_pair()
    load = pair.loads[0].model_copy(update={"lowest_hz": 65.0, "highest_hz": 20_000.0, "passive_hz": (3500.0,)})
    (path,) = pair.paths
    path = path.model_copy(update={"filters": (_filter(Pass.HIGH, 70),)})
    return pair.model_copy(update={"loads": (load,), "paths": (path,)})


def _bi_amplified_three() -> Chain:
    """Mid-basses on their own channels; midranges and tweeters behind passive crossovers on the other pair."""
    mids = _speakers("mids", 300, 20_000).model_copy(update={"passive_hz": (3500.0,)})
    return Chain(
        sources=(_source("front"),),
        amplifiers=(_amplifier("bass"), _amplifier("mids")),
        loads=(_speakers("bass", 60, 4000), mids),
        paths=(
            _path("bass", "Mid-bass", _filter(Pass.HIGH, 70), _filter(Pass.LOW, 450, 2), group="Front"),
            # A second-order pair is out of step by half a turn where it meets.
            _path("mids", "Mid and tweeter", _filter(Pass.HIGH, 400), group="Front").model_copy(
                update={"inverted": True}
            ),
        ),
    )


_MADE: tuple[tuple[str, str, Callable[[], Chain]], ...] = (
    ("front", "Front on two channels", line_output_pair),
    ("front-sub", "Front and sub", _front_sub),
    ("four-channel", "Front and rear on a four-channel amplifier", _four_channel),
    ("four-channel-sub", "Front and rear on a four-channel amplifier, sub on a mono", _four_channel_sub),
    ("five-channel", "Front, rear and sub on a five-channel amplifier", _five_channel),
    ("active-two-sub", "Active two-way and sub behind a processor", _active_two_sub),
    ("converter", "Factory radio with a converter", _converter),
    ("high-level", "Factory amplifier into high-level inputs", _high_level),
    ("two-way", "Two-way front with passive crossovers", _two_way),
    ("front-rear", "Front and rear, an amplifier each", _front_rear),
    ("front-rear-sub", "Front, rear and sub, an amplifier each", _front_rear_sub),
    ("sub", "Sub only", _sub_only),
    ("strapped-sub", "Sub on two strapped amplifiers", _strapped_sub),
    ("active-two", "Active two-way behind a processor", _active_two),
    ("active-three", "Active three-way behind a processor", _active_three),
    ("bi-amplified-three", "Bi-amplified three-way front", _bi_amplified_three),
)
