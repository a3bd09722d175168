"""Volts that a load takes from an amplifier's rails: open terminals stay clean further up."""

from upper_rook.core.common.units import ratio_db
from upper_rook.core.stages.ratings import ChannelRating, channel_ratings, preferred, same_load
from upper_rook.core.system.amplifier import Amplifier, Driven, Mode

USUAL_DB = 0.5
"""For an amplifier with one rating (common practice, no source)."""
_MOST_DB = 3.0


def rail_ohm(amplifier: Amplifier, mode: Mode) -> float | None:
    """
    Resistance behind the rails of one channel while all of the chassis are driven; None where no ratings tell it.

    A rail E behind r gives V = E·R/(R + r), so two ratings at unlike loads give r: 17.3 V into 4 Ω and 15.5 V into 2 Ω
    mean 0.54 Ω. A resistance that n channels share counts n times once all are driven. Where only one channel was
    driven, all that is behind its rails is taken for shared; at one load, one channel alone and all give that part.
    """
    rows = [row for row in channel_ratings(amplifier) if row.is_clean]
    every = [row for row in rows if row.rating.driven is Driven.ALL]
    single = [row for row in rows if row.rating.driven is Driven.ONE]
    behind = _by_loads(every, mode)
    if behind is not None:
        return behind
    shared = _by_channels(every, single, mode, amplifier.all_channels)
    if shared is not None:
        return shared
    alone = _by_loads(single, mode)
    return None if alone is None else amplifier.all_channels * alone


def load_takes_db(amplifier: Amplifier, mode: Mode, channel_ohm: float) -> float:
    """How much lower an amplifier clips with its loads than with nothing at its terminals, in decibels."""
    behind = rail_ohm(amplifier, mode)
    return USUAL_DB if behind is None else min(_MOST_DB, ratio_db(channel_ohm + behind, channel_ohm))


def _by_loads(rows: list[ChannelRating], mode: Mode) -> float | None:
    """From the ratings at the highest and the lowest load; None with one load."""
    if not rows:
        return None
    light, heavy = (_at(rows, most([row.ohms for row in rows]), mode) for most in (max, min))
    if same_load(light.ohms, heavy.ohms):
        return None
    light_v, heavy_v = _volts(light), _volts(heavy)
    fall = heavy_v / heavy.ohms - light_v / light.ohms
    return max(0.0, (light_v - heavy_v) / fall) if fall > 0 else 0.0


def _by_channels(every: list[ChannelRating], single: list[ChannelRating], mode: Mode, channels: int) -> float | None:
    """
    From one load with one channel and with all of them driven: E·R/(R + s) and E·R/(R + n·s) give n·s.

    None where the two don't go together.
    """
    pairs = [(rating, other) for rating in single for other in every if same_load(rating.ohms, other.ohms)]
    if not pairs or channels < 2:
        return None
    alone, together = pairs[0]
    alone_v, together_v = _volts(alone), _volts(_at(every, together.ohms, mode))
    rest = channels * together_v - alone_v
    return channels * alone.ohms * max(0.0, alone_v - together_v) / rest if rest > 0 else None


def _volts(row: ChannelRating) -> float:
    return float((row.watts * row.ohms) ** 0.5)


def _at(rows: list[ChannelRating], ohms: float, mode: Mode) -> ChannelRating:
    return preferred([row for row in rows if same_load(row.ohms, ohms)], mode)
