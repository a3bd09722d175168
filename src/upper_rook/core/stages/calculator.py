"""Sums that an installer does in the head or on a phone: volts and watts, decibels and ratios, ohms from a meter."""

from enum import StrEnum

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import Frozen, format_value, from_db, ratio_db, volts_for, watts_for
from upper_rook.core.system.amplifier import Mode

_NEEDS_TWO = "Type two of watts, ohms and volts: the third follows."


class AmplifierOutput(Frozen):
    """Volts and watts at the terminals of an amplifier."""

    power_w: float
    load_ohm: float
    voltage_v: float
    measured_v: float
    """At the measuring point: of two strapped amplifiers one gives half."""
    channel_ohm: float
    """Load on one channel."""
    because: tuple[str, ...]


class LevelRatio(Frozen):
    """A difference of level."""

    db: float
    voltage_ratio: float
    power_ratio: float


class CornerVolts(Frozen):
    """The volts to turn a filter to."""

    voltage_v: float
    ratio: float


class Impedance(StrEnum):
    """Rated ohms for the resistance of a pair of speaker wires."""

    SHORT = "short"
    SPEAKER = "speaker"
    BETWEEN = "between"
    OPEN = "open"


class MeasuredSpeaker(Frozen):
    """A speaker by its direct-current resistance."""

    taken_for: Impedance
    nominal_ohm: float | None
    """The rated impedance that it belongs to, where it belongs to one."""


def output_of(
    power_w: float | None, load_ohm: float | None, voltage_v: float | None, mode: Mode = Mode.PER_CHANNEL
) -> AmplifierOutput:
    """
    The third of watts, ohms and volts from the other two: P = V²/R (Joule, Ohm).

    A bridged channel, and each of two strapped amplifiers, sees half of the load. Raises BadInput unless two are given.

    >>> output_of(85, 4, None).voltage_v.__round__(2)
    18.44
    """
    if power_w is None and load_ohm is not None and voltage_v is not None:
        power_w = watts_for(voltage_v, load_ohm)
    elif load_ohm is None and power_w is not None and voltage_v is not None:
        load_ohm = voltage_v**2 / power_w
    elif voltage_v is None and power_w is not None and load_ohm is not None:
        voltage_v = volts_for(power_w, load_ohm)
    else:
        raise BadInput(_NEEDS_TWO)
    strapped, split = mode is Mode.STRAPPED, mode is not Mode.PER_CHANNEL
    measured_v = voltage_v / 2 if strapped else voltage_v
    channel_ohm = load_ohm / 2 if split else load_ohm
    because = [f"√({format_value(power_w, 'W')} × {format_value(load_ohm, 'Ω')}) = {format_value(voltage_v, 'V')}"]
    if split:
        because.append(f"each channel sees half of the load: {format_value(channel_ohm, 'Ω')}")
    if strapped:
        because.append(f"each amplifier gives half of the voltage: {format_value(measured_v, 'V')}")
    return AmplifierOutput(
        power_w=power_w,
        load_ohm=load_ohm,
        voltage_v=voltage_v,
        measured_v=measured_v,
        channel_ohm=channel_ohm,
        because=tuple(because),
    )


def level_of(db: float | None = None, voltage_ratio: float | None = None) -> LevelRatio:
    """
    Decibels from a ratio of voltages, or the ratio from decibels (ISO 80000-3). Raises BadInput unless one is given.

    >>> level_of(db=-3.0).power_ratio.__round__(3)
    0.501
    """
    if db is None and voltage_ratio is not None:
        db = ratio_db(voltage_ratio, 1.0)
    elif db is not None and voltage_ratio is None:
        voltage_ratio = from_db(db)
    else:
        raise BadInput("Type decibels or a ratio: the other follows.")
    return LevelRatio(db=db, voltage_ratio=voltage_ratio, power_ratio=voltage_ratio**2)


def corner_of(open_v: float, depth_db: float) -> CornerVolts:
    """
    The volts that a filter leaves at its corner.

    >>> corner_of(6.2, 3.0103).voltage_v.__round__(2)
    4.38
    """
    ratio = from_db(-abs(depth_db))
    return CornerVolts(voltage_v=open_v * ratio, ratio=ratio)


# A coil's resistance is 0.7 to 0.9 of its rated impedance, and a meter's leads add to it (common practice, no source).
_RATED = ((1.4, 2.4, 2.0), (2.8, 4.4, 4.0), (5.0, 8.5, 8.0))
_SHORT_OHM, _OPEN_OHM = 1.0, 20.0


def impedance_from(resistance_ohm: float) -> MeasuredSpeaker:
    """
    Speaker behind two wires, from a meter's ohms between them.

    >>> impedance_from(3.4).nominal_ohm
    4.0
    """
    if resistance_ohm < _SHORT_OHM:
        return MeasuredSpeaker(taken_for=Impedance.SHORT, nominal_ohm=None)
    for low, high, rated in _RATED:
        if low <= resistance_ohm <= high:
            return MeasuredSpeaker(taken_for=Impedance.SPEAKER, nominal_ohm=rated)
    taken = Impedance.OPEN if resistance_ohm > _OPEN_OHM else Impedance.BETWEEN
    return MeasuredSpeaker(taken_for=taken, nominal_ohm=None)


IN_WORDS = {
    Impedance.SHORT: "Under 1 Ω: the two wires touch, or this isn’t a speaker’s pair.",
    Impedance.OPEN: "No speaker: another pair, or a capacitor before a tweeter.",
    Impedance.BETWEEN: "Between the usual speakers: several on the pair, or a thin wire.",
}


def in_words(found: MeasuredSpeaker) -> str:
    """The same as a sentence."""
    if found.nominal_ohm is not None:
        return f"As a speaker of {found.nominal_ohm:g} ohm reads."
    return IN_WORDS[found.taken_for]
