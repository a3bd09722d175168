"""The band that a path plays."""

from upper_rook.core.crossover.rules import SUB_TOP_HZ
from upper_rook.core.signal.filters import Pass
from upper_rook.core.system.loads import Band, Load
from upper_rook.core.system.path import Path


def played_band_hz(path: Path, load: Load) -> tuple[float, float]:
    """The band that a path plays by its speakers and its filters; a sub's ends low even where nothing says so."""
    corners = {kind: [crossover.corner_hz for crossover in path.passes(kind)] for kind in Pass}
    top = SUB_TOP_HZ if load.band is Band.SUB else 20_000.0
    return max([load.lowest_hz or 0.0, *corners[Pass.HIGH]]), min([load.highest_hz or top, *corners[Pass.LOW]])
