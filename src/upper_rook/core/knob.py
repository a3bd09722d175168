"""Where a gain knob should end up, from the volts printed around it."""

import math
from enum import StrEnum

from upper_rook.core.chain import GainRange
from upper_rook.core.units import Frozen, format_value, ratio_db


class KnobState(StrEnum):
    """What to expect of the knob."""

    WITHIN = "within"
    FULLY_DOWN = "fully_down"
    """Even fully down gives more than the target."""
    SHORT = "short"
    """Even fully up gives less than the target."""
    UNMARKED = "unmarked"


class Knob(Frozen):
    """The predicted position of a gain control."""

    state: KnobState
    printed_v: float | None = None
    """The printed number to set, in volts."""
    travel: float | None = None
    """Fraction of the way up from fully down."""
    miss_db: float = 0.0
    """How far the stop is from the target: short of it, or above it."""
    sentence: str
    because: tuple[str, ...] = ()


def predict(gain_range: GainRange | None, input_v: float, rated_v: float, target_v: float) -> Knob:
    """
    Position for `input_v` volts in to give `target_v` out, on an amplifier whose rated output is `rated_v`.

    A control printed S gives rated output for S volts in, so its gain is rated_v/S and S = input·rated/target. The
    scale is taken as logarithmic between its printed ends.
    """
    gain_db = ratio_db(target_v, input_v)
    if gain_range is None:
        return Knob(
            state=KnobState.UNMARKED,
            sentence=f"Nothing is printed around the knob: {gain_db:.1f} dB of gain are needed, found by measuring.",
        )
    printed = input_v * rated_v / target_v
    because = (
        f"gain needed = 20·log10({format_value(target_v, 'V')} / {format_value(input_v, 'V')}) = {gain_db:.1f} dB",
        f"printed number = {format_value(input_v, 'V')} × {format_value(rated_v, 'V')} rated output"
        f" / {format_value(target_v, 'V')} wanted = {format_value(printed, 'V', 3)}",
    )
    if printed > gain_range.down_v:
        over = ratio_db(printed, gain_range.down_v)
        return Knob(
            state=KnobState.FULLY_DOWN,
            printed_v=printed,
            travel=0.0,
            miss_db=over,
            sentence=f"Fully down should still be {over:.1f} dB above the target.",
            because=because,
        )
    if printed < gain_range.up_v:
        reach, short = target_v * printed / gain_range.up_v, ratio_db(gain_range.up_v, printed)
        return Knob(
            state=KnobState.SHORT,
            printed_v=printed,
            travel=1.0,
            miss_db=short,
            sentence=f"Should reach its stop at about {format_value(reach, 'V', 3)}: {short:.1f} dB short.",
            because=because,
        )
    travel = math.log(gain_range.down_v / printed) / math.log(gain_range.down_v / gain_range.up_v)
    return Knob(
        state=KnobState.WITHIN,
        printed_v=printed,
        travel=travel,
        sentence=f"Expect it near {format_value(printed, 'V', 2)} on its scale, about {o_clock(travel)}. "
        "Scales are not exact: the voltage decides.",
        because=because,
    )


def o_clock(travel: float) -> str:
    """A knob's position said as a clock hand: 7 o'clock is fully down, 5 o'clock fully up (common practice)."""
    halves = round((7 + 10 * travel) * 2)
    hour = (halves // 2 - 1) % 12 + 1
    return f"half past {hour}" if halves % 2 else f"{hour} o'clock"
