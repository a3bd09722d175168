"""What an amplifier is good for into a given load."""

from upper_rook.core.common.errors import Lacking
from upper_rook.core.common.units import Frozen, format_value
from upper_rook.core.system.amplifier import Amplifier, Mode

_IN_WORDS = {Mode.PER_CHANNEL: "", Mode.BRIDGED: ", bridged", Mode.STRAPPED: ", strapped"}


class Power(Frozen):
    """Watts an amplifier is good for into a load, and whether the maker says so."""

    power_w: float
    estimated: bool
    because: str
    supply_v: float | None = None
    """The supply of the rating it rests on."""


def amplifier_power(amplifier: Amplifier, mode: Mode, load_ohm: float) -> Power:
    """
    Watts that `amplifier` is good for into `load_ohm` at the terminals of `mode`.

    Ratings are compared by what one channel sees: a bridged pair, and two strapped amplifiers, split the load in two.
    Where the load lies above a rated one the same voltage is counted on, where it lies below every rated one no more
    than the same watts. Raises Lacking without any rating.
    """
    if not amplifier.ratings:
        raise Lacking("The watts its amplifier is rated at aren't known: read them off its data sheet.")
    channels = mode.amplifiers
    seen_ohm = load_ohm / channels
    per_channel = [
        (rating, rating.power_w / rated_channels, rating.load_ohm / rated_channels)
        for rating in amplifier.ratings
        for rated_channels in (rating.mode.amplifiers,)
    ]
    per_channel.sort(key=lambda row: (row[2], row[0].mode is not mode))
    for rating, watts, ohms in per_channel:
        if abs(ohms / seen_ohm - 1) < 0.02:
            as_rated = f"{format_value(rating.power_w, 'W')} into {format_value(rating.load_ohm, 'Ω')}"
            told = f"amplifier: rated {as_rated}{_IN_WORDS[rating.mode]}"
            if rating.mode is mode:
                return Power(power_w=rating.power_w, estimated=False, because=told, supply_v=rating.supply_v)
            return Power(
                power_w=watts * channels,
                estimated=True,
                supply_v=rating.supply_v,
                because=f"{told}; each channel sees the same load here, so {format_value(watts * channels, 'W')}",
            )
    below = [row for row in per_channel if row[2] < seen_ohm]
    if below:
        rating, watts, ohms = below[-1]
        power = channels * watts * ohms / seen_ohm
        how = "the same voltage"
    else:
        rating, watts, ohms = per_channel[0]
        power = channels * watts
        how = "no more than the same watts"
    return Power(
        power_w=power,
        estimated=True,
        supply_v=rating.supply_v,
        because=f"amplifier: not rated at this load; {how} as at its {format_value(rating.load_ohm, 'Ω')} rating "
        f"gives {format_value(power, 'W')}",
    )
