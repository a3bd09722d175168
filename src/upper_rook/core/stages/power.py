"""Power of an amplifier into a given load."""

from upper_rook.core.common.errors import Lacking
from upper_rook.core.common.units import Frozen, format_value
from upper_rook.core.stages.ratings import (
    CLEAN_PERCENT,
    RUNNING_V,
    ChannelRating,
    channel_ratings,
    clean_factor,
    preferred,
    same_load,
    supply_factor,
)
from upper_rook.core.system.amplifier import Amplifier, Driven, Mode


class Power(Frozen):
    """Watts an amplifier is good for into a load, and whether the maker says so."""

    power_w: float
    estimated: bool
    """Whether no rating is made for this load and mode."""
    because: str
    below_rated: bool = False
    """Whether the load lies below every rated one."""
    chosen: str = ""
    """Rating that counts at the load, and the reason."""
    corrected: str = ""
    """Changes to the rating's watts, and their reasons."""
    distorted_percent: float | None = None
    """The distortion of the rating, where the maker states no clean one at this load."""
    supply_v: float | None = None
    """The supply of the rating it rests on."""
    one_driven: bool = False
    """Whether the rating holds for one channel alone, of several that share a supply."""


def amplifier_power(amplifier: Amplifier, mode: Mode, load_ohm: float) -> Power:
    """
    Watts that `amplifier` is good for into `load_ohm` at the terminals of `mode`, clean and while running.

    Ratings are compared by what one channel sees: a bridged pair, and two strapped amplifiers, split the load in two.
    Where the load lies above a rated one the same voltage is counted on, where it lies below every rated one no more
    than the same watts. Raises Lacking without any rating.
    """
    rows = channel_ratings(amplifier)
    if not rows:
        raise Lacking("The amplifier’s rated power isn’t known. Read it off its data sheet.", "amplifiers.ratings")
    channels = mode.amplifiers
    seen_ohm = load_ohm / channels
    at_load = _at_load(rows, seen_ohm)
    row = preferred(at_load, mode)
    factor, corrected = _corrected(amplifier, row)
    watts = row.watts * factor
    made_for = same_load(row.ohms, seen_ohm)
    below = not made_for and row.ohms > seen_ohm
    whole_w = channels * watts
    told = f"amplifier: rated {row.rating.words}"
    if made_for and row.rating.mode is not mode:
        told += f"; each channel sees the same load here, so {format_value(whole_w, 'W')}"
    elif not made_for:
        how = "no more than the same watts" if below else "the same voltage"
        whole_w *= 1.0 if below else row.ohms / seen_ohm
        told = (
            f"amplifier: not rated at this load; {how} as at its {format_value(row.rating.load_ohm, 'Ω')} rating "
            f"gives {format_value(whole_w, 'W')}"
        )
    return Power(
        power_w=whole_w,
        estimated=not made_for or row.rating.mode is not mode,
        because=told,
        below_rated=below,
        chosen=_chosen(row, at_load),
        corrected=corrected,
        distorted_percent=None if row.is_clean else row.rating.distortion_percent,
        supply_v=row.rating.supply_v,
        one_driven=row.rating.driven is Driven.ONE and amplifier.all_channels > 1,
    )


def _at_load(rows: list[ChannelRating], seen_ohm: float) -> list[ChannelRating]:
    """The ratings at this load, else at the nearest lower one, else at the lowest of all."""
    fit = [row for row in rows if same_load(row.ohms, seen_ohm)]
    if fit:
        return fit
    below = [row.ohms for row in rows if row.ohms < seen_ohm]
    nearest = max(below) if below else min(row.ohms for row in rows)
    return [row for row in rows if same_load(row.ohms, nearest)]


def _corrected(amplifier: Amplifier, row: ChannelRating) -> tuple[float, str]:
    """Factor on a rating's watts, and the reason."""
    supply, clean = supply_factor(amplifier, row), clean_factor(row)
    told = []
    if clean != 1.0:
        told.append(
            f"{format_value(row.rating.distortion_percent or 0, '%')} of distortion: a sine clipped to "
            f"{CLEAN_PERCENT:g} % has {100 * (1 - clean):.0f} % fewer watts"
        )
    if supply != 1.0:
        way = "more" if supply > 1 else "fewer"
        told.append(
            f"rated at {format_value(row.rating.supply_v or 0, 'V')}: at {RUNNING_V:g} V running "
            f"{abs(supply - 1) * 100:.0f} % {way} watts, as it isn’t regulated"
        )
    return supply * clean, "; ".join(told)


def _chosen(row: ChannelRating, at_load: list[ChannelRating]) -> str:
    others = [rating for rating in at_load if rating is not row]
    if not others:
        return ""
    why = []
    if row.is_clean and any(not rating.is_clean for rating in others):
        why.append(f"it is clean, at most {CLEAN_PERCENT:g} % of distortion")
    if row.rating.supply_v and any(rating.rating.supply_v != row.rating.supply_v for rating in others):
        why.append("its supply is the nearest to running")
    if any(rating.rating.mode is not row.rating.mode for rating in others):
        why.append("it is made for this use")
    if row.rating.driven is Driven.ALL and any(rating.rating.driven is Driven.ONE for rating in others):
        why.append("all channels are driven")
    return f"of {len(at_load)} ratings at this load {row.rating.words} counts: {', '.join(why) or 'the lesser'}"
