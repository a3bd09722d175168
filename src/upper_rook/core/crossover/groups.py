"""Sums of paths that sound together: their responses with their phases."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise, product

import numpy as np

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.common.units import Frozen, Key, format_db, format_hertz, format_signed
from upper_rook.core.crossover.driver_groups import is_sub, members_of, named, subs_of
from upper_rook.core.crossover.path_responses import Array, PathResponses, delayed, middles_of
from upper_rook.core.signal.filters import Complex, level_db
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.path import Path

BUMP_DB = 2.0
"""So far above the pass band a crossing stands out (common practice, no source)."""
CANCELS_DB = 3.0
"""So far below the louder of two neighbours the sum is a hole (common practice, no source)."""
_FLOOR_DB = -80.0
_HEARD_DB = -15.0
"""A crossing further down than this isn't heard."""
_BESIDE_DB = -6.0
"""Where both of two lie above this they play the same."""
_SHARED = 0.7
"""So much of the narrower one's band two have in common when they play the same."""


class Crossing(Frozen):
    """Where two neighbours of a group are equally loud."""

    lower: str
    upper: str
    lower_paths: tuple[Key, ...]
    upper_paths: tuple[Key, ...]
    frequency_hz: float
    alone_db: float
    """The louder of the two there, against its pass band."""
    sum_db: float
    """Both together."""
    inverted_sum_db: float
    """The same with the polarity of one of them turned."""
    turn: str
    """The path of the two to turn then: a sub rather than the path that it is shared by."""

    @property
    def paths(self) -> tuple[str, ...]:
        """Those of the lower one, then those of the upper one."""
        return (*self.lower_paths, *self.upper_paths)


class Group(Frozen):
    """Paths that sound together."""

    name: str
    paths: tuple[Key, ...]
    """Its members, from the lowest band up."""
    level_db: tuple[float, ...]
    """Their sum, over the grid of the responses; several subs count as one that is as loud as the rest."""
    inner_low_hz: float
    """The middle of its lowest band; with the next one: the ends of the whole band are no holes."""
    inner_high_hz: float
    """The middle of its highest."""
    least_db: float
    """The least of the sum between these."""
    least_hz: float
    crossings: tuple[Crossing, ...]


@dataclass(frozen=True)
class _Voice:
    """A path, or all subs together."""

    paths: tuple[Path, ...]
    response: Complex
    late_s: float
    """Lateness that its response has in it: of several subs that of the first."""
    middle: float
    """Of its band, as log2 of hertz; that of what it consists of, should its parts cancel."""

    @property
    def name(self) -> str:
        return named(self.paths[0]) if len(self.paths) == 1 else "the subs"


def groups(chain: Chain, voices: PathResponses) -> tuple[Group, ...]:
    """Every group of two or more paths, as if every speaker were equally loud in its band."""
    subs = subs_of(chain)
    return tuple(_group(name, paths, voices, subs) for name, paths in members_of(chain) if len(paths) > 1)


def _voices(paths: tuple[Path, ...], system: PathResponses, subs: set[str]) -> list[_Voice]:
    """Terms of the sum: all subs as one, scaled to be as loud as one, and every other path."""
    responses, late = system.responses, system.timing.of
    low = tuple(path for path in paths if path.id in subs)
    rows = [responses[path.id] for path in paths]
    middles = dict(zip((path.id for path in paths), middles_of(rows, system.frequency_hz), strict=True))
    voices = [
        _Voice((path,), responses[path.id], late(path), float(middles[path.id]))
        for path in paths
        if path.id not in subs
    ]
    if low:
        together = np.sum([responses[path.id] for path in low], axis=0) / len(low)
        middle = float(np.mean([middles[path.id] for path in low]))
        voices.append(_Voice(low, np.asarray(together), min(map(late, low)), middle))
    return voices


def _group(name: str, paths: tuple[Path, ...], system: PathResponses, subs: set[str]) -> Group:
    frequency_hz = system.frequency_hz
    voices = _voices(paths, system, subs)
    middles = np.array([voice.middle for voice in voices])
    upwards = [voices[place] for place in np.argsort(middles, kind="stable")]
    total = level_db(np.sum([voice.response for voice in voices], axis=0))
    inner = np.flatnonzero((frequency_hz >= 2 ** middles.min() * 0.999) & (frequency_hz <= 2 ** middles.max() * 1.001))
    least = int(inner[np.argmin(total[inner])]) if inner.size else int(np.argmax(total))
    return Group(
        name=name,
        paths=tuple(path.id for voice in upwards for path in voice.paths),
        level_db=tuple(np.round(np.maximum(total, _FLOOR_DB), 2).tolist()),
        inner_low_hz=float(2 ** middles.min()),
        inner_high_hz=float(2 ** middles.max()),
        least_db=max(_FLOOR_DB, float(total[least])),
        least_hz=float(frequency_hz[least]),
        crossings=tuple(_crossings(upwards, frequency_hz, subs)),
    )


def _crossings(upwards: list[_Voice], frequency_hz: Array, subs: set[str]) -> Iterator[Crossing]:
    for lower, upper in pairwise(upwards):
        below, above = lower.response, upper.response
        apart = level_db(below) - level_db(above)
        # From the lower one being the louder to the upper one being it.
        places = np.flatnonzero((apart[:-1] > 0) & (apart[1:] <= 0))
        if places.size == 0:
            continue
        place = int(places[np.argmax(np.abs(below[places]))])
        start = min(max(place - 1, 0), frequency_hz.size - 4)
        near = slice(start, start + 4)
        curves = [_curve(voice, frequency_hz, near) for voice in (lower, upper)]
        at = _root((curves[0] - curves[1]).real, place - start)
        hertz = float(frequency_hz[start] * (frequency_hz[start + 1] / frequency_hz[start]) ** at)
        value, other = (
            complex(np.exp(curve @ at**_POWERS) * delayed(np.array([hertz]), voice.late_s)[0])
            for curve, voice in zip(curves, (lower, upper), strict=True)
        )
        louder = max(abs(value), abs(other))
        if _db(louder) < _HEARD_DB:
            continue
        yield Crossing(
            lower=lower.name,
            upper=upper.name,
            lower_paths=tuple(path.id for path in lower.paths),
            upper_paths=tuple(path.id for path in upper.paths),
            frequency_hz=hertz,
            alone_db=_db(louder),
            sum_db=_db(value + other),
            inverted_sum_db=_db(value - other),
            turn=lower.name if lower.paths[0].id in subs else upper.name,
        )


_POWERS = np.arange(4)
_CUBIC = np.linalg.inv(np.vander(_POWERS, increasing=True).astype(np.float64))
"""Coefficients of the cubic through four values at 0, 1, 2 and 3."""


def _curve(voice: _Voice, frequency_hz: Array, near: slice) -> Complex:
    """
    Ln H between four neighbours of the grid, as a cubic in steps of the grid; its delay is taken off.

    Decibels and phase follow it to a thousandth there, where a complex value or a delayed one doesn't.
    """
    response = voice.response[near] / delayed(frequency_hz[near], voice.late_s)
    # Added up from one to the next, so that a whole turn leaves no step.
    phase = np.angle(response)
    phase[1:] = phase[0] + np.cumsum(np.angle(response[1:] * response[:-1].conj()))
    return np.asarray(_CUBIC @ (np.log(np.maximum(np.abs(response), 1e-9)) + 1j * phase))


def _root(cubic: Array, place: int) -> float:
    """Where a cubic that changes its sign between `place` and the next is zero."""
    low, high = float(place), float(place + 1)
    # Plain numbers cost a tenth of what arrays of four do.
    at_0, at_1, at_2, at_3 = cubic.tolist()
    for _ in range(24):
        middle = (low + high) / 2
        is_above = ((at_3 * middle + at_2) * middle + at_1) * middle + at_0 > 0
        low, high = (middle, high) if is_above else (low, middle)
    return (low + high) / 2


def _db(total: complex) -> float:
    return max(_FLOOR_DB, 20 * math.log10(max(abs(total), 1e-9)))


def beside(chain: Chain, responses: dict[str, Complex]) -> Iterator[Finding]:
    """Paths that play the same band and cancel each other there: two subs, or two of one group."""
    told: set[tuple[str, str]] = set()
    for _, paths in members_of(chain):
        for alike in ([path for path in paths if is_sub(chain, path) is wanted] for wanted in (True, False)):
            for first, other, hole_db in _cancelling(alike, responses):
                if (first.id, other.id) in told:
                    continue
                told.add((first.id, other.id))
                yield Finding(
                    kind=FindingKind.CANCEL_BESIDE,
                    about=(first.id, other.id),
                    severity=Severity.RISK,
                    title=f"{named(first)} and {named(other)} cancel each other",
                    reason="They play the same band out of phase: together "
                    f"{format_db(min(hole_db, 40), 0)} below either alone.",
                    remedy=f"Turn the polarity of {named(other)}, or give both the same filters and delay.",
                    paths=(first.id, other.id),
                )


def _cancelling(paths: list[Path], responses: dict[str, Complex]) -> Iterator[tuple[Path, Path, float]]:
    """Pairs that share most of a band and fall together below the louder there, with how far they fall."""
    if len(paths) < 2:
        return
    alike: dict[bytes, list[Path]] = {}
    for path in paths:
        alike.setdefault(responses[path.id].tobytes(), []).append(path)
    # What is equal plays in step: each response is looked at once, however many paths have it.
    kinds = list(alike.values())
    if len(kinds) < 2:
        return
    rows = np.array([responses[same[0].id] for same in kinds])
    powers = np.abs(rows) ** 2
    plays = powers > 10 ** (_BESIDE_DB / 10)
    widths = plays.sum(axis=1)
    for place in range(len(kinds) - 1):
        rest = slice(place + 1, None)
        shared = plays[place] & plays[rest]
        count = shared.sum(axis=1)
        # Neighbours share a corner; those who play the same share most of what the narrower one has.
        same = (count > 0) & (count >= _SHARED * np.minimum(widths[place], widths[rest]))
        if not same.any():
            continue
        louder = np.maximum(powers[place], powers[rest])
        left = np.where(shared, np.abs(rows[place] + rows[rest]) ** 2 / np.maximum(louder, 1e-12), 0.0)
        mean = left.sum(axis=1) / np.maximum(count, 1)
        for further in np.flatnonzero(same & (mean < 10 ** (-CANCELS_DB / 10))):
            hole_db = -10 * math.log10(max(float(mean[further]), 1e-8))
            for first, other in product(kinds[place], kinds[place + 1 + int(further)]):
                yield first, other, hole_db


def uneven(found: tuple[Group, ...]) -> Iterator[Finding]:
    """Neighbours that cancel, or are louder together, where they meet."""
    for number, group in enumerate(found):
        for place, crossing in enumerate(group.crossings):
            if crossing.sum_db > BUMP_DB:
                yield _bump(crossing, (number, place))
            if not is_hole(crossing):
                continue
            turned = crossing.inverted_sum_db > crossing.sum_db + CANCELS_DB
            yield Finding(
                kind=FindingKind.CANCEL,
                about=(number, place),
                severity=Severity.RISK,
                title=f"{crossing.lower} and {crossing.upper} cancel where they meet",
                reason=f"At {format_hertz(crossing.frequency_hz)} their filters are out of phase: together "
                f"{format_db(crossing.alone_db - crossing.sum_db, 0)} below either alone.",
                remedy=f"Turn the polarity of {crossing.turn}: by the filters alone then "
                f"{format_signed(crossing.inverted_sum_db, 0)} dB."
                if turned
                else "Use equal slopes on both sides of the crossing.",
                paths=crossing.paths,
            )


def holes(found: tuple[Group, ...]) -> Iterator[Finding]:
    """Holes anywhere in a group's band; only where distances are known, since else delay isn't counted."""
    for number, group in enumerate(found):
        at_crossing = any(
            is_hole(crossing) and abs(math.log2(crossing.frequency_hz / group.least_hz)) < 1
            for crossing in group.crossings
        )
        if group.least_db < -CANCELS_DB and not at_crossing:
            yield Finding(
                kind=FindingKind.HOLE,
                about=(number,),
                severity=Severity.RISK,
                title=f"{group.name} has a hole at {format_hertz(group.least_hz)}",
                reason=f"Together its speakers are {format_db(-group.least_db, 0)} below their bands there, "
                "delays and distances counted.",
                remedy="Align the delays first; then move the corners together or turn a polarity.",
                paths=group.paths,
            )


def meetings_of(found: tuple[Group, ...]) -> dict[tuple[str, str], float]:
    """The crossing of every two neighbours, in hertz, by the ids of their paths."""
    crossings = [crossing for group in found for crossing in group.crossings]
    return {
        pair: crossing.frequency_hz
        for crossing in crossings
        for pair in product(crossing.lower_paths, crossing.upper_paths)
    }


def is_hole(crossing: Crossing) -> bool:
    """Whether two neighbours cancel where they meet."""
    return crossing.sum_db <= crossing.alone_db - CANCELS_DB


def _bump(crossing: Crossing, about: tuple[int, int]) -> Finding:
    return Finding(
        kind=FindingKind.BUMP,
        about=about,
        severity=Severity.NOTE,
        title=f"{crossing.lower} and {crossing.upper} are louder together",
        reason=f"At {format_hertz(crossing.frequency_hz)} both are {format_db(-crossing.alone_db)} down and in phase: "
        f"together {format_signed(crossing.sum_db, 1)} dB.",
        remedy="Use Linkwitz–Riley filters, or move the corners slightly apart.",
        paths=crossing.paths,
    )
