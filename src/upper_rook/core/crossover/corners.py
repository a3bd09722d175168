"""Crossovers: for each corner what to play, how loud, which ratio and which way to turn; and every response."""

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.finding import Finding, ranked
from upper_rook.core.common.units import Frozen, Hertz, Key, format_hertz, format_signed
from upper_rook.core.crossover.boosts import boost_findings
from upper_rook.core.crossover.corner_findings import crossover_findings
from upper_rook.core.crossover.dials import is_beyond, times, travel_of
from upper_rook.core.crossover.driver_groups import as_grouped, named
from upper_rook.core.crossover.groups import Group, beside, groups, holes, meetings_of, uneven
from upper_rook.core.crossover.offers import offers
from upper_rook.core.crossover.path_responses import PathResponses, responses_of
from upper_rook.core.crossover.proposals import Proposal
from upper_rook.core.crossover.timing import (
    DelayProposal,
    delay_proposals,
    delays_note,
    meetings_of_subs,
    timing_findings,
)
from upper_rook.core.signal.filters import ChannelFilter, FilterPlace, Pass, equaliser_db, total_db
from upper_rook.core.signal.grid import GRID_HZ
from upper_rook.core.signal.tones import Tone
from upper_rook.core.stages.knob import o_clock
from upper_rook.core.stages.shape import Shape
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.clean_maxima import CleanMaxima, PathCleanMaximum
from upper_rook.core.system.clean_maximum import fallback_volume
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.path import Path
from upper_rook.core.system.playing import Side

DIAL_DOUBT_OCTAVES = 1 / 3
"""How far a printed filter scale may be off (common practice, no source)."""

_FLOOR_DB = -80.0


class CornerPlan(Frozen):
    """How one filter is set by voltage."""

    path: Key
    name: str
    """The filter in words."""
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
    groups: tuple[Group, ...]
    """Sums of several paths, as if every speaker were equally loud in its band."""
    corners: tuple[CornerPlan, ...]
    proposals: tuple[Proposal, ...]
    findings: tuple[Finding, ...]
    delays: tuple[DelayProposal, ...] = ()
    """Delays that align the speakers, none while a distance is missing."""
    delays_note: str = ""
    """Whether the sums count delays, in a sentence."""


def crossover_plan(sheet: JobSheet, clean_maxima: CleanMaxima, shaped: Sequence[Shape]) -> CrossoverPlan:
    """The plan of every filter of `sheet`; `shaped` is what happens to each path before its amplifier."""
    chain, questions = as_grouped(sheet.chain)
    shown = slice(None, None, 2)
    curves = [_shape_db(path, shape, shown) for path, shape in zip(chain.paths, shaped, strict=True)]
    rounded = np.round(np.maximum(curves, _FLOOR_DB), 2).tolist()
    equalisers = [shape.equaliser[shown] for shape in shaped]
    voices = responses_of(chain, equalisers, GRID_HZ[shown])
    found = groups(chain, voices)
    sums = _together(chain, voices, found, Side.LEFT)
    if any(_differs(path) for path in chain.paths):
        right = responses_of(chain, equalisers, GRID_HZ[shown], Side.RIGHT)
        sums = _of_sides(sums, _together(chain, right, groups(chain, right), Side.RIGHT))
    boosts = [
        finding
        for path, shape in zip(chain.paths, shaped, strict=True)
        for finding in boost_findings(path, chain.load_of(path), shape.equaliser)
    ]
    return CrossoverPlan(
        frequencies_hz=tuple(np.round(GRID_HZ[shown], 2).tolist()),
        responses=tuple(
            Response(path=path.id, name=named(path), level_db=tuple(level))
            for path, level in zip(chain.paths, rounded, strict=True)
        ),
        groups=found,
        corners=tuple(
            corner_plan(chain, path, channel_filter, clean_maxima.of_path(chain, path))
            for path in chain.paths
            for channel_filter in path.working
        ),
        delays=delay_proposals(chain),
        delays_note=delays_note(chain),
        proposals=offers(sheet.chain, chain, sheet.choices, voices, found),
        findings=ranked((*crossover_findings(chain), *boosts, *sums, *questions)),
    )


def _differs(path: Path) -> bool:
    """Whether left and right of a path are out of step with each other."""
    left, right = ((path.delay_of(side), path.distance_of(side), path.inverted_of(side)) for side in Side)
    return left != right


def _together(chain: Chain, voices: PathResponses, found: tuple[Group, ...], side: Side) -> list[Finding]:
    """Findings about the sums of one side."""
    meetings = meetings_of(found) | meetings_of_subs(chain)
    sums = [*uneven(found), *beside(chain, voices.responses)]
    if voices.timing.counted:
        sums += holes(found)
    return [*sums, *timing_findings(chain, side, voices.timing, meetings)]


def _of_sides(left: list[Finding], right: list[Finding]) -> list[Finding]:
    """Findings of both sides as they are; a finding of one side carries the name of the side."""
    alike = {(finding.title, finding.reason) for finding in left} & {
        (finding.title, finding.reason) for finding in right
    }
    told = [finding for finding in left if (finding.title, finding.reason) in alike]
    for side, found in ((Side.LEFT, left), (Side.RIGHT, right)):
        told += [
            finding.model_copy(
                update={"key": f"{finding.key}.{side.value}", "title": f"{finding.title} on the {side.value} side"}
            )
            for finding in found
            if (finding.title, finding.reason) not in alike
        ]
    return told


def _shape_db(path: Path, shape: Shape, shown: slice) -> NDArray[np.float64]:
    """Everything that shapes a path. Channel gains don't: they are levels to be set."""
    on_amplifier = (
        channel_filter.crossover for channel_filter in path.working if channel_filter.place is FilterPlace.AMPLIFIER
    )
    level = total_db(on_amplifier, GRID_HZ[shown]) + shape.level_db[shown] - path.gain_db
    return level + equaliser_db((path.boost,), GRID_HZ[shown]) if path.boost else level


def corner_plan(
    chain: Chain, path: Path, channel_filter: ChannelFilter, clean_maximum: PathCleanMaximum | None
) -> CornerPlan:
    """How a filter of `path`, with its depth as the method takes it, is set by voltage."""
    crossover = channel_filter.crossover
    top = clean_maximum.volume if clean_maximum else fallback_volume(chain.source_of(path).top_volume)
    hertz = format_hertz(crossover.corner_hz)
    slope = 6 * crossover.order
    travel = travel_of(channel_filter.dial, crossover.corner_hz) if channel_filter.dial else None
    return CornerPlan(
        path=path.id,
        name=f"{named(path)} {crossover.kind.value}-pass, {hertz}, {slope} dB an octave",
        kind=crossover.kind,
        frequency_hz=crossover.corner_hz,
        play=Tone(frequency_hz=crossover.corner_hz).label,
        volume=math.floor(top * 2 / 3),
        ratio=crossover.ratio,
        marked_db=crossover.marked_db,
        turn=_turn(channel_filter),
        dial=_dial_sentence(channel_filter, travel),
        travel=travel,
        because=(
            f"filter open, {hertz} playing: save the volts",
            f"× {crossover.ratio:.3f} for {format_signed(crossover.marked_db, 1)} dB at the corner",
            f"volume {math.floor(top * 2 / 3)}: two thirds of {top}, so that nothing clips",
        ),
    )


def _turn(channel_filter: ChannelFilter) -> str:
    if channel_filter.dial is None and channel_filter.place is not FilterPlace.AMPLIFIER:
        return "Then set the filter by its number and read the volts."
    start, way = ("down", "up") if channel_filter.crossover.kind is Pass.HIGH else ("up", "down")
    return f"Then turn it {way} from fully {start} until the meter shows the target."


def _dial_sentence(channel_filter: ChannelFilter, travel: float | None) -> str:
    if travel is None or channel_filter.dial is None:
        return (
            "Scale not known. Go by the meter."
            if channel_filter.place is FilterPlace.AMPLIFIER
            else "The filter may differ from its number. Go by the meter."
        )
    switch = (
        f"Switch at ×{times(channel_filter.dial, channel_filter.crossover.corner_hz)}. "
        if channel_filter.dial.times_ten
        else ""
    )
    dial = channel_filter.dial
    ends = f"its scale from {format_hertz(dial.lowest_hz)} to {format_hertz(dial.highest_hz)}"
    if is_beyond(travel):
        hint = "use another filter" if channel_filter.dial.times_ten else "look for a ×10 switch, or use another filter"
        return f"Beyond {ends}: {hint}."
    low, high = (channel_filter.crossover.corner_hz * 2 ** (way * DIAL_DOUBT_OCTAVES) for way in (-1, 1))
    return (
        f"{switch}Usually about {o_clock(min(1.0, max(0.0, travel)))} on {ends} "
        f"({format_hertz(low, 2)} to {format_hertz(high, 2)}). Go by the meter."
    )
