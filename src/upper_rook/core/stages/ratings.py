"""Choice of the rating that counts: by load, distortion and supply, never by its place in the list."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from upper_rook.core.common.units import format_db, format_value, ratio_db
from upper_rook.core.signal import clipped_sine
from upper_rook.core.system.amplifier import Amplifier, Driven, GainRange, Mode, Rating, ScaleOf

RUNNING_V = 14.4
"""The supply of a running vehicle that makers rate at (CTA-2006, from memory)."""
CLEAN_PERCENT = 1.0
"""The distortion up to which a rating is clean (CTA-2006, from memory)."""
MORE_WHILE_RUNNING = 1.15
"""Most that counts for a supply above the rated one: the trade sees 15 to 20 % (common practice)."""
SAME_LOAD, _SAME_WATTS = 0.02, 0.02
_SAME_SCALE_DB = 0.1
_RUNNING_BAND = (13.4, 15.0)


@dataclass(frozen=True)
class ChannelRating:
    """A rating by what one channel gives and sees."""

    rating: Rating
    watts: float
    ohms: float

    @property
    def is_clean(self) -> bool:
        """Whether the maker doesn't say that it is distorted."""
        return (self.rating.distortion_percent or 0.0) <= CLEAN_PERCENT


def channel_ratings(amplifier: Amplifier) -> list[ChannelRating]:
    """Every rating by what one channel sees: a bridged or strapped one has two channels in it."""
    return [
        ChannelRating(rating, rating.power_w / rating.mode.amplifiers, rating.load_ohm / rating.mode.amplifiers)
        for rating in amplifier.ratings
    ]


def lowest_rated_ohm(amplifier: Amplifier) -> float | None:
    """The least that one channel sees in any rating; None without ratings."""
    return min((rating.ohms for rating in channel_ratings(amplifier)), default=None)


def same_load(value: float, other: float) -> bool:
    """Whether two loads are the same one."""
    return abs(value / other - 1) < SAME_LOAD


def preferred(rows: Iterable[ChannelRating], mode: Mode) -> ChannelRating:
    """Of ratings at one load: the clean one, at running supply, in the mode that is used; of equals the lesser."""

    def order(row: ChannelRating) -> tuple[object, ...]:
        distortion, supply = row.rating.distortion_percent, row.rating.supply_v
        running = 1 if supply is None else 0 if _RUNNING_BAND[0] <= supply <= _RUNNING_BAND[1] else 2
        off = abs((supply or RUNNING_V) - RUNNING_V)
        alone = row.rating.driven is Driven.ONE
        graver = (not row.is_clean, row.rating.mode is not mode, alone, distortion is None, running)
        return *graver, off, distortion or 0.0, row.watts, row.rating.power_w

    return min(rows, key=order)


def scale_volts(
    amplifier: Amplifier, mode: Mode, gain_range: GainRange | None, this_load_v: float
) -> tuple[float, tuple[str, ...]]:
    """
    The full output that the volts printed around a gain mean, and that in words.

    By the sheet's choice those into the load that hangs on it, `this_load_v`, or those of its rating at the highest
    rated load: the gain itself is a ratio of volts and the same at every load.
    """
    rows = channel_ratings(amplifier)
    if gain_range is None or not rows:
        return this_load_v, ()
    highest = max(row.ohms for row in rows)
    row = preferred([row for row in rows if same_load(row.ohms, highest)], mode)
    rated_v = (row.watts * row.ohms) ** 0.5 * mode.amplifiers
    both = {ScaleOf.THIS_LOAD: this_load_v, ScaleOf.RATED_LOAD: rated_v}
    apart_db = abs(ratio_db(rated_v, this_load_v))
    if apart_db < _SAME_SCALE_DB:
        return both[gain_range.scale_of], ()
    ohms = format_value(row.rating.load_ohm, "Ω")
    names = {
        ScaleOf.THIS_LOAD: f"this load’s {format_value(this_load_v, 'V')}",
        ScaleOf.RATED_LOAD: f"the {format_value(rated_v, 'V')} of its rating at {ohms}",
    }
    taken = names.pop(gain_range.scale_of)
    (other,) = names.values()
    return both[gain_range.scale_of], (
        f"its scale means {taken}; meant for {other} the knob would be {format_db(apart_db)} elsewhere",
    )


def supply_factor(amplifier: Amplifier, row: ChannelRating) -> float:
    """By how much the watts change from the rated supply to the running one: by its square where it isn't regulated."""
    supply = row.rating.supply_v
    if supply is None or amplifier.regulated or _RUNNING_BAND[0] <= supply <= _RUNNING_BAND[1]:
        return 1.0
    # A vehicle of another supply (24 V and more) isn't run at 14.4.
    if supply > 1.5 * RUNNING_V:
        return 1.0
    return min((RUNNING_V / supply) ** 2, MORE_WHILE_RUNNING)


def clean_factor(row: ChannelRating) -> float:
    """Part of a rating's watts at 1 % distortion, from the closed form of a clipped sine."""
    distortion = row.rating.distortion_percent
    if distortion is None or row.is_clean:
        return 1.0
    over = np.linspace(0.0, 15.0, 301)
    there = float(np.interp(distortion / 100, clipped_sine.thd(over), over))
    more_db = float(clipped_sine.rms_above_db(there) - clipped_sine.rms_above_db(clipped_sine.EDGE_DB))
    return float(10 ** (-more_db / 10))


def contradiction(amplifier: Amplifier) -> str:
    """Two ratings that can't both be true, in a sentence; empty where there are none."""
    return next(_contradictions(channel_ratings(amplifier)), "")


def _contradictions(rows: list[ChannelRating]) -> Iterator[str]:
    for pair in combinations(sorted(rows, key=lambda row: (row.watts, row.rating.words)), 2):
        less, more = pair
        if less.rating.mode is not more.rating.mode or not same_load(less.ohms, more.ohms):
            continue
        if more.watts <= less.watts * (1 + _SAME_WATTS):
            continue
        # More watts are explained by more distortion or more supply.
        apart = [
            (less.rating.distortion_percent, more.rating.distortion_percent),
            (less.rating.supply_v, more.rating.supply_v),
        ]
        unstated = any((value is None) is not (other is None) for value, other in apart)
        grown = any(value is not None and other is not None and other > value for value, other in apart)
        alone = more.rating.driven is Driven.ONE and less.rating.driven is Driven.ALL
        if not grown and not unstated and not alone:
            yield f"{less.rating.words} and {more.rating.words} can’t both be true"
