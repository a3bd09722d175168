"""Where a gain knob should end up, from the volts printed around it."""

import math
from enum import StrEnum

from upper_rook.core.common.units import Frozen, format_db, format_value, ratio_db
from upper_rook.core.system.amplifier import GainRange

KNOB_HALF_HOURS = 20
"""Of a knob's travel, from 7 to 5 o’clock (common practice, no source)."""
_AT_STOP = 1 + 1e-6
"""A number this near to an end of the scale is at it."""


class KnobState(StrEnum):
    """Expected place of the knob."""

    WITHIN = "within"
    FULLY_DOWN = "fully_down"
    """Even fully down gives more than the target."""
    SHORT = "short"
    """Even fully up gives less than the target."""
    UNMARKED = "unmarked"
    UNKNOWN = "unknown"
    """The volts that reach the input aren't known."""
    NONE = "none"
    """There is no gain control: the volume sets it."""


class Knob(Frozen):
    """The predicted position of a gain control."""

    state: KnobState
    printed_v: float | None = None
    """The number to set, in volts, whether or not it is printed."""
    travel: float | None = None
    """Fraction of the way up from fully down."""
    miss_db: float = 0.0
    """How far the stop is from the target: short of it, or above it."""
    sentence: str
    because: tuple[str, ...] = ()


def predict(
    gain_range: GainRange | None, input_v: float | None, rated_v: float, target_v: float, *, printed: bool = True
) -> Knob:
    """
    Position for `input_v` volts in to give `target_v` out, on an amplifier whose rated output is `rated_v`.

    A control printed S gives rated output for S volts in, so its gain is rated_v/S and S = input·rated/target. The
    scale is taken as logarithmic between its ends. Unless the volts are `printed` around the knob, only its position
    can be known.
    """
    if input_v is None:
        return Knob(
            state=KnobState.UNKNOWN,
            sentence="The volts that reach its input aren’t known yet: the knob is found by measuring.",
        )
    gain_db = ratio_db(target_v, input_v)
    if gain_range is None:
        return Knob(
            state=KnobState.UNMARKED,
            sentence=f"No scale around the knob: {format_db(gain_db)} of gain needed. Go by the meter.",
        )
    wanted_v = input_v * rated_v / target_v
    what = "printed number" if printed else "sensitivity"
    because = (
        f"gain needed = 20·log10({format_value(target_v, 'V')} / {format_value(input_v, 'V')}) = {format_db(gain_db)}",
        f"gain available = {format_db(ratio_db(rated_v, gain_range.down_v))} fully down "
        f"to {format_db(ratio_db(rated_v, gain_range.up_v))} fully up",
        f"{what} = {format_value(input_v, 'V')} × {format_value(rated_v, 'V')} rated output"
        f" / {format_value(target_v, 'V')} wanted = {format_value(wanted_v, 'V', 3)}",
    )
    if wanted_v > gain_range.down_v * _AT_STOP:
        over = ratio_db(wanted_v, gain_range.down_v)
        return Knob(
            state=KnobState.FULLY_DOWN,
            printed_v=wanted_v,
            travel=0.0,
            miss_db=over,
            sentence=f"Fully down it should still be {format_db(over)} above the target.",
            because=because,
        )
    if wanted_v < gain_range.up_v / _AT_STOP:
        reach, short = target_v * wanted_v / gain_range.up_v, ratio_db(gain_range.up_v, wanted_v)
        return Knob(
            state=KnobState.SHORT,
            printed_v=wanted_v,
            travel=1.0,
            miss_db=short,
            sentence=f"The knob should reach its end at about {format_value(reach, 'V', 3)}, {format_db(short)} short.",
            because=because,
        )
    travel = math.log(gain_range.down_v / wanted_v) / math.log(gain_range.down_v / gain_range.up_v)
    travel = min(1.0, max(0.0, travel))
    where = f"near {format_value(wanted_v, 'V', 2)} on its scale, " if printed else ""
    return Knob(
        state=KnobState.WITHIN,
        printed_v=wanted_v,
        travel=travel,
        sentence=f"Usually {where}about {o_clock(travel)}. Go by the meter.",
        because=because,
    )


def volume_only(source_v: float | None, target_v: float) -> Knob:
    """For an amplifier inside its source: what comes out is what the volume makes it."""
    told = "No gain knob: the volume sets it."
    if source_v is None:
        return Knob(state=KnobState.NONE, sentence=f"{told} Measure the number at which it clips.")
    over_db = ratio_db(source_v, target_v)
    if over_db <= 0:
        sentence = f"{told} At its clean maximum it stays {format_db(-over_db)} below the target."
        return Knob(state=KnobState.NONE, miss_db=over_db, sentence=sentence)
    return Knob(
        state=KnobState.NONE,
        miss_db=over_db,
        sentence=f"{told} At its clean maximum it is {format_db(over_db)} above the target: never pass the number "
        f"that gives {format_value(target_v, 'V', 3)}.",
    )


def o_clock(travel: float) -> str:
    """A knob's position said as a clock hand: 7 o’clock is fully down, 5 o’clock fully up (common practice)."""
    halves = 14 + round(KNOB_HALF_HOURS * travel)
    hour = (halves // 2 - 1) % 12 + 1
    return f"half past {hour}" if halves % 2 else f"{hour} o’clock"
