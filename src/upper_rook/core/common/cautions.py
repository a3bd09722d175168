"""What can hurt, and where to say so: one or two short sentences at the point where the danger is."""

from upper_rook.core.common.units import Frozen, Key

# Normal dry conditions (IEC 61010-1, memory).
HAZARDOUS_LIVE_V = 30.0


class Caution(Frozen):
    """A short warning."""

    key: Key
    text: str


SPEAKERS_OFF = Caution(
    key="speakers-off",
    text="Steady tones burn speakers. Keep every speaker disconnected; if one plays, stop and find out which.",
)
POWER_OFF_FIRST = Caution(
    key="power-off-first",
    text="Everything off before a signal or speaker lead is moved. Bare speaker leads must not touch.",
)
ENGINE = Caution(
    key="engine",
    text="Engine running: parking brake on, doors or hall open for the exhaust. On a charger: fuse it, no loose tools.",
)
HIGH_VOLTAGE_WIRING = Caution(
    key="high-voltage-wiring", text="Never probe airbag wiring or orange high-voltage wiring."
)
EARTHED_SCOPE = Caution(
    key="earthed-scope",
    text="No amplifier output here may be taken for ground: the clip of a mains-earthed scope can short it. "
    "Use a battery scope, a differential probe or a meter.",
)
HAZARDOUS_LIVE = Caution(
    key="hazardous-live",
    text="More than 30 V RMS at these terminals is hazardous live. Insulated probes, one hand, no bare clips.",
)
QUIET_LISTENING = Caution(
    key="quiet-listening", text="Start quiet. Tones through speakers short and low; loud sound harms hearing for good."
)
MAKERS_FIRST = Caution(
    key="makers-first",
    text="The makers' instructions, local electrical and vehicle codes and licensed practice come before this sheet.",
)


DUMMY_LOAD = Caution(
    key="dummy-load",
    text="A dummy load gets hot enough to burn: on something that doesn't burn, clear of trim and skin.",
)


def at_output(target_v: float, *, on_dummy_load: bool = False) -> tuple[Caution, ...]:
    """The cautions for probing an amplifier output that will carry `target_v` volts RMS."""
    base = (SPEAKERS_OFF, EARTHED_SCOPE, *((DUMMY_LOAD,) if on_dummy_load else ()))
    return (HAZARDOUS_LIVE, *base) if target_v > HAZARDOUS_LIVE_V else base
