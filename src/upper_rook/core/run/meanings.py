"""
What the usual wrong readings mean, so that one that was taken brings up its explanation.

All of it is common practice, no source.
"""

from upper_rook.core.common.units import ratio_db
from upper_rook.core.plan.target import Target
from upper_rook.core.stages.calculator import impedance_from, in_words

_NEARLY_NOTHING = 0.03
_HALF, _QUARTER, _TWICE = 0.5, 0.25, 2.0
_NEAR_DB = 1.0
_HALF_FALLS_DB, _EVEN_DB = 6.0, 0.25


def at_terminals(value: float, target: Target, *, bridged: bool) -> tuple[str, ...]:
    """What volts at an amplifier's terminals that miss their target by a lot mean."""
    part = value / target.value
    if part < _NEARLY_NOTHING:
        return (
            "Next to nothing: a filter was left in, the routing stands at four inputs with two leads, the probe is on "
            "the wrong pair, or the tone isn't playing.",
        )
    told = []
    if _near(part, _QUARTER):
        told.append("A quarter of it: a lead sits half in its socket, or a level trim is in the way.")
    if _near(part, _HALF):
        told.append(
            "Half of it: bridged, the probe sits on one channel instead of across the bridge; or the tone was made at "
            "−6 dBFS."
            if bridged
            else "Half of it: the tone was made at −6 dBFS, or only one lead of two arrives."
        )
    if _near(part, _TWICE):
        told.append("Twice as much: the probe sits across a bridge instead of one channel, or another track plays.")
    return tuple(told)


def of_knob(more_db: float) -> tuple[str, ...]:
    """What a gain that stands far from where it is expected means, `more_db` further up."""
    if more_db > 0:
        return (
            f"The knob stands {more_db:.0f} dB further up than expected: less arrives than planned. A lead half in its "
            "socket, a level trim, a remote level knob that is down, a track below full scale.",
        )
    return (
        f"The knob stands {-more_db:.0f} dB further down than expected: more arrives than planned, or the volts come "
        "from another channel. A boost left in, or the probe on the wrong pair.",
    )


def of_the_other_side(value: float, target: Target) -> tuple[str, ...]:
    """What another channel that differs means."""
    part = value / target.value
    if part < _NEARLY_NOTHING:
        return ("Nothing on this side: its lead isn't in, it is the wrong pair, or the balance stands at an end.",)
    if _near(part, _QUARTER):
        return ("A quarter of the other's: the lead sits half in its socket.",)
    if abs(ratio_db(value, target.value)) > 1:
        return ("The sides differ: balance, fader, or the trim of one side.",)
    return ()


def of_supply(value: float, *, running: bool) -> tuple[str, ...]:
    """What a supply's volts mean."""
    if value < 0:
        return ("Negative: the probes are the wrong way round.",)
    if running and value < 13.0:
        return (
            "Running, an alternator gives 13.5 to 14.8 V: the engine is off, the charger small, or a lead is thin.",
        )
    if value > 15.0:
        return ("Above 15 V: stop and find out why before anything is measured.",)
    if not running and value < 12.2:
        return ("Below 12.2 V a battery is tired: charge it, or measure with a charger on.",)
    return ()


def of_converter(value: float, target: Target) -> tuple[str, ...]:
    """What a converter's output that misses means."""
    if value / target.value < _NEARLY_NOTHING:
        return ("Nothing: the wrong socket, no turn-on, or no signal on the wires that feed it.",)
    return ()


def of_corner(ratio_db_read: float, open_v: float, now_v: float) -> tuple[str, ...]:
    """What a filter that doesn't come to its ratio means; `ratio_db_read` is what is left in dB."""
    if now_v < _NEARLY_NOTHING * open_v:
        return ("Nothing is left: another filter is in as well, a high-pass above a low-pass.",)
    if ratio_db_read > -0.1:
        return ("It doesn't fall at all: the filter's switch stands at flat, or this is another channel's dial.",)
    return ()


def of_half(fell_db: float | None) -> tuple[str, ...]:
    """What it means that the volts fell by so much with a tone 6 dB lower; None where the tone wasn't that."""
    if fell_db is None:
        return ("The tone wasn't 6 dB lower: play it 6 dB lower and take that.",)
    if fell_db < _HALF_FALLS_DB - _EVEN_DB:
        return (
            f"The tone went down by 6 dB and the volts by {fell_db:.1f}: at full level something clips. Turn the gain "
            "down until half of the tone gives half of the volts, and take that.",
        )
    if fell_db > _HALF_FALLS_DB + _EVEN_DB:
        return (f"The tone went down by 6 dB and the volts by {fell_db:.1f}: another track, or something levels it.",)
    return ()


def clips_by_half(fell_db: float) -> bool:
    """Whether volts that fell by so much with a tone 6 dB lower were clipped before."""
    return fell_db < _HALF_FALLS_DB - _EVEN_DB


def of_tone(value: float, target: Target, never_pass_v: float) -> tuple[str, ...]:
    """What a tone of the proof that misses means."""
    if value > never_pass_v:
        return (
            "More than this output may give: at this frequency it clips or burns. Set its gain again at this tone, or "
            "take the boost there out.",
        )
    if value / target.value < _NEARLY_NOTHING:
        return ("Nothing is left here: two filters stacked, or one where nobody expects it.",)
    return ()


def _near(part: float, wanted: float) -> bool:
    return abs(ratio_db(part, wanted)) < _NEAR_DB


def of_wires(ohms: float) -> tuple[str, ...]:
    """What the ohms between two wires say of the speaker at their end."""
    return (in_words(impedance_from(ohms)),)


def of_offset(value: float) -> tuple[str, ...]:
    """What direct volts from a speaker wire to chassis say."""
    if abs(value) < 0.5:
        return ("No offset: what turns on by a signal at its input stays off here. Give it a turn-on lead.",)
    if not 5.0 <= abs(value) <= 7.0:
        return ("5 to 7 V are usual while the source is on: is it on, and the probe on one wire and bare metal?",)
    return ()


def of_turn_off(seconds: float) -> tuple[str, ...]:
    """What the time until a factory amplifier sleeps says."""
    if seconds > 600:
        return ("Longer than ten minutes: something keeps it awake; look after the battery.",)
    if seconds < 5:
        return ("At once: with the doors shut and locked it usually takes about a minute, three when left alone.",)
    return ()
