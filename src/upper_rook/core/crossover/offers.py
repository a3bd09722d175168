"""
Choice of proposals: each is summed with its neighbours first, and none may leave a deeper hole than there is.

A system that is healthy is left alone. Filters that belong together are offered together, since one of them alone would
leave a hole; where the sum asks for it with the polarity turned.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from upper_rook.core.common.units import format_signed
from upper_rook.core.crossover.driver_groups import is_sub, members_of, named, subs_of
from upper_rook.core.crossover.groups import Group, is_hole
from upper_rook.core.crossover.path_responses import PathResponses, middles_of, path_response
from upper_rook.core.crossover.proposals import Proposal, in_words, proposals
from upper_rook.core.crossover.rules import LOWEST_SUBSONIC, NEAR
from upper_rook.core.signal.filters import ChannelFilter, Complex, Pass, Shape, level_db
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.choices import Choices
from upper_rook.core.system.loads import Box, Load
from upper_rook.core.system.path import Path

_NO_WORSE_DB = 0.05
_HOLE_DB = 3.0
"""A sum that stays this near to the pass band is left alone (common practice, no source)."""
_HILL_DB = 4.0
"""Second-order neighbours come to 3 dB where they meet, and are used so (common practice, no source)."""
_WORTH_DB = 0.5
_FEW = 8
"""Of more paths than these not every combination is tried: a change of all of them is offered as one."""
_EDGE = 1.001
_STILL_FINE = 1.3
"""So far from where it would be proposed a corner at an end of the whole band may stand (common practice)."""


def offers(chain: Chain, choices: Choices, voices: PathResponses, found: Sequence[Group]) -> tuple[Proposal, ...]:
    """The proposals that do no harm; what is healthy, or can't be bettered, stays as it is and is settled."""
    wanted = {proposal.path: proposal for proposal in proposals(chain, choices)}
    desk = _Desk(chain, voices)
    offered: dict[str, Proposal] = {}
    for cluster in _clusters(chain):
        own_groups = [one for one in found if set(one.paths) & set(cluster)]
        offered |= _offers_of(desk, own_groups, cluster, {key: wanted[key] for key in cluster if key in wanted})
    return tuple(offered[key] for key in wanted)


def _clusters(chain: Chain) -> Iterator[tuple[str, ...]]:
    """The paths that one change may touch: groups that share a sub are one cluster."""
    sets: list[set[str]] = []
    for _, paths in members_of(chain):
        own = {path.id for path in paths}
        touching = [one for one in sets if one & own]
        sets = [one for one in sets if not one & own]
        sets.append(own.union(*touching))
    covered = {key for one in sets for key in one}
    sets += [{path.id} for path in chain.paths if path.id not in covered]
    for one in sets:
        yield tuple(path.id for path in chain.paths if path.id in one)


class _Desk:
    """A system whose filters are tried out."""

    def __init__(self, chain: Chain, voices: PathResponses) -> None:
        self.chain = chain
        responses, frequency_hz = voices.responses, voices.frequency_hz
        self._equalisers, self._base, self._hertz = voices.equalisers, responses, frequency_hz
        self._bank, self._timing = voices.bank, voices.timing
        # By identity, which costs less than a path's hash; the path is kept so that its identity lasts.
        self._tried: dict[int, tuple[Path, Complex, float]] = {}
        self._groups = [(name, paths) for name, paths in members_of(chain) if len(paths) > 1]
        subs = subs_of(chain)
        # All subs of a group count as one that is as loud as the rest.
        self._weight = {key: 1 / len(subs) if key in subs else 1.0 for key in responses}
        self._sums = {
            name: np.sum([self._weight[path.id] * responses[path.id] for path in paths], axis=0)
            for name, paths in self._groups
        }
        keys = list(responses)
        middles = middles_of([responses[key] for key in keys], frequency_hz) if keys else np.zeros(0)
        middle = dict(zip(keys, middles.tolist(), strict=True))
        self._middles = {
            name: (
                {path.id: place for place, path in enumerate(paths)},
                np.array([middle[path.id] for path in paths]),
            )
            for name, paths in self._groups
        }

    def least_db(self, changed: dict[str, Path]) -> dict[str, tuple[float, float]]:
        """
        The least of each group's sum as it is and with some paths changed; louder than the pass band is no gain.

        Between the middles that the lowest and the highest of the group have then: the ends of the band are no holes.
        """
        found = {}
        for name, _ in self._groups:
            places, middles = self._middles[name]
            touched = [key for key in changed if key in places]
            if not touched:
                continue
            before, middles = self._sums[name], middles.copy()
            after = before
            for key in touched:
                new, middles[places[key]] = self._response(changed[key])
                after = after + self._weight[key] * (new - self._base[key])
            low, high = 2 ** float(middles.min()) / _EDGE, 2 ** float(middles.max()) * _EDGE
            inner = (self._hertz >= low) & (self._hertz <= high)
            found[name] = (_least(before[inner]), _least(after[inner]))
        return found

    def harms(self, changed: dict[str, Path]) -> bool:
        """Whether some group's sum gets a deeper hole."""
        return _is_deeper(self.least_db(changed))

    def _response(self, path: Path) -> tuple[Complex, float]:
        """The response of a path as it would be, and its middle as log2 of hertz."""
        known = self._tried.get(id(path))
        if known is None:
            load = self.chain.load_of(path)
            response = path_response(path, load, self._equalisers[path.id], self._bank, late_s=self._timing.of(path))
            known = self._tried[id(path)] = path, response, float(middles_of([response], self._hertz)[0])
        return known[1:]


@dataclass(frozen=True)
class _Best:
    """A change that is offered."""

    changed: dict[str, Path]
    now_db: float
    """The least of the sums that it touches, as they are."""
    then_db: float


def _is_deeper(leasts: dict[str, tuple[float, float]]) -> bool:
    return any(after < before - _NO_WORSE_DB for before, after in leasts.values())


def _least(total: Complex) -> float:
    return min(0.0, float(level_db(total).min())) if total.size else 0.0


def _offers_of(
    desk: _Desk, found: list[Group], cluster: tuple[str, ...], wanted: dict[str, Proposal]
) -> dict[str, Proposal]:
    own = {path.id: path for path in desk.chain.paths if path.id in cluster}
    holes = any(group.least_db < -_HOLE_DB or any(is_hole(crossing) for crossing in group.crossings) for group in found)
    if all(one.settled for one in wanted.values()) and not holes:
        return wanted
    fit = _all_fit(desk.chain, own, found, wanted)
    best = None if fit and _sums_well(found) else _best(desk, own, wanted)
    # Filters that fit are moved only where that correct something.
    if best is None or (fit and best.then_db < best.now_db + _WORTH_DB):
        return {key: _as_it_is(own[key], one) for key, one in wanted.items()}
    return _together(desk, own, wanted, best)


def _all_fit(chain: Chain, own: dict[str, Path], found: list[Group], wanted: dict[str, Proposal]) -> bool:
    """Whether every path has the filters it needs within its range."""
    met = {key for group in found for one in group.crossings for key in one.paths}
    return all(_fits(own[key], chain.load_of(own[key]), one, alone=key not in met) for key, one in wanted.items())


def _sums_well(found: list[Group]) -> bool:
    """Whether neighbours sum without a hole or a hill."""
    return all(
        group.least_db > -_HOLE_DB and all(-_HOLE_DB < crossing.sum_db < _HILL_DB for crossing in group.crossings)
        for group in found
    )


def _fits(path: Path, load: Load, one: Proposal, *, alone: bool) -> bool:
    have = {each.crossover.kind: each.crossover.corner_hz for each in path.working}
    need = {each.crossover.kind: each.crossover.corner_hz for each in one.filters}
    if set(have) != set(need) or len(path.working) != len(one.filters):
        return False
    low, high = have.get(Pass.HIGH), have.get(Pass.LOW)
    if low is not None:
        ported = load.box is Box.PORTED and load.tuning_hz is not None
        edge = load.tuning_hz or 0.0 if ported else load.lowest_hz or 0.0
        if ported and not LOWEST_SUBSONIC <= low / edge <= 1:
            return False
        if not ported and low < edge / NEAR:
            return False
        if alone and low > need[Pass.HIGH] * _STILL_FINE:
            return False
    if high is not None:
        if load.highest_hz and high > load.highest_hz * NEAR:
            return False
        if alone and high < need[Pass.LOW] / _STILL_FINE:
            return False
    return low is None or high is None or low < high


def _best(desk: _Desk, own: dict[str, Path], wanted: dict[str, Proposal]) -> _Best | None:
    """The first change that is no worse and leaves no hole, else the best that is no worse; None if all are worse."""
    tried: list[_Best] = []
    for change in _changes(desk.chain, own, wanted):
        # What isn't changed is the very same path.
        changed = {key: path for key, path in change.items() if path is not own[key]}
        if not changed:
            continue
        leasts = desk.least_db(changed)
        if _is_deeper(leasts):
            continue
        one = _Best(changed, *(min((row[place] for row in leasts.values()), default=0.0) for place in (0, 1)))
        if one.then_db > -1.0:
            return one
        tried.append(one)
    # Of equals the first: it changes least.
    return max(tried, key=lambda one: round(one.then_db, 1)) if tried else None


def _changes(chain: Chain, own: dict[str, Path], wanted: dict[str, Proposal]) -> Iterator[dict[str, Path]]:
    """Trials: polarity alone where the filters are there, the proposals, the same in shapes that sum flat."""
    needed = {key: _taking(own[key], one.filters) for key, one in wanted.items()}
    have_all = all(
        {each.crossover.kind for each in own[key].working} == {each.crossover.kind for each in one.filters}
        for key, one in wanted.items()
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
            for some in combinations(order, number):
                yield frozenset(some)


def _begins(chain: Chain, path: Path) -> float:
    return _corner(path, Pass.HIGH) or chain.load_of(path).lowest_hz or 0.0


def _flat(paths: dict[str, Path]) -> dict[str, Path]:
    """The same corners as Linkwitz–Riley filters of 24 dB an octave."""

    def one(each: ChannelFilter) -> ChannelFilter:
        if each.crossover.shape is Shape.LINKWITZ_RILEY and each.crossover.order == 4:
            return each
        change = {"shape": Shape.LINKWITZ_RILEY, "order": 4, "depth_db": None, "q": None}
        return each.model_copy(update={"crossover": each.crossover.model_copy(update=change)})

    return {
        key: path.model_copy(update={"filters": tuple(one(each) for each in path.filters)})
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
            near = [one for one, key in bottoms if top and key != lower.id and top / 2 <= one <= top * 2]
            if top and near:
                found[lower.id] = _moved(found[lower.id], min(near, key=lambda one: abs(math.log(one / top))))
    return found


def _corner(path: Path, kind: Pass) -> float | None:
    return next((one.crossover.corner_hz for one in path.filters if one.crossover.kind is kind), None)


def _moved(path: Path, low_pass_hz: float) -> Path:
    filters = tuple(
        one.model_copy(update={"crossover": one.crossover.model_copy(update={"corner_hz": low_pass_hz})})
        if one.crossover.kind is Pass.LOW
        else one
        for one in path.filters
    )
    return path.model_copy(update={"filters": filters})


def _as_it_is(path: Path, one: Proposal) -> Proposal:
    words = in_words(path.working)
    return one.model_copy(
        update={"filters": path.filters, "words": words, "because": (), "settled": True, "inverted": path.inverted}
    )


def _together(desk: _Desk, own: dict[str, Path], wanted: dict[str, Proposal], best: _Best) -> dict[str, Proposal]:
    """The proposals of one change, each with what has to be taken with it."""
    changed, now, then = best.changed, best.now_db, best.then_db
    single = len(changed) == 1
    alone = {key for key, path in changed.items() if single or (len(changed) <= _FEW and not desk.harms({key: path}))}
    everybody = tuple(changed)
    found = {}
    for key, one in wanted.items():
        path = changed.get(key)
        if path is None:
            found[key] = _as_it_is(own[key], one)
            continue
        place = everybody.index(key)
        others = () if key in alone else (*everybody[:place], *everybody[place + 1 :])
        turned = path.inverted is not own[key].inverted
        words = in_words(path.working)
        polarity = f", polarity {'turned' if path.inverted else 'normal'}" if turned else ""
        because = one.because if path.filters != own[key].filters else ()
        if then > now + _NO_WORSE_DB:
            because = (*because, f"the least of the sum rises from {_told(now)} to {_told(then)} dB")
        if others:
            few = len(others) < _FEW
            names = " and ".join(named(own[other]) for other in others) if few else f"the {len(others)} others"
            because = (*because, f"together with that of {names}: alone it would leave a hole")
        found[key] = one.model_copy(
            update={
                "filters": path.filters,
                "words": words + polarity,
                "because": because,
                "settled": False,
                "inverted": path.inverted,
                "together": others,
            }
        )
    return found


def _told(level: float) -> str:
    return format_signed(max(level, -40.0), 1)
