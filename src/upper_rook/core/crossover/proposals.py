"""
A band for each driver, from its usable range, its box's tuning and its neighbours.

Where neighbours meet is a matter of methods: 80 Hz all round, a little overlap because scales are not exact, or none.
The numbers in here are common practice and have no source.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise

from upper_rook.core.common.units import Frozen, Key, format_hertz
from upper_rook.core.crossover.driver_groups import members_of, named
from upper_rook.core.crossover.rules import BELOW_TUNING, NEAR, SUB_TOP_HZ
from upper_rook.core.signal.filters import ChannelFilter, Crossover, FilterPlace, Pass, Shape
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.choices import Choices
from upper_rook.core.system.loads import Band, Box, Load
from upper_rook.core.system.methods import CROSSING
from upper_rook.core.system.path import Path
from upper_rook.core.system.source import Sides

HABIT_HZ = 80.0
_LATER_GROUPS = 1.25
"""Rear speakers begin a little above the front's."""
_WHOLE_RANGE = (40.0, 15_000.0)
"""A range that reaches beyond these needs no filter for its own sake."""
_WAYS_APART = 1.5
"""So many times higher another driver must begin and end to be a way of its own."""
_SHAPES = {
    Shape.BUTTERWORTH: "Butterworth",
    Shape.LINKWITZ_RILEY: "Linkwitz–Riley",
    Shape.BESSEL: "Bessel",
    Shape.CHOSEN_Q: "Q of its own",
}


class Proposal(Frozen):
    """Filters for one path."""

    path: Key
    name: str
    filters: tuple[ChannelFilter, ...]
    words: str
    because: tuple[str, ...]
    settled: bool
    """Whether the path has just these already."""
    inverted: bool = False
    """The polarity that goes with them."""
    together: tuple[Key, ...] = ()
    """The paths whose proposals have to be taken with it: alone it would leave a hole, or change what they need."""


@dataclass
class _Edge:
    """A corner with its reason."""

    hertz: float
    because: str


@dataclass
class _Way:
    """One driver with its range and the edges found for it."""

    path: Path
    load: Load
    low: _Edge | None = None
    high: _Edge | None = None

    @property
    def lowest(self) -> float:
        return self.load.lowest_hz or 0.0

    @property
    def highest(self) -> float:
        return self.load.highest_hz or (SUB_TOP_HZ if self.is_sub else 20_000.0)

    @property
    def is_sub(self) -> bool:
        return self.load.band is Band.SUB


def proposals(chain: Chain, choices: Choices) -> tuple[Proposal, ...]:
    """A proposal for every path whose speakers' range is known."""
    ways = {path.id: _Way(path, chain.load_of(path)) for path in chain.paths}
    subs = [way for way in ways.values() if way.is_sub]
    bottoms = []
    groups = [[path for path in paths if not ways[path.id].is_sub] for _, paths in members_of(chain)]
    for place, paths in enumerate(groups):
        later = place > 0 and not _is_other_side(chain, groups[0], paths)
        mains = [ways[path.id] for path in paths if ways[path.id].lowest]
        mains.sort(key=lambda way: (way.lowest, way.highest))
        for lower, upper in pairwise(mains):
            _split(lower, upper, choices)
        for way in mains:
            # Drivers that share a band share its lower edge.
            if way.low is None:
                way.low = _bottom(way, subs, choices, later=later)
                bottoms += [way.low] if way.low and subs else []
            if way.high is None and way.highest < _WHOLE_RANGE[1]:
                way.high = _Edge(_round(way.highest), f"made for up to {format_hertz(way.highest)}")
    for way in subs:
        way.low = _subsonic(way)
        way.high = _sub_top(way, bottoms, choices)
    return tuple(_proposal(chain, way) for way in ways.values() if way.is_sub or way.lowest)


def _octaves(choices: Choices) -> float:
    """How far neighbours reach into each other."""
    if not CROSSING.of(choices).overlaps:
        return 0.0
    return math.log2((HABIT_HZ + choices.overlap_hz) / HABIT_HZ)


def _split(lower: _Way, upper: _Way, choices: Choices) -> None:
    """Divides two neighbours within what both can play: an octave above the upper one's lowest, or in the middle."""
    if upper.lowest < lower.lowest * _WAYS_APART or upper.highest < lower.highest * _WAYS_APART:
        return
    half = _octaves(choices) / 2
    middle = min(2 * upper.lowest, math.sqrt(upper.lowest * lower.highest))
    shared = (
        f"both can play from {format_hertz(upper.lowest)} to {format_hertz(lower.highest)}; "
        f"divided at {format_hertz(middle)}, which spares the upper one"
    )
    if upper.lowest > lower.highest:
        shared = f"no speaker covers {format_hertz(lower.highest)} to {format_hertz(upper.lowest)}"
        lower.high, upper.low = _Edge(_round(lower.highest), shared), _Edge(_round(upper.lowest), shared)
        return
    lower.high = _Edge(_round(min(middle * 2**half, lower.highest)), shared)
    upper.low = _Edge(_round(max(middle / 2**half, upper.lowest)), shared)


def _is_other_side(chain: Chain, first: list[Path], paths: list[Path]) -> bool:
    """Whether a group is the right of a set of which the first is the left, or the other way round."""
    sides, others = ({chain.sides_of(path) for path in group} for group in (first, paths))
    return sides | others == {Sides.LEFT, Sides.RIGHT} and len(sides) == len(others) == 1


def _bottom(way: _Way, subs: list[_Way], choices: Choices, *, later: bool) -> _Edge | None:
    own = f"made for {format_hertz(way.lowest)} and up"
    if not subs:
        return _Edge(_round(way.lowest), own) if way.lowest > _WHOLE_RANGE[0] else None
    always_hz = CROSSING.of(choices).always_hz
    if always_hz:
        return _Edge(always_hz, f"{format_hertz(always_hz)} all round, by choice")
    hertz = min(max(HABIT_HZ, way.lowest), max(sub.highest for sub in subs))
    because = f"{own}; a sub plays below {format_hertz(hertz)}"
    if later:
        hertz, because = hertz * _LATER_GROUPS, f"{because}; a little above the front’s"
    return _Edge(_round(max(hertz, way.lowest)), because)


def _subsonic(way: _Way) -> _Edge | None:
    tuning = way.load.tuning_hz
    if way.load.box is not Box.PORTED or tuning is None:
        return None
    return _Edge(float(round(tuning * BELOW_TUNING)), f"somewhat below the box’s tuning of {format_hertz(tuning)}")


def _sub_top(way: _Way, bottoms: list[_Edge], choices: Choices) -> _Edge:
    method = CROSSING.of(choices)
    if not bottoms or method.always_hz:
        return _Edge(min(method.always_hz or HABIT_HZ, way.highest), "usually 80 Hz")
    if not method.overlaps:
        hertz = min(edge.hertz for edge in bottoms)
        return _Edge(_round(min(hertz, way.highest)), f"where the others begin, {format_hertz(hertz)}")
    highest = max(edge.hertz for edge in bottoms)
    because = f"the others begin at up to {format_hertz(highest)}; {choices.overlap_hz:g} Hz of overlap by choice"
    return _Edge(_round(min(highest + choices.overlap_hz, way.highest)), because)


def _proposal(chain: Chain, way: _Way) -> Proposal:
    in_processor = chain.shaper_of(way.path) is not None
    edges = [(kind, edge) for kind, edge in ((Pass.HIGH, way.low), (Pass.LOW, way.high)) if edge]
    filters = tuple(_filter(way, kind, edge.hertz, in_processor=in_processor) for kind, edge in edges)
    return Proposal(
        path=way.path.id,
        name=named(way.path),
        filters=filters,
        words=in_words(filters),
        because=tuple(edge.because for _, edge in edges),
        settled=_same(filters, way.path.working),
        inverted=way.path.inverted,
    )


def _filter(way: _Way, kind: Pass, corner_hz: float, *, in_processor: bool) -> ChannelFilter:
    """The path's own filter moved to the corner, or one as it is usual there."""
    own = next((channel_filter for channel_filter in way.path.filters if channel_filter.crossover.kind is kind), None)
    if own and own.crossover.corner_hz == corner_hz:
        return own
    if own:
        moved = own.crossover.model_copy(update={"corner_hz": corner_hz})
        return own.model_copy(update={"crossover": moved})
    place = FilterPlace.PROCESSOR if in_processor else FilterPlace.AMPLIFIER
    steep = in_processor or way.is_sub
    shape = Shape.LINKWITZ_RILEY if in_processor else Shape.BUTTERWORTH
    crossover = Crossover(kind=kind, corner_hz=corner_hz, order=4 if steep else 2, shape=shape)
    return ChannelFilter(crossover=crossover, place=place)


def in_words(filters: tuple[ChannelFilter, ...]) -> str:
    """Filters as they are said."""
    return ", ".join(_in_words(channel_filter) for channel_filter in filters) or "no filter needed"


def _in_words(channel_filter: ChannelFilter) -> str:
    crossover = channel_filter.crossover
    shape = _SHAPES[crossover.shape]
    corner = format_hertz(crossover.corner_hz)
    return f"{crossover.kind.value}-pass {corner}, {shape} {6 * crossover.order} dB an octave"


def _same(proposed: tuple[ChannelFilter, ...], present: tuple[ChannelFilter, ...]) -> bool:
    def corners(filters: tuple[ChannelFilter, ...]) -> Iterator[tuple[str, float]]:
        return iter(
            sorted(
                (channel_filter.crossover.kind.value, channel_filter.crossover.corner_hz) for channel_filter in filters
            )
        )

    if len(proposed) != len(present):
        return False
    pairs = zip(corners(proposed), corners(present), strict=True)
    return all(first[0] == other[0] and 1 / NEAR < first[1] / other[1] < NEAR for first, other in pairs)


def _round(hertz: float) -> float:
    """To a number that can be set: steps of 5 below 200 Hz, two figures above."""
    return float(5 * round(hertz / 5)) if hertz < 200 else float(f"{hertz:.2g}")
