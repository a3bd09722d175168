"""How loud a path gets with its watts, and what a wanted loudness asks of it."""

import math

from upper_rook.core.common.units import Frozen, format_db, format_value
from upper_rook.core.plan.figures import Figures

PAIR_DB = 20 * math.log10(2)
"""Two equal coherent sources against one."""


class Loudness(Frozen):
    """SPL at 1 m; of a pair left and right together."""

    highest_db: float
    """With the watts that are aimed at."""
    wanted_db: float | None = None
    needed_w: float | None = None
    """Watts of one channel for what is wanted."""
    room_db: float | None = None
    """How far the highest lies above what is wanted; below 0 where it isn't reached."""
    sentence: str


def loudness(figures: Figures, wanted_db: float | None) -> Loudness | None:
    """
    Sensitivity plus 10·log10 of the watts; equal speakers in phase add 10·log10 of their number.

    The other side of a pair has watts of its own: two equal coherent sources add 6.02 dB. None without a sensitivity.
    """
    load = figures.load
    if load.sensitivity_1w_db is None:
        return None
    one_watt_db = load.sensitivity_1w_db + 10 * math.log10(load.count) + (PAIR_DB if figures.is_pair else 0.0)
    highest = one_watt_db + 10 * math.log10(figures.aimed_w)
    both = ", both sides together" if figures.is_pair else ""
    told = f"{format_db(highest, 0)} at 1 m{both}"
    if wanted_db is None:
        return Loudness(highest_db=highest, sentence=f"{told}.")
    needed = 10 ** ((wanted_db - one_watt_db) / 10)
    room = highest - wanted_db
    asked = f"{wanted_db:g} dB need {format_value(needed, 'W', 3)} on a channel"
    end = f"{format_db(room)} of headroom" if room >= 0 else f"{format_db(-room)} are missing"
    return Loudness(
        highest_db=highest, wanted_db=wanted_db, needed_w=needed, room_db=room, sentence=f"{told}; {asked}, {end}."
    )
