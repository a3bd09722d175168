"""What an amplifier is good for into a given load."""

from upper_rook.core.chain import Amplifier, Mode
from upper_rook.core.units import Frozen, format_value


class Power(Frozen):
    """Watts an amplifier is good for into a load, and whether the maker says so."""

    power_w: float
    estimated: bool
    because: str


def amplifier_power(amplifier: Amplifier, mode: Mode, load_ohm: float) -> Power:
    """
    Watts that `amplifier` is good for into `load_ohm` at the terminals of `mode`.

    Ratings are compared by what one channel sees: a bridged pair splits the load in two. Where the load lies above a
    rated one the same voltage is counted on, where it lies below every rated one no more than the same watts.
    """
    channels = 2 if mode is Mode.BRIDGED else 1
    seen_ohm = load_ohm / channels
    per_channel = [
        (rating, rating.power_w / rated_channels, rating.load_ohm / rated_channels)
        for rating in amplifier.ratings
        for rated_channels in (2 if rating.mode is Mode.BRIDGED else 1,)
    ]
    per_channel.sort(key=lambda row: (row[2], row[0].mode is not mode))
    for rating, watts, ohms in per_channel:
        if abs(ohms / seen_ohm - 1) < 0.02:
            as_rated = f"{format_value(rating.power_w, 'W')} into {format_value(rating.load_ohm, 'Ω')}"
            told = f"amplifier: rated {as_rated}{', bridged' if rating.mode is Mode.BRIDGED else ''}"
            if rating.mode is mode:
                return Power(power_w=rating.power_w, estimated=False, because=told)
            return Power(
                power_w=watts * channels,
                estimated=True,
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
        because=f"amplifier: not rated at this load; {how} as at its {format_value(rating.load_ohm, 'Ω')} rating "
        f"gives {format_value(power, 'W')}",
    )
