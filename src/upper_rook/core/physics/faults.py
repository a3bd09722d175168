"""Wrong connections and forgotten settings that can be switched on: what a day in a workshop brings."""

from enum import StrEnum


class Fault(StrEnum):
    """One thing that is wrong on the simulated bench."""

    NORMALISER = "normaliser"
    PHONE_VOLUME = "phone-volume"
    LEVEL_TRIM = "level-trim"
    LOUDNESS = "loudness"
    BASS_UP = "bass-up"
    TREBLE_UP = "treble-up"
    FADER = "fader"
    BALANCE = "balance"
    WEAK_SOURCE = "weak-source"
    OTHER_TRACK = "other-track"
    QUIET_TRACK = "quiet-track"
    HALF_IN = "lead-half-in"
    LEAD_OFF = "lead-off"
    RIGHT_OFF = "right-lead-off"
    WRONG_PAIR = "wrong-pair"
    ROUTING = "routing"
    FILTERED_LOW = "high-pass-in"
    FILTERED_HIGH = "low-pass-in"
    BOOST_IN = "boost-in"
    KNOB_DOWN = "remote-knob-down"
    WEAK_AMPLIFIER = "weak-amplifier"
    EARLY_LIMITER = "early-limiter"
    GAIN_DEAD = "gain-dead"
    FILTER_AT_FLAT = "filter-at-flat"
    STACKED_FILTER = "stacked-filter"
    ROLL_OFF = "converter-roll-off"
    ASLEEP = "converter-asleep"
    TIRED_BATTERY = "tired-battery"
    OVERCHARGED = "overcharged"


FAULT_WORDS = {
    Fault.NORMALISER: "A loudness normaliser is on in the player",
    Fault.PHONE_VOLUME: "The phone’s volume isn’t at its top",
    Fault.LEVEL_TRIM: "The way of playing has a level trim",
    Fault.LOUDNESS: "Loudness is on",
    Fault.BASS_UP: "Bass is turned up",
    Fault.TREBLE_UP: "Treble is turned up",
    Fault.FADER: "The fader isn’t centred",
    Fault.BALANCE: "The balance isn’t centred",
    Fault.WEAK_SOURCE: "The source gives half of what its maker states",
    Fault.OTHER_TRACK: "Another track plays, an octave up",
    Fault.QUIET_TRACK: "The track was made 10 dB below full scale",
    Fault.HALF_IN: "A signal lead half in its socket",
    Fault.LEAD_OFF: "Signal leads unplugged",
    Fault.RIGHT_OFF: "Right signal lead unplugged",
    Fault.WRONG_PAIR: "The probe sits on another pair",
    Fault.ROUTING: "Input routing at four inputs with two leads",
    Fault.FILTERED_LOW: "A high-pass was left in",
    Fault.FILTERED_HIGH: "A low-pass was left in",
    Fault.BOOST_IN: "The amplifier’s bass boost was left in",
    Fault.KNOB_DOWN: "The remote level knob is turned down",
    Fault.WEAK_AMPLIFIER: "The amplifier gives half of its rated watts",
    Fault.EARLY_LIMITER: "The amplifier’s limiter holds it back early",
    Fault.GAIN_DEAD: "The gain is worn out and does nothing",
    Fault.FILTER_AT_FLAT: "Filter switch at flat",
    Fault.STACKED_FILTER: "Another filter cuts the same band away",
    Fault.ROLL_OFF: "The converter loses bass",
    Fault.ASLEEP: "The converter isn’t woken",
    Fault.TIRED_BATTERY: "The battery is tired and no engine runs",
    Fault.OVERCHARGED: "The charger gives too much",
}
