"""Dials of an amplifier's filters: whether a corner lies on their scale, and where on it."""

import math
from collections.abc import Iterator

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.common.units import format_hertz
from upper_rook.core.crossover.driver_groups import named
from upper_rook.core.signal.filters import Dial
from upper_rook.core.system.path import Path

_ENDS = (-0.02, 1.02)
"""A corner this little beyond the end of a scale is at its end."""


def travel_of(dial: Dial, corner_hz: float) -> float:
    """Fraction of the way up on a logarithmic scale, which may lie beyond its ends."""
    return math.log(corner_hz / dial.lowest_hz / times(dial, corner_hz)) / math.log(dial.highest_hz / dial.lowest_hz)


def times(dial: Dial, corner_hz: float) -> int:
    """Position of a ×1/×10 switch: ten only for a corner beyond the scale as printed."""
    return 10 if dial.times_ten and corner_hz > 1.02 * dial.highest_hz else 1


def is_beyond(travel: float) -> bool:
    """Whether a corner can't be set on its dial."""
    return not _ENDS[0] <= travel <= _ENDS[1]


def dial_findings(path: Path) -> Iterator[Finding]:
    """Corners that their dials don't reach."""
    for place, channel_filter in enumerate(path.filters):
        dial, corner_hz = channel_filter.dial, channel_filter.crossover.corner_hz
        if dial is None or not path.works(channel_filter) or not is_beyond(travel_of(dial, corner_hz)):
            continue
        nearest_hz = dial.lowest_hz if corner_hz < dial.lowest_hz else dial.highest_hz * (10 if dial.times_ten else 1)
        kind = f"{channel_filter.crossover.kind.value}-pass"
        yield Finding(
            kind=FindingKind.DIAL,
            about=(path.id, place),
            severity=Severity.RISK,
            title=f"{named(path)}: the {kind} can’t be set to {format_hertz(corner_hz)}",
            reason=f"Its dial goes from {format_hertz(dial.lowest_hz)} to {format_hertz(dial.highest_hz)}.",
            remedy=f"Plan {format_hertz(nearest_hz)}, the nearest it gives, or use another filter.",
        )
