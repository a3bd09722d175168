"""Whether the bands fit: gaps, overlaps, stacked filters, filters that leave nothing, drivers out of their range."""

import math
from itertools import pairwise

import numpy as np

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.common.units import format_db, format_hertz
from upper_rook.core.crossover.coverage import coverage_findings
from upper_rook.core.crossover.dials import dial_findings
from upper_rook.core.crossover.driver_groups import named
from upper_rook.core.crossover.neighbours import neighbour_findings
from upper_rook.core.crossover.rules import BELOW_TUNING, LOWEST_SUBSONIC, NEAR
from upper_rook.core.crossover.tweeters import beside_tweeters, is_tweeter, may_be_tweeter, tweeter_findings
from upper_rook.core.signal.filters import ChannelFilter, Pass, total_db
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.loads import Box, Load
from upper_rook.core.system.path import Path

_STACKED_OCTAVES = 2.0
_TAKEN_FOR_ALL = (60.0, 15_000.0)
"""A range that reaches beyond these needs no filter for its own sake."""


def crossover_findings(chain: Chain) -> list[Finding]:
    """Findings about corners, path by path and between neighbours."""
    findings = []
    for path in chain.paths:
        findings += [finding.model_copy(update={"paths": (path.id,)}) for finding in _path_findings(chain, path)]
    return [*findings, *neighbour_findings(chain), *coverage_findings(chain), *beside_tweeters(chain)]


def _path_findings(chain: Chain, path: Path) -> list[Finding]:
    load, name, findings = chain.load_of(path), named(path), []
    for kind in Pass:
        same = sorted(
            (channel_filter for channel_filter in path.working if channel_filter.crossover.kind is kind),
            key=lambda channel_filter: channel_filter.crossover.corner_hz,
        )
        for lower, higher in pairwise(same):
            apart = math.log2(higher.crossover.corner_hz / lower.crossover.corner_hz)
            if apart < _STACKED_OCTAVES and not (kind is Pass.HIGH and load.box is Box.PORTED):
                findings.append(_stacked(path, kind, lower, higher))
    highs = [high.corner_hz for high in path.passes(Pass.HIGH)]
    lows = [low.corner_hz for low in path.passes(Pass.LOW)]
    if highs and lows and max(highs) >= min(lows):
        findings.append(
            Finding(
                kind=FindingKind.NOTHING_LEFT,
                about=(path.id,),
                severity=Severity.STOP,
                title=f"{name}: the filters block everything",
                reason=f"A high-pass at {format_hertz(max(highs))} above a low-pass at {format_hertz(min(lows))}.",
                remedy="Swap the two, or remove one.",
            )
        )
    findings += [*_range_findings(chain, path, highs, lows), *dial_findings(path)]
    findings += _passive(path, load, highs, lows)
    if load.box is Box.PORTED:
        findings += _ported(path, load.tuning_hz, highs)
    return findings


def _stacked(path: Path, kind: Pass, lower: ChannelFilter, higher: ChannelFilter) -> Finding:
    both = lower.place is not higher.place
    middle = higher.crossover.corner_hz if kind is Pass.HIGH else lower.crossover.corner_hz
    down = float(total_db([lower.crossover, higher.crossover], np.array([middle]))[0])
    return Finding(
        kind=FindingKind.STACKED,
        about=(kind.value, path.id),
        severity=Severity.RISK,
        title=f"{named(path)}: two {kind.value}-pass filters stacked",
        reason=f"{format_hertz(lower.crossover.corner_hz)} and {format_hertz(higher.crossover.corner_hz)}"
        + (" in processor and amplifier" if both else "")
        + f": {format_db(-down)} down at {format_hertz(middle)} instead of {-higher.crossover.marked_db:.1f}.",
        remedy="Leave one of them wide open.",
    )


def _passive(path: Path, load: Load, highs: list[float], lows: list[float]) -> list[Finding]:
    """Active corners against the passive crossover that comes after them."""
    findings, name = [], named(path)
    for split in load.passive_hz:
        if min(lows, default=math.inf) <= split or max(highs, default=0.0) >= split:
            corner = min(lows) if min(lows, default=math.inf) <= split else max(highs)
            starved = "above" if corner in lows else "below"
            findings.append(
                Finding(
                    kind=FindingKind.STARVED,
                    about=(path.id,),
                    severity=Severity.STOP,
                    title=f"{name}: no signal for the driver {starved} its passive crossover",
                    reason=f"The active filter at {format_hertz(corner)} removes the band that the passive one at "
                    f"{format_hertz(split)} passes.",
                    remedy="Move the active corner past it, or open it.",
                )
            )
            continue
        near = [value for value in (*highs, *lows) if abs(math.log2(value / split)) < 1]
        if near:
            findings.append(
                Finding(
                    kind=FindingKind.NEAR_PASSIVE,
                    about=(path.id,),
                    severity=Severity.RISK,
                    title=f"{name}: active and passive filters close together",
                    reason=f"{format_hertz(near[0])} active, {format_hertz(split)} passive: both act there.",
                    remedy="Keep them an octave apart.",
                )
            )
    return findings


def _range_findings(chain: Chain, path: Path, highs: list[float], lows: list[float]) -> list[Finding]:
    """Whether the speakers are asked for more than their data sheet gives."""
    load = chain.load_of(path)
    findings: list[Finding] = []
    if is_tweeter(load) or may_be_tweeter(path, load):
        findings += tweeter_findings(path, load)
    elif load.lowest_hz and load.lowest_hz > _TAKEN_FOR_ALL[0] and max(highs, default=0.0) < load.lowest_hz / NEAR:
        findings.append(_beyond(path, "below", load.lowest_hz, max(highs, default=None)))
    if load.highest_hz and load.highest_hz < _TAKEN_FOR_ALL[1] and min(lows, default=20_000.0) > load.highest_hz * NEAR:
        findings.append(_beyond(path, "above", load.highest_hz, min(lows, default=None)))
    return findings


def _beyond(path: Path, where: str, edge_hz: float, corner_hz: float | None) -> Finding:
    below = where == "below"
    kind, made = ("high-pass", "and up") if below else ("low-pass", "and down")
    has = f"its {kind} is at {format_hertz(corner_hz)}" if corner_hz else f"it has no {kind}"
    return Finding(
        kind=FindingKind.BELOW_RANGE if below else FindingKind.ABOVE_RANGE,
        about=(path.id,),
        # Too low moves a cone too far; too high only sounds poor.
        severity=Severity.RISK if below else Severity.NOTE,
        title=f"{named(path)}: asked to play {where} its range",
        reason=f"Made for {format_hertz(edge_hz)} {made}; {has}.",
        remedy=f"Set a {kind} at {format_hertz(edge_hz)} or {'above' if below else 'below'}.",
    )


def _ported(path: Path, tuning_hz: float | None, highs: list[float]) -> list[Finding]:
    below = f"below its tuning of {format_hertz(tuning_hz)}" if tuning_hz else "below its tuning"
    subsonic = max((high for high in highs if high < 60), default=None)
    if subsonic is None:
        return [
            Finding(
                kind=FindingKind.NO_SUBSONIC,
                about=(path.id,),
                severity=Severity.RISK,
                title=f"{named(path)}: no subsonic filter on a ported box",
                reason=f"{below[0].upper() + below[1:]} the cone is unloaded and moves too far.",
                remedy="Set a subsonic filter somewhat below the tuning.",
            )
        ]
    if tuning_hz and subsonic > tuning_hz:
        return [
            Finding(
                kind=FindingKind.SUBSONIC_HIGH,
                about=(path.id,),
                severity=Severity.NOTE,
                title=f"{named(path)}: subsonic filter above the box’s tuning",
                reason=f"{format_hertz(subsonic)} against {format_hertz(tuning_hz)}: it cuts the port’s output.",
                remedy=f"Set it somewhat below {format_hertz(tuning_hz)}.",
            )
        ]
    if tuning_hz and subsonic < LOWEST_SUBSONIC * tuning_hz:
        return [
            Finding(
                kind=FindingKind.SUBSONIC_LOW,
                about=(path.id,),
                severity=Severity.RISK,
                title=f"{named(path)}: subsonic filter far below the box’s tuning",
                reason=f"{format_hertz(subsonic)} against {format_hertz(tuning_hz)}: between them the cone is "
                "unloaded and moves too far.",
                remedy=f"Set it somewhat below {format_hertz(tuning_hz)}, about "
                f"{format_hertz(BELOW_TUNING * tuning_hz, 2)}.",
            )
        ]
    return []
