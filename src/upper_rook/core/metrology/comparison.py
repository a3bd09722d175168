"""A reading compared with a wanted band, its doubt counted."""

from enum import StrEnum

from upper_rook.core.common.units import Frozen, format_db, ratio_db


class Limits(Frozen):
    """The band a reading must fall in, in the target's unit."""

    low: float
    high: float


class Fit(StrEnum):
    """Where a reading lies against its band, its uncertainty counted (JCGM 106)."""

    INSIDE = "inside"
    UNSURE = "unsure"
    """The reading is in the band, but the instrument's doubt reaches past an edge."""
    BELOW = "below"
    ABOVE = "above"


class Comparison(Frozen):
    """A reading compared with a target: how far, which way, how sure."""

    fit: Fit
    percent: float
    """(reading − target) / target, in %."""
    db: float
    """20·log10(reading/target)."""
    sure: bool
    """False when the instrument's doubt reaches past the edge that decides."""
    sentence: str


class Turn(Frozen):
    """Advice for a reading outside its band, or its meaning."""

    below: str = "turn up"
    above: str = "turn down"


TURN = Turn()
"""Of a gain."""


def compare(value: float, uncertainty: float | None, target: float, limits: Limits, turn: Turn = TURN) -> Comparison:
    """Holds `value` ± `uncertainty` (same unit as `target`) against `limits`; `turn` says what beside them asks for."""
    percent, db = 100 * (value / target - 1), ratio_db(value, target)
    distance = f"{abs(percent):.1f} % ({format_db(abs(db), 2)})"
    edges = (abs(value - limits.low), abs(value - limits.high))
    sure = uncertainty is not None and min(edges) >= uncertainty
    near = "" if sure or uncertainty is None else " The meter’s error reaches past the limit."
    if value < limits.low:
        fit, sentence = Fit.BELOW, f"{distance} below: {turn.below}.{near}"
    elif value > limits.high:
        fit, sentence = Fit.ABOVE, f"{distance} above: {turn.above}.{near}"
    elif uncertainty is None:
        fit, sentence = Fit.UNSURE, "In range. The meter’s data sheet gives no accuracy at this frequency."
    elif not sure:
        fit, sentence = Fit.UNSURE, "In range, but within the meter’s error of the limit."
    else:
        fit, sentence = Fit.INSIDE, "In range."
    return Comparison(fit=fit, percent=percent, db=db, sure=sure, sentence=sentence)
