"""Effect of a change on a gain that was set before it: by how many dB, and whether that is unsafe or only low."""

from enum import StrEnum

from upper_rook.core.common.units import Frozen, format_db, format_hertz, format_value, ratio_db
from upper_rook.core.metrology.comparison import Limits
from upper_rook.core.plan.figures import Figures
from upper_rook.core.run.freshness.dependencies import LEVEL_WITHIN_DB


class Risk(StrEnum):
    """Direction of a change."""

    UNSAFE = "unsafe"
    """Above what the part takes: it may clip or burn."""
    LOW = "low"
    NONE = "none"
    """Still within what is accepted."""


class Effect(Frozen):
    """Volts that would be read now with the knob where it was left."""

    voltage_v: float
    """At the step's own point and tone."""
    db: float
    """Against what was read then."""
    off_db: float
    """Against what is wanted now."""
    frequency_hz: float
    risk: Risk
    sentence: str


def effect(read_v: float, then: Figures, now: Figures, share: float, limits: Limits) -> Effect | None:
    """
    Change from `read_v`, set under `then`, to its value under `now`; None where the levels of one of them aren't known.

    The knob's gain stays: V = V_read · (what drives it now / what drove it then). Strapped amplifiers are read on one
    of them, `share` of the whole.
    """
    if not then.driven_v or not now.driven_v:
        return None
    voltage_v = read_v * now.driven_v / then.driven_v
    db, off_db = ratio_db(voltage_v, read_v), ratio_db(voltage_v, now.target_v / share)
    risk = Risk.UNSAFE if voltage_v > limits.high else Risk.LOW if voltage_v < limits.low else Risk.NONE
    at = now.gain_tone.tone.frequency_hz
    gives = f"{format_value(voltage_v, 'V', 3)} at {format_hertz(at)}"
    moved = abs(db) >= LEVEL_WITHIN_DB
    gives = (
        f"now gives {gives}, {format_db(abs(db))} {'more' if db > 0 else 'less'}" if moved else f"still gives {gives}"
    )
    told = {
        Risk.UNSAFE: f"{format_db(abs(off_db))} above the target, it may clip",
        Risk.LOW: f"{format_db(abs(off_db))} below the target, low but not dangerous",
        Risk.NONE: "still in range",
    }[risk]
    return Effect(
        voltage_v=voltage_v,
        db=db,
        off_db=off_db,
        frequency_hz=at,
        risk=risk,
        sentence=f"With the knob unmoved it {gives}: {told}.",
    )
