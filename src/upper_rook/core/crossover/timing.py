"""Arrival of each path at the seat: electrical delay and distance together, and the delays that align them."""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.common.units import Frozen, Key, format_hertz, format_value
from upper_rook.core.crossover.driver_groups import is_sub, members_of, named
from upper_rook.core.signal.filters import Pass
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.path import Path
from upper_rook.core.system.playing import Side

SOUND_M_S = 343.2
"""Speed of sound in air of 20 °C: 331.3·√(1 + T/273.15), ISO 9613-1."""
RATE_HZ = 48_000
"""Processors that take a delay in samples mostly run at this rate (common practice, no source)."""
_APART_MS = 9.0
"""More than 3 m of difference: no two speakers of one vehicle are so far apart (common practice, no source)."""
_ALIGNED_MS = 0.05
"""As near as a tape measures: 2 cm are 0.06 ms."""
_LATE_PERIODS = 0.25
"""A quarter of a period at the crossing: 3 dB less together (90° between equals)."""
_SUB_TOP_HZ = 100.0


@dataclass(frozen=True)
class Timing:
    """Lateness of the paths of one side at the seat, in seconds after the first; zero for all while not counted."""

    late_s: dict[str, float]
    counted: bool

    def of(self, path: Path) -> float:
        """Lateness of a path, in seconds."""
        return self.late_s.get(path.id, 0.0)


def timing_of(chain: Chain, side: Side) -> Timing:
    """
    Lateness of every path that sounds together with another.

    Electrical delay alone aligns nothing, so it counts only where the distance of each of them is known.
    """
    if _lacking(chain) or not _together(chain):
        return Timing({}, counted=False)
    late = {path.id: _arrival_s(path, side if chain.is_pair(path) else Side.LEFT) for path in _together(chain)}
    first = min(late.values())
    return Timing({key: value - first for key, value in late.items()}, counted=True)


class SpeakerDelay(Frozen):
    """Delay of one speaker, or of a pair whose sides are equally far."""

    side: Side | None
    distance_cm: float
    set_ms: float
    """As it is set in the processor."""
    wanted_ms: float
    """As it aligns the speaker with the farthest one."""
    samples: int
    """The same at 48 kHz."""


class DelayProposal(Frozen):
    """Delays that align one path with the farthest speaker."""

    path: Key
    name: str
    speakers: tuple[SpeakerDelay, ...]
    delay_ms: float
    """For both sides."""
    left_ms: float
    """For the left side, beyond that."""
    right_ms: float
    settled: bool
    """Whether every speaker of the system arrives together as it is."""


def delay_proposals(chain: Chain) -> tuple[DelayProposal, ...]:
    """Delays for every path, none where a distance is missing."""
    paths = _together(chain)
    if _lacking(chain) or not paths:
        return ()
    sides = {path.id: _sides(chain, path) for path in paths}
    speakers = [(path, side) for path in paths for side in sides[path.id]]
    flights = {(path.id, side): _flight_ms(path, side) for path, side in speakers}
    wanted = {key: round(max(flights.values()) - flight, 3) for key, flight in flights.items()}
    arrivals = [_arrival_s(path, side) * 1000 for path, side in speakers]
    settled = max(arrivals) - min(arrivals) <= _ALIGNED_MS
    return tuple(_proposal(path, sides[path.id], wanted, settled=settled) for path in paths)


def delays_note(chain: Chain) -> str:
    """Whether the sums count delay and distance, in a sentence; empty where nothing is summed."""
    paths, lacking = _together(chain), _lacking(chain)
    if not paths:
        return ""
    if not lacking:
        return "Delay and distance to the seat are counted."
    whose = "each speaker" if len(lacking) == len(paths) else ", ".join(lacking)
    return f"Delay and distance aren’t counted: type the distance to the seat of {whose}."


def timing_findings(
    chain: Chain, side: Side, timing: Timing, meetings: dict[tuple[str, str], float]
) -> Iterator[Finding]:
    """Speakers that arrive apart; `meetings` are the hertz where two paths play together, by their ids."""
    if timing.counted:
        yield from _apart_at_the_seat(chain, timing, meetings)
    else:
        yield from _apart_by_delay(chain, side)


def meetings_of_subs(chain: Chain) -> dict[tuple[str, str], float]:
    """The top of the band that two subs of a group share, in hertz."""
    found = {}
    for _, paths in members_of(chain):
        subs = [path for path in paths if is_sub(chain, path)]
        for first, second in combinations(subs, 2):
            tops = [low.corner_hz for sub in (first, second) for low in sub.passes(Pass.LOW)]
            found[first.id, second.id] = min(tops, default=_SUB_TOP_HZ)
    return found


def _together(chain: Chain) -> tuple[Path, ...]:
    """Paths that sound together with another, each once."""
    found = {path.id: path for _, paths in members_of(chain) if len(paths) > 1 for path in paths}
    return tuple(path for path in chain.paths if path.id in found)


def _sides(chain: Chain, path: Path) -> tuple[Side, ...]:
    """The sides whose speakers a path drives apart: of a path that is no pair its one figure is kept as the left's."""
    return tuple(Side) if chain.is_pair(path) else (Side.LEFT,)


def _lacking(chain: Chain) -> tuple[str, ...]:
    """The paths of which a distance isn't known, by name."""
    return tuple(
        named(path) for path in _together(chain) if any(path.distance_of(side) is None for side in _sides(chain, path))
    )


def _flight_ms(path: Path, side: Side) -> float:
    return (path.distance_of(side) or 0.0) / 100 / SOUND_M_S * 1000


def _arrival_s(path: Path, side: Side) -> float:
    return (path.delay_of(side) + _flight_ms(path, side)) / 1000


def _proposal(
    path: Path, sides: tuple[Side, ...], wanted: dict[tuple[str, Side], float], *, settled: bool
) -> DelayProposal:
    own = {side: wanted[path.id, side] for side in sides}
    both = min(own.values())
    alike = len(sides) == 1 or path.distance_of(Side.LEFT) == path.distance_of(Side.RIGHT)
    return DelayProposal(
        path=path.id,
        name=named(path),
        speakers=tuple(
            SpeakerDelay(
                side=None if alike else side,
                distance_cm=path.distance_of(side) or 0.0,
                set_ms=path.delay_of(side),
                wanted_ms=own[side],
                samples=round(own[side] * RATE_HZ / 1000),
            )
            for side in (sides[:1] if alike else sides)
        ),
        delay_ms=both,
        left_ms=round(own.get(Side.LEFT, both) - both, 3),
        right_ms=round(own.get(Side.RIGHT, both) - both, 3),
        settled=settled,
    )


def _apart_by_delay(chain: Chain, side: Side) -> Iterator[Finding]:
    """Delays so far apart that no distance explains them."""
    for name, paths in members_of(chain):
        by_delay = sorted(paths, key=lambda path: path.delay_of(side))
        apart_ms = by_delay[-1].delay_of(side) - by_delay[0].delay_of(side)
        if apart_ms > _APART_MS:
            late, early = by_delay[-1], by_delay[0]
            yield Finding(
                kind=FindingKind.DELAYS_APART,
                about=(late.id, early.id),
                severity=Severity.RISK,
                title=f"{named(late)} is delayed {format_value(apart_ms, 'ms', 3)} more than {named(early)}",
                reason=f"In {name} that is {apart_ms / 1000 * SOUND_M_S:.1f} m of distance. The first notch "
                f"where both play is at {format_hertz(500 / apart_ms)}.",
                remedy="Check the delays, and type each speaker’s distance to the seat.",
                paths=(late.id, early.id),
            )


def _apart_at_the_seat(chain: Chain, timing: Timing, meetings: dict[tuple[str, str], float]) -> Iterator[Finding]:
    """Neighbours of which one arrives more than a quarter of a period after the other."""
    paths = {path.id: path for path in chain.paths}
    for (first, second), hertz in meetings.items():
        apart_s = timing.late_s[first] - timing.late_s[second]
        if abs(apart_s) * hertz <= _LATE_PERIODS or abs(apart_s) * 1000 <= _ALIGNED_MS:
            continue
        late, early = (first, second) if apart_s > 0 else (second, first)
        apart = format_value(abs(apart_s) * 1000, "ms", 2)
        notches = [format_hertz(odd / (2 * abs(apart_s))) for odd in (1, 3, 5)]
        yield Finding(
            kind=FindingKind.ARRIVES_LATE,
            about=(late, early),
            severity=Severity.NOTE,
            title=f"{named(paths[late])} arrives {apart} after {named(paths[early])}",
            reason=f"By delay and distance. Where both play, notches at {', '.join(notches)} and so on.",
            remedy=f"Set the delays as proposed, or {named(paths[early])} later by that.",
            paths=(late, early),
        )
