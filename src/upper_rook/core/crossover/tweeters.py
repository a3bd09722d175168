"""Tweeters: high-passes that keep the bass away from them, and the speakers beside them."""

import re
from collections.abc import Iterator

import numpy as np

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.common.units import format_db, format_hertz
from upper_rook.core.crossover.driver_groups import members_of, named
from upper_rook.core.crossover.path_responses import capacitor_of
from upper_rook.core.crossover.rules import NEAR
from upper_rook.core.signal.filters import Pass, total_db
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.loads import Band, Load
from upper_rook.core.system.path import Path

_TWEETER_HZ = 1500.0
"""Speakers that begin here are tweeters (common practice, no source)."""
_TWEETER_DB = 9.0
"""So far down an octave below its lowest a tweeter is safe (common practice)."""
_PLAYS_ON = 1.3
"""A range that ends this near to the tweeter’s corner ends without a filter (common practice, no source)."""
_TWEETER_NAMES = re.compile(r"\b(tweeters?|tw|domes?|super[- ]?tweeters?)\b", re.IGNORECASE)


def is_tweeter(load: Load) -> bool:
    """Whether what lies below its range would break it rather than sound poor."""
    return load.band is not Band.SUB and (load.lowest_hz or 0.0) >= _TWEETER_HZ and not load.passive_hz


def may_be_tweeter(path: Path, load: Load) -> bool:
    """Whether speakers of unknown range are called what would break below it."""
    called = f"{path.name} {load.name} {path.id} {load.id}"
    bare = load.lowest_hz is None and not load.passive_hz and not capacitor_of(load)
    return bare and load.band is not Band.SUB and _TWEETER_NAMES.search(called) is not None


def tweeter_findings(path: Path, load: Load) -> Iterator[Finding]:
    """A tweeter without the high-pass that it needs, or one that may be a tweeter without any."""
    if is_tweeter(load):
        yield from _unprotected(path, load)
    elif may_be_tweeter(path, load) and not path.passes(Pass.HIGH):
        yield _unknown(path)


def beside_tweeters(chain: Chain) -> Iterator[Finding]:
    """Speakers without a low-pass that play on beside the tweeter of their group."""
    for _, paths in members_of(chain):
        for tweeter in (path for path in paths if is_tweeter(chain.load_of(path))):
            corner_hz = min((high.corner_hz for high in tweeter.passes(Pass.HIGH)), default=None)
            if corner_hz is None:
                continue
            for path in paths:
                if path is not tweeter and _plays_on(path, chain.load_of(path), corner_hz):
                    yield _no_low_pass(path, tweeter, corner_hz)


def _plays_on(path: Path, load: Load, corner_hz: float) -> bool:
    """Whether nothing ends the speakers of a path where a tweeter begins."""
    ends = path.passes(Pass.LOW) or load.passive_hz or load.band is Band.SUB
    reaches = load.highest_hz is None or load.highest_hz > _PLAYS_ON * corner_hz
    return not ends and reaches and not is_tweeter(load)


def _no_low_pass(path: Path, tweeter: Path, corner_hz: float) -> Finding:
    return Finding(
        kind=FindingKind.NO_LOW_PASS,
        about=(path.id,),
        severity=Severity.RISK,
        title=f"{named(path)}: no low-pass beside {named(tweeter)}",
        reason=f"{named(tweeter)} begins at {format_hertz(corner_hz)}, and {named(path)} plays on above it: "
        "both play the treble, out of step.",
        remedy=f"Set a low-pass at {format_hertz(corner_hz)}.",
        paths=(path.id,),
    )


def _unknown(path: Path) -> Finding:
    return Finding(
        kind=FindingKind.TWEETER_UNKNOWN,
        about=(path.id,),
        severity=Severity.RISK,
        title=f"{named(path)}: a tweeter without a high-pass?",
        reason="Its name says so, and its range isn’t known. Bass breaks a tweeter within seconds.",
        remedy="Type the range from its data sheet. If it is a tweeter, set its high-pass before it plays.",
    )


def _unprotected(path: Path, load: Load) -> Iterator[Finding]:
    """A small dome dies of what lies below its range: corner and slope together have to keep it away."""
    lowest = load.lowest_hz or _TWEETER_HZ
    highs = (*path.passes(Pass.HIGH), *capacitor_of(load))
    down_db = -float(total_db(highs, np.array([lowest / 2]))[0]) if highs else 0.0
    if down_db >= _TWEETER_DB:
        return
    if not highs:
        title, has = "no high-pass before a tweeter", "Nothing keeps the bass away from it"
    else:
        best = max(highs, key=lambda high: high.corner_hz)
        low = best.corner_hz < lowest / NEAR
        title = "high-pass too low for a tweeter" if low else "high-pass too shallow for a tweeter"
        has = f"Its high-pass at {format_hertz(best.corner_hz)} falls {6 * best.order} dB an octave"
    yield Finding(
        kind=FindingKind.TWEETER,
        about=(path.id,),
        severity=Severity.STOP,
        title=f"{named(path)}: {title}",
        reason=f"{has}: at {format_hertz(lowest / 2)}, an octave below its lowest {format_hertz(lowest)}, it is "
        f"only {format_db(down_db, 0)} down; {_TWEETER_DB:g} are wanted.",
        remedy=f"Set a high-pass of 12 dB an octave or more at {format_hertz(lowest)} or above before it plays.",
    )
