"""Changes of filters and polarities to try out, those that change least first."""

import math
from collections.abc import Iterator
from itertools import combinations

from upper_rook.core.crossover.driver_groups import is_sub, members_of
from upper_rook.core.crossover.proposals import Proposal
from upper_rook.core.signal.filters import ChannelFilter, Pass, Shape
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.path import Path

_FEW = 8
"""Of more paths than these not every combination is tried."""


def changes(chain: Chain, own: dict[str, Path], wanted: dict[str, Proposal]) -> Iterator[dict[str, Path]]:
    """Trials: polarity alone where the filters are there, the proposals, the same in shapes that sum flat."""
    needed = {key: _taking(own[key], proposal.filters) for key, proposal in wanted.items()}
    have_all = all(
        {channel_filter.crossover.kind for channel_filter in own[key].working}
        == {channel_filter.crossover.kind for channel_filter in proposal.filters}
        for key, proposal in wanted.items()
    )
    beside = {path.id for _, paths in members_of(chain) if len(paths) > 1 for path in paths}
    turnable = {key: own[key] for key in wanted if key in beside}
    for base in _bases(chain, own, needed, have_all=have_all, together=bool(turnable)):
        for flips in _flips(chain, turnable):
            yield {key: _flipped(path, key in flips) for key, path in base.items()}


def _bases(
    chain: Chain, own: dict[str, Path], needed: dict[str, Path], *, have_all: bool, together: bool
) -> Iterator[dict[str, Path]]:
    """One after the other, since the first is mostly good enough."""
    if have_all and together:
        yield own
    yield own | needed
    if together:
        yield own | _flat(needed)
        yield own | _flat(_level(chain, needed))


def _taking(path: Path, filters: tuple[ChannelFilter, ...]) -> Path:
    return path.model_copy(update={"filters": filters}) if filters != path.filters else path


def _flipped(path: Path, turned: bool) -> Path:
    return path.model_copy(update={"inverted": not path.inverted}) if turned else path


def _flips(chain: Chain, own: dict[str, Path]) -> Iterator[frozenset[str]]:
    """Nothing turned, all subs, one path, two paths; first what is turned already, then subs, then the upper ways."""
    subs = frozenset(key for key, path in own.items() if is_sub(chain, path))
    yield frozenset()
    if len(subs) > 1:
        yield subs
    if len(own) <= _FEW:
        order = sorted(own, key=lambda key: (not own[key].inverted, key not in subs, -_begins(chain, own[key]), key))
        for number in (1, 2):
            for chosen in combinations(order, number):
                yield frozenset(chosen)


def _begins(chain: Chain, path: Path) -> float:
    return _corner(path, Pass.HIGH) or chain.load_of(path).lowest_hz or 0.0


def _flat(paths: dict[str, Path]) -> dict[str, Path]:
    """The same corners as Linkwitz–Riley filters of 24 dB an octave."""

    def flattened(channel_filter: ChannelFilter) -> ChannelFilter:
        if channel_filter.crossover.shape is Shape.LINKWITZ_RILEY and channel_filter.crossover.order == 4:
            return channel_filter
        change = {"shape": Shape.LINKWITZ_RILEY, "order": 4, "depth_db": None, "q": None}
        return channel_filter.model_copy(update={"crossover": channel_filter.crossover.model_copy(update=change)})

    return {
        key: path.model_copy(update={"filters": tuple(flattened(channel_filter) for channel_filter in path.filters)})
        for key, path in paths.items()
    }


def _level(chain: Chain, paths: dict[str, Path]) -> dict[str, Path]:
    """Neighbours met at one corner: the lower one's low-pass where the upper one's high-pass is."""
    found = dict(paths)
    for _, group in members_of(chain):
        mains = [found[path.id] for path in group if path.id in found]
        bottoms = sorted({(corner, path.id) for path in mains if (corner := _corner(path, Pass.HIGH))})
        for lower in mains:
            top = _corner(lower, Pass.LOW)
            near = [value for value, key in bottoms if top and key != lower.id and top / 2 <= value <= top * 2]
            if top and near:
                found[lower.id] = _moved(found[lower.id], min(near, key=lambda value: abs(math.log(value / top))))
    return found


def _corner(path: Path, kind: Pass) -> float | None:
    return next(
        (
            channel_filter.crossover.corner_hz
            for channel_filter in path.filters
            if channel_filter.crossover.kind is kind
        ),
        None,
    )


def _moved(path: Path, low_pass_hz: float) -> Path:
    filters = tuple(
        channel_filter.model_copy(
            update={"crossover": channel_filter.crossover.model_copy(update={"corner_hz": low_pass_hz})}
        )
        if channel_filter.crossover.kind is Pass.LOW
        else channel_filter
        for channel_filter in path.filters
    )
    return path.model_copy(update={"filters": filters})
