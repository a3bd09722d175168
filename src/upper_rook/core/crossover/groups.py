"""What several paths sound like together: their responses summed with their phases."""

import math
from collections.abc import Iterator, Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.units import Frozen, Key, format_hertz, format_signed
from upper_rook.core.signal.filters import Complex, level_db
from upper_rook.core.system.chain import Chain, Path
from upper_rook.core.system.loads import Band

Array = NDArray[np.float64]

BUMP_DB = 2.0
"""So far above the pass band a crossing stands out (common practice, no source)."""
CANCELS_DB = 3.0
"""So far below the louder of two neighbours the sum is a hole (common practice, no source)."""
_FLOOR_DB = -80.0
_HEARD_DB = -15.0
"""A crossing further down than this isn't heard."""


class Crossing(Frozen):
    """Where two neighbours of a group are equally loud."""

    lower: str
    upper: str
    frequency_hz: float
    alone_db: float
    """The louder of the two there, against its pass band."""
    sum_db: float
    """Both together."""
    inverted_sum_db: float
    """The same with the polarity of one of them turned."""
    turn: str
    """Which of the two to turn then: a sub rather than what it is shared by."""


class Group(Frozen):
    """Paths that sound together."""

    name: str
    paths: tuple[Key, ...]
    """Its members, from the lowest band up."""
    level_db: tuple[float, ...]
    """Their sum, over the grid of the responses."""
    crossings: tuple[Crossing, ...]


def named(path: Path) -> str:
    """What a path is called."""
    return path.name or "Speakers"


def group_names(chain: Chain) -> tuple[str, ...]:
    """The groups of a system in the order of their paths; a sub belongs to each of them."""
    mains = [path.group or named(path) for path in chain.paths if chain.load_of(path).band is not Band.SUB]
    return tuple(dict.fromkeys(mains))


def members(chain: Chain, group: str) -> tuple[Path, ...]:
    """The paths of a group: its own, and every sub."""
    return tuple(
        path for path in chain.paths if chain.load_of(path).band is Band.SUB or (path.group or named(path)) == group
    )


def path_response(path: Path, equaliser: Complex, frequency_hz: Array) -> Complex:
    """Filters, equaliser, boost and polarity of a path; its channel gain is a level to be set, not shape."""
    whole = -equaliser if path.inverted else equaliser
    if path.boost:
        whole = whole * path.boost.response(frequency_hz)
    for one in path.working:
        whole = whole * one.crossover.response(frequency_hz)
    return whole


def groups(chain: Chain, equalisers: Sequence[Complex], frequency_hz: Array) -> tuple[Group, ...]:
    """
    Every group of two or more paths, as if every speaker were equally loud in its band.

    `equalisers` are the responses of the paths' equalisers.
    """
    together = [(name, members(chain, name)) for name in group_names(chain)]
    wanted = {path.id for _, paths in together if len(paths) > 1 for path in paths}
    responses = {
        path.id: path_response(path, equaliser, frequency_hz)
        for path, equaliser in zip(chain.paths, equalisers, strict=True)
        if path.id in wanted
    }
    subs = {path.id for path in chain.paths if chain.load_of(path).band is Band.SUB}
    return tuple(_group(name, paths, responses, frequency_hz, subs) for name, paths in together if len(paths) > 1)


def _group(
    name: str, paths: tuple[Path, ...], responses: dict[str, Complex], frequency_hz: Array, subs: set[str]
) -> Group:
    rows = np.array([responses[path.id] for path in paths])
    weights = np.abs(rows) ** 2 + 1e-12
    middles = weights @ np.log2(frequency_hz) / weights.sum(axis=1)
    upwards = [paths[place] for place in np.argsort(middles, kind="stable")]
    total = level_db(rows.sum(axis=0))
    return Group(
        name=name,
        paths=tuple(path.id for path in upwards),
        level_db=tuple(np.round(np.maximum(total, _FLOOR_DB), 2).tolist()),
        crossings=tuple(_crossings(upwards, responses, frequency_hz, subs)),
    )


def _crossings(
    upwards: list[Path], responses: dict[str, Complex], frequency_hz: Array, subs: set[str]
) -> Iterator[Crossing]:
    for lower, upper in pairwise(upwards):
        below, above = responses[lower.id], responses[upper.id]
        apart = level_db(below) - level_db(above)
        # From the lower one being the louder to the upper one being it.
        places = np.flatnonzero((apart[:-1] > 0) & (apart[1:] <= 0))
        if places.size == 0:
            continue
        place = int(places[np.argmax(np.abs(below[places]))])
        part = float(apart[place] / (apart[place] - apart[place + 1]))
        hertz = float(frequency_hz[place] * (frequency_hz[place + 1] / frequency_hz[place]) ** part)
        # Between two points of the grid the responses are taken as straight: within a tenth of a decibel.
        one, other = (complex((1 - part) * row[place] + part * row[place + 1]) for row in (below, above))
        louder = max(abs(one), abs(other))
        if _db(louder) < _HEARD_DB:
            continue
        yield Crossing(
            lower=named(lower),
            upper=named(upper),
            frequency_hz=hertz,
            alone_db=_db(louder),
            sum_db=_db(one + other),
            inverted_sum_db=_db(one - other),
            turn=named(lower if lower.id in subs else upper),
        )


def _db(total: complex) -> float:
    return max(_FLOOR_DB, 20 * math.log10(max(abs(total), 1e-9)))


def uneven(found: tuple[Group, ...]) -> Iterator[Finding]:
    """Neighbours that cancel, or are louder together, where they meet."""
    for number, group in enumerate(found):
        for place, one in enumerate(group.crossings):
            if one.sum_db > BUMP_DB:
                yield _bump(one, f"bump-{number}-{place}")
            if one.sum_db > one.alone_db - CANCELS_DB:
                continue
            turned = one.inverted_sum_db > one.sum_db + CANCELS_DB
            yield Finding(
                key=f"cancel-{number}-{place}",
                severity=Severity.RISK,
                title=f"{one.lower} and {one.upper} cancel where they meet",
                reason=f"At {format_hertz(one.frequency_hz)} their filters are out of step: together "
                f"{one.alone_db - one.sum_db:.0f} dB below either alone.",
                remedy=f"Turn the polarity of {one.turn}: by the filters alone then "
                f"{format_signed(one.inverted_sum_db, 0)} dB."
                if turned
                else "Use equal slopes on both sides of the crossing.",
            )


def _bump(one: Crossing, key: str) -> Finding:
    return Finding(
        key=key,
        severity=Severity.NOTE,
        title=f"{one.lower} and {one.upper} are louder together",
        reason=f"In step at {format_hertz(one.frequency_hz)}, where both are {-one.alone_db:.1f} dB down, "
        f"they come to {format_signed(one.sum_db, 1)} dB.",
        remedy="Linkwitz–Riley filters sum flat; or move the corners apart a little.",
    )
