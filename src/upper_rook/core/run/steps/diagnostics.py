"""
Meanings of the usual wrong readings, shown beside the reading.

All of it is common practice, no source.
"""

from upper_rook.core.common.units import format_db, ratio_db
from upper_rook.core.plan.target import Target
from upper_rook.core.stages.calculator import impedance_from, in_words

_NEARLY_NOTHING = 0.03
_HALF, _QUARTER, _TWICE = 0.5, 0.25, 2.0
_NEAR_DB = 1.0
_HALF_FALLS_DB, _EVEN_DB = 6.0, 0.25


def at_terminals(value: float, target: Target, *, bridged: bool) -> tuple[str, ...]:
    """Meaning of volts at an amplifier's terminals that miss their target by a lot."""
    part = value / target.value
    if part < _NEARLY_NOTHING:
        return (
            "Almost no signal. Check the tone, the probe, filters left in, and the routing switch (four inputs, two "
            "leads).",
        )
    told = []
    if _near(part, _QUARTER):
        told.append("Only a quarter of the target. Check for a lead half in its socket, or a level trim.")
    if _near(part, _HALF):
        told.append(
            "Only half of the target. Probe across both bridge terminals, and check that the tone is not at −6 dBFS."
            if bridged
            else "Only half of the target. The tone is at −6 dBFS, or one of two leads is missing."
        )
    if _near(part, _TWICE):
        told.append("Twice the target. The probe is across a bridge instead of one channel, or another track plays.")
    return tuple(told)


def of_knob(more_db: float) -> tuple[str, ...]:
    """Meaning of a gain knob far from its expected place, `more_db` further up."""
    if more_db > 0:
        return (
            f"The knob is {format_db(more_db, 0)} further up than expected: less signal arrives than planned. "
            "Check leads, "
            "level trims, the remote level knob, and the level of the track.",
        )
    return (
        f"The knob is {format_db(-more_db, 0)} further down than expected: more signal arrives than planned. "
        "Check for a "
        "boost left in, or the probe on the wrong pair.",
    )


def of_the_other_side(value: float, target: Target) -> tuple[str, ...]:
    """Meaning of another channel that differs."""
    part = value / target.value
    if part < _NEARLY_NOTHING:
        return ("No signal on this side. Check its lead, the pair probed, and the balance.",)
    if _near(part, _QUARTER):
        return ("A quarter of the other side: the lead is half in its socket.",)
    if abs(ratio_db(value, target.value)) > 1:
        return ("The sides differ. Check balance, fader and the trim of one side.",)
    return ()


def of_supply(value: float, *, running: bool) -> tuple[str, ...]:
    """Meaning of a supply's volts."""
    if value < 0:
        return ("Negative: swap the probes.",)
    if running and value < 13.0:
        return ("Low for a running engine (13.5 to 14.8 V). Check the engine, the charger, and thin leads.",)
    if value > 15.0:
        return ("Above 15 V: stop and find out why before measuring.",)
    if not running and value < 12.2:
        return ("Below 12.2 V: battery low. Charge it, or measure with a charger on.",)
    return ()


def of_converter(value: float, target: Target) -> tuple[str, ...]:
    """Meaning of a converter's output that misses."""
    if value / target.value < _NEARLY_NOTHING:
        return ("No signal. Check the socket, the turn-on, and the wires that feed it.",)
    return ()


def of_corner(ratio_db_read: float, open_v: float, now_v: float) -> tuple[str, ...]:
    """Meaning of a filter that doesn't reach its ratio; `ratio_db_read` is the ratio read, in dB."""
    if now_v < _NEARLY_NOTHING * open_v:
        return ("No signal left: another filter is in as well, a high-pass above a low-pass.",)
    if ratio_db_read > -0.1:
        return ("The volts don’t fall. The filter switch is at flat, or this is another channel’s dial.",)
    return ()


def of_half(fell_db: float | None) -> tuple[str, ...]:
    """Meaning of the fall of the volts with a tone 6 dB lower; None where the tone wasn't that."""
    if fell_db is None:
        return ("The tone wasn’t 6 dB lower. Play it 6 dB lower and save that.",)
    if fell_db < _HALF_FALLS_DB - _EVEN_DB:
        return (
            f"The tone fell by 6 dB, the volts by {fell_db:.1f}: at full level it clips. Turn the gain down until half "
            "of the tone gives half of the volts, and save that.",
        )
    if fell_db > _HALF_FALLS_DB + _EVEN_DB:
        return (f"The tone fell by 6 dB, the volts by {fell_db:.1f}. Another track plays, or a leveller is on.",)
    return ()


def clips_by_half(fell_db: float) -> bool:
    """Whether volts that fell by so much with a tone 6 dB lower were clipped before."""
    return fell_db < _HALF_FALLS_DB - _EVEN_DB


def of_tone(value: float, target: Target, *, over: bool) -> tuple[str, ...]:
    """Meaning of a tone of the proof that misses."""
    if over:
        return (
            "Above the limit of this output at this frequency: it may clip or burn. Set the gain again at this tone, "
            "or remove the boost.",
        )
    if value / target.value < _NEARLY_NOTHING:
        return ("No signal here: two filters stacked, or one left in somewhere.",)
    return ()


def _near(part: float, wanted: float) -> bool:
    return abs(ratio_db(part, wanted)) < _NEAR_DB


def of_wires(ohms: float) -> tuple[str, ...]:
    """Meaning of the ohms between two wires for the speaker at their end."""
    return (in_words(impedance_from(ohms)),)


def of_offset(value: float) -> tuple[str, ...]:
    """Meaning of direct volts from a speaker wire to chassis."""
    if abs(value) < 0.5:
        return ("No offset: units that turn on by signal stay off. Connect a turn-on lead.",)
    if not 5.0 <= abs(value) <= 7.0:
        return ("Usually 5 to 7 V while the source is on. Check that it is on, and probe one wire to bare metal.",)
    return ()


def of_offset_back(value: float) -> tuple[str, ...]:
    """Meaning of the direct volts on a speaker wire just after unlocking."""
    if abs(value) < 0.5:
        return ("Not back yet: what turns on by signal stays off until the source plays. Connect a turn-on lead.",)
    return ()


def of_turn_off(seconds: float) -> tuple[str, ...]:
    """Meaning of the time until a factory amplifier sleeps."""
    if seconds > 600:
        return (
            "Longer than ten minutes: it may never sleep. Connect a turn-on lead instead of sensing, and watch the "
            "battery.",
        )
    if seconds < 5:
        return ("At once. Usually about a minute after locking, three when left alone.",)
    return ()
