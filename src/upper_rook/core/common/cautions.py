"""Cautions: one or two short sentences at the point where something can hurt."""

from upper_rook.core.common.units import Frozen, Key

# Normal dry conditions (IEC 61010-1, memory).
HAZARDOUS_LIVE_V = 30.0


class Caution(Frozen):
    """A short warning."""

    key: Key
    text: str


SPEAKERS_OFF = Caution(
    key="speakers-off",
    text="Steady tones burn speakers. Keep every speaker disconnected. If one plays, stop.",
)
POWER_OFF_FIRST = Caution(
    key="power-off-first",
    text="Switch everything off before you move a lead. Bare speaker leads must not touch.",
)
ENGINE = Caution(
    key="engine",
    text="Engine running: parking brake on, air for the exhaust. Charger: fused, no loose tools.",
)
HIGH_VOLTAGE_WIRING = Caution(
    key="high-voltage-wiring",
    text="Never probe airbag wiring or orange high-voltage wiring.",
)
EARTHED_SCOPE = Caution(
    key="earthed-scope",
    text="Never clip a scope’s ground to a speaker output: mains-earthed scopes short it.",
)
HAZARDOUS_LIVE = Caution(
    key="hazardous-live",
    text="Over 30 V RMS at these terminals: hazardous live. Insulated probes, one hand, no bare clips.",
)
QUIET_LISTENING = Caution(
    key="quiet-listening",
    text="Start quiet. Play tones through speakers short and low. Loud sound harms hearing for good.",
)
MAKERS_FIRST = Caution(
    key="makers-first",
    text="Makers’ instructions, local electrical and vehicle codes and licensed practice come before this sheet.",
)


DUMMY_LOAD = Caution(
    key="dummy-load",
    text="A dummy load gets hot enough to burn. Keep it clear of trim and skin, on something fireproof.",
)


def at_output(target_v: float, *, on_dummy_load: bool = False) -> tuple[Caution, ...]:
    """The cautions for probing an amplifier output that will carry `target_v` volts RMS."""
    base = (SPEAKERS_OFF, EARTHED_SCOPE, *((DUMMY_LOAD,) if on_dummy_load else ()))
    return (HAZARDOUS_LIVE, *base) if target_v > HAZARDOUS_LIVE_V else base
