"""Volts that a load takes from an amplifier's rails: open terminals stay clean further up."""

from upper_rook.core.common.units import ratio_db
from upper_rook.core.stages.ratings import ChannelRating, channel_ratings, preferred, same_load
from upper_rook.core.system.amplifier import Amplifier, Mode

USUAL_DB = 0.5
"""For an amplifier with one rating (common practice, no source)."""
_MOST_DB = 3.0


def rail_ohm(amplifier: Amplifier, mode: Mode) -> float | None:
    """
    Resistance behind the rails of one channel, from its ratings at the highest and the lowest load; None with one load.

    A rail E behind r gives V = E·R/(R + r): 17.3 V into 4 Ω and 15.5 V into 2 Ω mean 0.54 Ω.
    """
    rows = [row for row in channel_ratings(amplifier) if row.is_clean]
    if not rows:
        return None
    light, heavy = (_at(rows, most([row.ohms for row in rows]), mode) for most in (max, min))
    if same_load(light.ohms, heavy.ohms):
        return None
    light_v, heavy_v = ((row.watts * row.ohms) ** 0.5 for row in (light, heavy))
    fall = heavy_v / heavy.ohms - light_v / light.ohms
    return max(0.0, (light_v - heavy_v) / fall) if fall > 0 else 0.0


def load_takes_db(amplifier: Amplifier, mode: Mode, channel_ohm: float) -> float:
    """How much lower an amplifier clips with its load than with nothing at its terminals, in decibels."""
    behind = rail_ohm(amplifier, mode)
    return USUAL_DB if behind is None else min(_MOST_DB, ratio_db(channel_ohm + behind, channel_ohm))


def _at(rows: list[ChannelRating], ohms: float, mode: Mode) -> ChannelRating:
    return preferred([row for row in rows if same_load(row.ohms, ohms)], mode)
