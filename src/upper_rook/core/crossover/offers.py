"""
Choice of proposals: each is summed with its neighbours first, and none may leave a deeper hole than there is.

A system that is healthy is left alone. Changes are tried on until nothing is left to better, and the end of it is what
is offered: once it is taken, it is settled. Filters that belong together are offered together.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from upper_rook.core.common.units import format_signed
from upper_rook.core.crossover.driver_groups import members_of, named
from upper_rook.core.crossover.groups import Group, is_hole
from upper_rook.core.crossover.path_responses import PathResponses
from upper_rook.core.crossover.proposals import Proposal, in_words, proposals
from upper_rook.core.crossover.rules import LOWEST_SUBSONIC, NEAR
from upper_rook.core.crossover.trial_system import NO_WORSE_DB, TrialSystem, is_deeper
from upper_rook.core.crossover.trials import changes
from upper_rook.core.signal.filters import ChannelFilter, Pass
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.choices import Choices
from upper_rook.core.system.loads import Box, Load
from upper_rook.core.system.path import Path

_HOLE_DB = 3.0
"""A sum that stays this near to the pass band is left alone (common practice, no source)."""
_HILL_DB = 4.0
"""Second-order neighbours come to 3 dB where they meet, and are used so (common practice, no source)."""
_FLAT_DB = -1.0
"""A sum above this has no hole worth another trial."""
_WORTH_DB = 0.5
_SINGLY = 4
"""Of a change of more paths than these none is offered alone."""
_MANY = 8
"""More than these aren't listed by name."""
_MOST_ROUNDS = 8
_STILL_FINE = 1.3
"""So far from where it would be proposed a corner at an end of the whole band may stand (common practice)."""

_State = tuple[tuple[str, tuple[ChannelFilter, ...], bool], ...]


def offers(
    sheet_chain: Chain, chain: Chain, choices: Choices, voices: PathResponses, found: tuple[Group, ...]
) -> tuple[Proposal, ...]:
    """
    The proposals that do no harm; what is healthy, or can't be bettered, stays as it is and is settled.

    `sheet_chain` is the chain as the sheet has it, `chain` the same with the groups that its ways plainly make.
    """
    wanted = {proposal.path: proposal for proposal in proposals(chain, choices)}
    system = TrialSystem(sheet_chain, chain, voices, found)
    offered: dict[str, Proposal] = {}
    for cluster in _clusters(chain):
        offered |= _offers_of(system, cluster, choices, wanted)
    return tuple(offered[key] for key in wanted)


def _clusters(chain: Chain) -> Iterator[tuple[str, ...]]:
    """The paths that one change may touch: groups that share a sub are one cluster."""
    sets: list[set[str]] = []
    for _, paths in members_of(chain):
        own = {path.id for path in paths}
        touching = [keys for keys in sets if keys & own]
        sets = [keys for keys in sets if not keys & own]
        sets.append(own.union(*touching))
    covered = {key for keys in sets for key in keys}
    sets += [{path.id} for path in chain.paths if path.id not in covered]
    for keys in sets:
        yield tuple(path.id for path in chain.paths if path.id in keys)


@dataclass(frozen=True)
class _Change:
    """A change that could be offered."""

    changed: dict[str, Path]
    now_db: float
    """The least of the sums that it touches, as they are."""
    then_db: float
    moves: bool
    """Whether it changes filters too, and not polarities alone."""
    sound: bool
    """Whether it leaves no hole and brings no fault of its own."""


def _offers_of(
    system: TrialSystem, cluster: tuple[str, ...], choices: Choices, wanted: dict[str, Proposal]
) -> dict[str, Proposal]:
    here = {key: wanted[key] for key in cluster if key in wanted}
    own = _paths(system, cluster)
    if _is_as_wanted(system, cluster, here):
        return here
    changed = _differing(own, _paths(_settled(system, cluster, choices), cluster))
    if not changed:
        return {key: _as_it_is(own[key], proposal) for key, proposal in here.items()}
    return _together(system, own, here, changed, _alone(system, cluster, choices, changed))


def _paths(system: TrialSystem, cluster: tuple[str, ...]) -> dict[str, Path]:
    return {path.id: path for path in system.chain.paths if path.id in cluster}


def _differing(own: dict[str, Path], other: dict[str, Path]) -> dict[str, Path]:
    """The paths whose filters or polarity differ."""
    return {key: path for key, path in other.items() if _set(path) != _set(own[key])}


def _set(path: Path) -> tuple[tuple[ChannelFilter, ...], bool]:
    return path.filters, path.inverted


def _settled(system: TrialSystem, cluster: tuple[str, ...], choices: Choices) -> TrialSystem:
    """
    The system once every change worth offering is made, one after the other.

    Where changes go round in a circle the one of its states that sums best counts, from wherever it was entered.
    """
    passed: list[tuple[_State, TrialSystem]] = []
    for _ in range(_MOST_ROUNDS):
        state = _state(system, cluster)
        known = next((place for place, (before, _) in enumerate(passed) if before == state), None)
        if known is not None:
            return min(passed[known:], key=lambda row: _rank(row[0], row[1], cluster))[1]
        passed.append((state, system))
        wanted = {proposal.path: proposal for proposal in proposals(system.chain, choices) if proposal.path in cluster}
        changed = _change(system, cluster, wanted)
        if not changed:
            break
        system = system.changed(changed)
    return system


def _state(system: TrialSystem, cluster: tuple[str, ...]) -> _State:
    return tuple((key, *_set(path)) for key, path in _paths(system, cluster).items())


def _rank(state: _State, system: TrialSystem, cluster: tuple[str, ...]) -> tuple[object, ...]:
    least = min((min(0.0, own_group.least_db) for own_group in _own_groups(system, cluster)), default=0.0)
    return len(system.faults), -round(least, 1), sum(inverted for _, _, inverted in state), repr(state)


def _own_groups(system: TrialSystem, cluster: tuple[str, ...]) -> list[Group]:
    return [group for group in system.groups if set(group.paths) & set(cluster)]


def _is_as_wanted(system: TrialSystem, cluster: tuple[str, ...], wanted: dict[str, Proposal]) -> bool:
    holes = any(
        group.least_db < -_HOLE_DB or any(is_hole(crossing) for crossing in group.crossings)
        for group in _own_groups(system, cluster)
    )
    return not holes and all(proposal.settled for proposal in wanted.values())


def _change(system: TrialSystem, cluster: tuple[str, ...], wanted: dict[str, Proposal]) -> dict[str, Path]:
    """The change to make next; empty where none is worth it."""
    if _is_as_wanted(system, cluster, wanted):
        return {}
    found, own = _own_groups(system, cluster), _paths(system, cluster)
    fit = _all_fit(system.chain, own, found, wanted)
    best = None if fit and _sums_well(found) else _best(system, own, wanted)
    if best is None:
        return {}
    # Filters that fit are moved, and polarities turned, only where that corrects something.
    worth = best.then_db >= best.now_db + _WORTH_DB or (best.moves and not fit)
    return best.changed if worth else {}


def _all_fit(chain: Chain, own: dict[str, Path], found: list[Group], wanted: dict[str, Proposal]) -> bool:
    """Whether every path has the filters it needs within its range."""
    met = {key for group in found for crossing in group.crossings for key in crossing.paths}
    return all(
        _fits(own[key], chain.load_of(own[key]), proposal, alone=key not in met) for key, proposal in wanted.items()
    )


def _sums_well(found: list[Group]) -> bool:
    """Whether neighbours sum without a hole or a hill."""
    return all(
        group.least_db > -_HOLE_DB and all(-_HOLE_DB < crossing.sum_db < _HILL_DB for crossing in group.crossings)
        for group in found
    )


def _fits(path: Path, load: Load, proposal: Proposal, *, alone: bool) -> bool:
    have = {channel_filter.crossover.kind: channel_filter.crossover.corner_hz for channel_filter in path.working}
    need = {channel_filter.crossover.kind: channel_filter.crossover.corner_hz for channel_filter in proposal.filters}
    if set(have) != set(need) or len(path.working) != len(proposal.filters):
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


def _best(system: TrialSystem, own: dict[str, Path], wanted: dict[str, Proposal]) -> _Change | None:
    """The first change that is no worse and is sound, else the best that is no worse; None if all are worse."""
    tried: list[_Change] = []
    for change in changes(system.chain, own, wanted):
        changed = _differing(own, change)
        if not changed:
            continue
        leasts = system.least_db(changed)
        if is_deeper(leasts):
            continue
        now, then = (min((row[place] for row in leasts.values()), default=0.0) for place in (0, 1))
        moves = any(path.filters != own[key].filters for key, path in changed.items())
        sound = then > _FLAT_DB and system.changed(changed).faults <= system.faults
        fresh = _Change(changed, now, then, moves=moves, sound=sound)
        if sound:
            return fresh
        tried.append(fresh)
    # Of equals the first: it changes least.
    return max(tried, key=lambda change: round(change.then_db, 1)) if tried else None


def _alone(system: TrialSystem, cluster: tuple[str, ...], choices: Choices, changed: dict[str, Path]) -> frozenset[str]:
    """The paths whose change does no harm without the others' and leaves those as they are offered."""
    if len(changed) == 1:
        return frozenset(changed)
    if len(changed) > _SINGLY:
        return frozenset()
    found = set()
    for key, path in changed.items():
        after = system.changed({key: path})
        if is_deeper(system.least_db({key: path})) or not after.is_as_good_as(system):
            continue
        rest = _differing(_paths(after, cluster), _paths(_settled(after, cluster, choices), cluster))
        if {own: _set(path) for own, path in rest.items()} == {
            own: _set(path) for own, path in changed.items() if own != key
        }:
            found.add(key)
    return frozenset(found)


def _as_it_is(path: Path, proposal: Proposal) -> Proposal:
    words = in_words(path.working)
    return proposal.model_copy(
        update={"filters": path.filters, "words": words, "because": (), "settled": True, "inverted": path.inverted}
    )


def _together(
    system: TrialSystem,
    own: dict[str, Path],
    wanted: dict[str, Proposal],
    changed: dict[str, Path],
    alone: frozenset[str],
) -> dict[str, Proposal]:
    """The proposals of one change, each with what has to be taken with it."""
    leasts = system.least_db(changed).values()
    now, then = (min((row[place] for row in leasts), default=0.0) for place in (0, 1))
    found = {}
    for key, proposal in wanted.items():
        path = changed.get(key)
        if path is None:
            found[key] = _as_it_is(own[key], proposal)
            continue
        others = () if key in alone else tuple(other for other in changed if other != key)
        turned = path.inverted is not own[key].inverted
        words = in_words(path.working)
        polarity = f", polarity {'turned' if path.inverted else 'normal'}" if turned else ""
        because = proposal.because if path.filters != own[key].filters else ()
        if then > now + NO_WORSE_DB:
            because = (*because, f"the least of the sum rises from {_told(now)} to {_told(then)} dB")
        if others:
            few = len(others) < _MANY
            names = " and ".join(named(own[other]) for other in others) if few else f"the {len(others)} others"
            why = "alone it would leave a hole, or change what they need"
            because = (*because, f"together with that of {names}: {why}")
        found[key] = proposal.model_copy(
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
