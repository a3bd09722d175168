"""
Crossovers: for each corner what to play, how loud, which ratio and which way to turn; and whether the bands fit.

The responses of all paths are drawn on one grid. What can be told before a wire is touched: gaps and overlaps between
neighbours, two filters stacked, filters that leave nothing, a driver asked for more than its range.
"""

import math
from collections.abc import Mapping
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.ceiling import Ceiling, fallback_volume
from upper_rook.core.chain import Chain, Path
from upper_rook.core.filters import ChannelFilter, Dial, FilterPlace, Pass, total_db
from upper_rook.core.findings import Finding, Severity
from upper_rook.core.knob import o_clock
from upper_rook.core.levels import GRID_HZ, band_of
from upper_rook.core.loads import Band, Box
from upper_rook.core.tones import Tone
from upper_rook.core.units import Frozen, Hertz, Key, format_hertz, format_value

DIAL_DOUBT_OCTAVES = 1 / 3
"""How far a printed filter scale may be off (common practice, no source)."""
GAP_OCTAVES = 0.35
OVERLAP_OCTAVES = 1.2
_STACKED_OCTAVES = 2.0
_NEAR = 1.06
"""A corner this near to an edge is at it."""
_TAKEN_FOR_ALL = (60.0, 15_000.0)
"""A range that reaches beyond these needs no filter for its own sake."""


class CornerPlan(Frozen):
    """How one filter is set by voltage."""

    path: Key
    name: str
    """Which filter, in words."""
    kind: Pass
    frequency_hz: float
    play: str
    volume: int
    """Volume number to turn down to: two thirds of the clean maximum."""
    ratio: float
    marked_db: float
    turn: str
    dial: str
    """Where to expect the knob."""
    travel: float | None = None
    because: tuple[str, ...] = ()


class Response(Frozen):
    """A path's filters and equaliser together, over a grid of frequencies."""

    path: Key
    name: str
    level_db: tuple[float, ...]


class CrossoverPlan(Frozen):
    """Everything about the crossovers of a system."""

    frequencies_hz: tuple[Hertz, ...]
    responses: tuple[Response, ...]
    corners: tuple[CornerPlan, ...]
    findings: tuple[Finding, ...]


def crossover_plan(
    chain: Chain, ceiling: Ceiling | None, composites: Mapping[str, NDArray[np.float64]]
) -> CrossoverPlan:
    """The plan of every filter in `chain`; `composites` is what the processor does to each path, over GRID_HZ."""
    shown = slice(None, None, 2)
    responses = []
    for path in chain.paths:
        on_amplifier = (one.crossover for one in path.filters if one.place is FilterPlace.AMPLIFIER)
        # Channel gains are levels to be set, not shape.
        level = total_db(on_amplifier, GRID_HZ[shown]) + composites[path.id][shown] - path.channel_gain_db
        responses.append(
            Response(path=path.id, name=_name(path), level_db=tuple(np.round(np.maximum(level, -80), 2).tolist()))
        )
    return CrossoverPlan(
        frequencies_hz=tuple(np.round(GRID_HZ[shown], 2).tolist()),
        responses=tuple(responses),
        corners=tuple(_corner(chain, path, one, ceiling) for path in chain.paths for one in path.filters),
        findings=tuple(sorted(_findings(chain), key=lambda one: list(Severity).index(one.severity))),
    )


def _name(path: Path) -> str:
    return path.name or "Speakers"


def _corner(chain: Chain, path: Path, one: ChannelFilter, ceiling: Ceiling | None) -> CornerPlan:
    crossover = one.crossover
    high = crossover.kind is Pass.HIGH
    top = ceiling.volume if ceiling else fallback_volume(chain.source_of(path).top_volume)
    hertz = format_hertz(crossover.corner_hz)
    slope = 6 * crossover.order
    travel = _travel(one.dial, crossover.corner_hz) if one.dial else None
    return CornerPlan(
        path=path.id,
        name=f"{_name(path)} {'high' if high else 'low'}-pass, {hertz}, {slope} dB an octave",
        kind=crossover.kind,
        frequency_hz=crossover.corner_hz,
        play=Tone(frequency_hz=crossover.corner_hz).label,
        volume=math.floor(top * 2 / 3),
        ratio=crossover.ratio,
        marked_db=crossover.marked_db,
        turn="From fully down, turn up until the volts have fallen to that."
        if high
        else "From fully up, turn down until the volts have fallen to that.",
        dial=_dial_sentence(one, travel),
        travel=travel,
        because=(
            f"filter open, {hertz} playing: note the volts",
            f"× {crossover.ratio:.3f} for {crossover.marked_db:.1f} dB at the corner",
            f"volume {math.floor(top * 2 / 3)}: two thirds of {top}, so that nothing clips",
        ),
    )


def _travel(dial: Dial, corner_hz: float) -> float:
    """Fraction of the way up on a logarithmic scale, which may lie beyond its ends."""
    return math.log(corner_hz / dial.lowest_hz) / math.log(dial.highest_hz / dial.lowest_hz)


def _dial_sentence(one: ChannelFilter, travel: float | None) -> str:
    if travel is None or one.dial is None:
        return "Set by number; check it by voltage."
    ends = f"its scale from {format_hertz(one.dial.lowest_hz)} to {format_hertz(one.dial.highest_hz)}"
    if not -0.02 <= travel <= 1.02:
        return f"Beyond {ends}: look for a ×10 switch, or use another filter."
    low, high = (one.crossover.corner_hz * 2 ** (way * DIAL_DOUBT_OCTAVES) for way in (-1, 1))
    return (
        f"Expect it about {o_clock(min(1.0, max(0.0, travel)))} on {ends}; "
        f"scales are rough, so anywhere from {format_hertz(low, 2)} to {format_hertz(high, 2)}."
    )


def _findings(chain: Chain) -> list[Finding]:
    found = []
    for path in chain.paths:
        found += _path_findings(chain, path)
    return [*found, *_neighbours(chain)]


def _path_findings(chain: Chain, path: Path) -> list[Finding]:
    load, name, found = chain.load_of(path), _name(path), []
    for kind in Pass:
        same = sorted(
            (one for one in path.filters if one.crossover.kind is kind), key=lambda one: one.crossover.corner_hz
        )
        for lower, higher in pairwise(same):
            apart = math.log2(higher.crossover.corner_hz / lower.crossover.corner_hz)
            if apart < _STACKED_OCTAVES and not (kind is Pass.HIGH and load.box is Box.PORTED):
                found.append(_stacked(path, kind, lower, higher))
    highs = [one.crossover.corner_hz for one in path.filters if one.crossover.kind is Pass.HIGH]
    lows = [one.crossover.corner_hz for one in path.filters if one.crossover.kind is Pass.LOW]
    if highs and lows and max(highs) >= min(lows):
        found.append(
            Finding(
                key=f"nothing-left-{path.id}"[:40],
                severity=Severity.STOP,
                title=f"{name}: the filters leave nothing",
                reason=f"A high-pass at {format_hertz(max(highs))} above a low-pass at {format_hertz(min(lows))}.",
                remedy="Swap the two, or take one of them out.",
            )
        )
    found += _range_findings(chain, path, highs, lows)
    if load.box is Box.PORTED:
        found += _ported(path, load.tuning_hz, highs)
    return found


def _stacked(path: Path, kind: Pass, lower: ChannelFilter, higher: ChannelFilter) -> Finding:
    both = lower.place is not higher.place
    middle = higher.crossover.corner_hz if kind is Pass.HIGH else lower.crossover.corner_hz
    down = float(total_db([lower.crossover, higher.crossover], np.array([middle]))[0])
    return Finding(
        key=f"stacked-{kind.value}-{path.id}"[:40],
        severity=Severity.RISK,
        title=f"{_name(path)}: two {kind.value}-pass filters stacked",
        reason=f"{format_hertz(lower.crossover.corner_hz)} and {format_hertz(higher.crossover.corner_hz)}"
        + (" in processor and amplifier" if both else "")
        + f": {-down:.1f} dB down at {format_hertz(middle)} instead of {-higher.crossover.marked_db:.1f}.",
        remedy="Leave one of them wide open.",
    )


def _range_findings(chain: Chain, path: Path, highs: list[float], lows: list[float]) -> list[Finding]:
    """Whether the speakers are asked for more than their data sheet gives."""
    load, found = chain.load_of(path), []
    if load.lowest_hz and load.lowest_hz > _TAKEN_FOR_ALL[0] and max(highs, default=0.0) < load.lowest_hz / _NEAR:
        found.append(_beyond(path, "below", load.lowest_hz, max(highs, default=None)))
    if (
        load.highest_hz
        and load.highest_hz < _TAKEN_FOR_ALL[1]
        and min(lows, default=20_000.0) > load.highest_hz * _NEAR
    ):
        found.append(_beyond(path, "above", load.highest_hz, min(lows, default=None)))
    return found


def _beyond(path: Path, where: str, edge_hz: float, corner_hz: float | None) -> Finding:
    below = where == "below"
    kind, made = ("high-pass", "and up") if below else ("low-pass", "and down")
    has = f"its {kind} is at {format_hertz(corner_hz)}" if corner_hz else f"it has no {kind}"
    return Finding(
        key=f"{where}-range-{path.id}"[:40],
        # Too low moves a cone too far; too high only sounds poor.
        severity=Severity.RISK if below else Severity.NOTE,
        title=f"{_name(path)}: asked to play {where} its range",
        reason=f"Made for {format_hertz(edge_hz)} {made}; {has}.",
        remedy=f"Set a {kind} at {format_hertz(edge_hz)} or {'above' if below else 'below'}.",
    )


def _ported(path: Path, tuning_hz: float | None, highs: list[float]) -> list[Finding]:
    below = f"below its tuning of {format_hertz(tuning_hz)}" if tuning_hz else "below its tuning"
    subsonic = max((one for one in highs if one < 60), default=None)
    if subsonic is None:
        return [
            Finding(
                key=f"no-subsonic-{path.id}"[:40],
                severity=Severity.RISK,
                title=f"{_name(path)}: no subsonic filter on a ported box",
                reason=f"{below[0].upper() + below[1:]} the cone has nothing to push against and moves too far.",
                remedy="Set a subsonic filter somewhat below the tuning.",
            )
        ]
    if tuning_hz and subsonic > tuning_hz:
        return [
            Finding(
                key=f"subsonic-high-{path.id}"[:40],
                severity=Severity.NOTE,
                title=f"{_name(path)}: subsonic filter above the box's tuning",
                reason=f"{format_hertz(subsonic)} against {format_hertz(tuning_hz)}: it takes off what the port gives.",
                remedy=f"Set it somewhat below {format_hertz(tuning_hz)}.",
            )
        ]
    return []


def _neighbours(chain: Chain) -> list[Finding]:
    """Gaps and overlaps between bands that lie next to each other."""
    filtered = [path for path in chain.paths if path.filters]
    if len(filtered) < 2:
        return []
    rows = [(*band_of(path, chain.load_of(path)), _name(path), path) for path in filtered]
    bands = sorted(rows, key=lambda row: row[:2])
    found = []
    for (_, high, lower, one), (low, upper_high, upper, other) in pairwise(bands):
        if upper_high <= high or chain.load_of(other).band is Band.SUB:
            # Beside each other, not above: front and rear.
            continue
        apart = math.log2(low / high)
        if apart > GAP_OCTAVES:
            found.append(
                Finding(
                    key=f"gap-{one.id}-{other.id}"[:40],
                    severity=Severity.RISK,
                    title=f"A gap between {lower} and {upper}",
                    reason=f"{lower} ends at {format_hertz(high)}, {upper} begins at {format_hertz(low)}: "
                    f"{apart:.1f} octaves that nobody plays.",
                    remedy="Move one of the two corners.",
                )
            )
        elif -apart > OVERLAP_OCTAVES:
            found.append(
                Finding(
                    key=f"overlap-{one.id}-{other.id}"[:40],
                    severity=Severity.NOTE,
                    title=f"{lower} and {upper} overlap widely",
                    reason=f"Both play from {format_hertz(low)} to {format_hertz(high)}: "
                    f"{format_value(-apart, 'octaves', 2)}, louder there by up to 6 dB.",
                    remedy="A little overlap forgives rough scales; this much is heard.",
                )
            )
    return found
