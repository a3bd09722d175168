"""Boosts of equaliser and amplifier below what the speakers are made for."""

from collections.abc import Iterator

import numpy as np

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.common.units import format_db, format_hertz
from upper_rook.core.crossover.driver_groups import named
from upper_rook.core.crossover.path_responses import capacitor_of
from upper_rook.core.signal.filters import Complex, equaliser_db, level_db, total_db
from upper_rook.core.signal.grid import GRID_HZ
from upper_rook.core.system.loads import Box, Load
from upper_rook.core.system.path import Path

_BOOST_DB = 3.0
"""So much more than flat below the range moves a cone half as far again (common practice, no source)."""
_BELOW = 1.4
"""Half an octave below the range or the box's tuning."""


def boost_findings(path: Path, load: Load, equaliser: Complex) -> Iterator[Finding]:
    """
    A boost that still lifts what lies half an octave below the speakers' range or their box's tuning.

    `equaliser` is the response of the path's equaliser over GRID_HZ.
    """
    edge_hz = load.tuning_hz if load.box is Box.PORTED and load.tuning_hz else load.lowest_hz
    if edge_hz is None:
        return
    place = int(np.argmin(np.abs(np.log(GRID_HZ * _BELOW / edge_hz))))
    at = GRID_HZ[place : place + 1]
    lifted_db = float(level_db(equaliser[place : place + 1])[0])
    if path.boost:
        lifted_db += float(equaliser_db((path.boost,), at)[0])
    if lifted_db < _BOOST_DB:
        return
    filters = (*(channel_filter.crossover for channel_filter in path.working), *capacitor_of(load))
    left_db = lifted_db + float(total_db(filters, at)[0])
    if left_db < _BOOST_DB:
        return
    what = "the box’s tuning" if edge_hz == load.tuning_hz and load.box is Box.PORTED else "its range"
    yield Finding(
        kind=FindingKind.BOOST_BELOW,
        about=(path.id,),
        severity=Severity.RISK,
        title=f"{named(path)}: boost below {what}",
        reason=f"At {format_hertz(edge_hz / _BELOW)} it is {format_db(left_db, 0)} above flat; {what} begins at "
        f"{format_hertz(edge_hz)}. The cone moves too far there.",
        paths=(path.id,),
        remedy=f"Set a high-pass near {format_hertz(edge_hz)}, or move or lower the boost.",
    )
