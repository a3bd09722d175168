"""Stand-ins for the wires of factory plugs: each is really something, mostly what it is taken for."""

from enum import StrEnum

import numpy as np

from upper_rook.core.common.units import Frozen
from upper_rook.core.run.steps.plugs import ASLEEP, HEARD, LOADED, OFF, OHMS, ON
from upper_rook.core.system.plug import Plug, Wire, WireRole


class Really(StrEnum):
    """Real purpose of a wire."""

    CONSTANT = "constant"
    SWITCHED = "switched"
    TURN_ON = "turn_on"
    HALF_TURN_ON = "half_turn_on"
    """Turns on with only half of the battery's volts."""
    WEAK_TURN_ON = "weak_turn_on"
    """Turns on, and drives nothing."""
    DEAD = "dead"
    SPEAKER = "speaker"
    GROUND = "ground"


_AS_TAKEN = {
    WireRole.SUPPLY: Really.CONSTANT,
    WireRole.SWITCHED: Really.SWITCHED,
    WireRole.TURN_ON: Really.TURN_ON,
    WireRole.SPEAKER: Really.SPEAKER,
    WireRole.GROUND: Really.GROUND,
}
_ELECTRIC = (
    Really.CONSTANT,
    Really.SWITCHED,
    Really.TURN_ON,
    Really.HALF_TURN_ON,
    Really.WEAK_TURN_ON,
    Really.DEAD,
)
_AS_TAKEN_CHANCE = 0.6
_BATTERY_V, _HALF_V, _WEAK_V = 12.4, 6.1, 8.5
_COPPER_OHM = (3.0, 4.0)


class WireOnBench(Frozen):
    """A wire and what it really is."""

    wire: Wire
    really: Really
    ohms: float


def wires_of(plug: Plug, seed: int) -> tuple[WireOnBench, ...]:
    """The wires of a plug, drawn by the seed."""
    dice = np.random.default_rng([seed, 23, *plug.id.encode()])
    found = []
    for wire in plug.wires:
        really = _AS_TAKEN.get(wire.role)
        if really is None or (really in _ELECTRIC and dice.random() > _AS_TAKEN_CHANCE):
            really = _ELECTRIC[int(dice.integers(len(_ELECTRIC)))]
        found.append(WireOnBench(wire=wire, really=really, ohms=float(dice.uniform(*_COPPER_OHM))))
    return tuple(found)


def shown(wire_on_bench: WireOnBench, measure: str) -> float:
    """A reading of a wire: volts to chassis, ohms to its other wire, or whether it is connected."""
    if measure == OHMS:
        return wire_on_bench.ohms
    if measure == HEARD:
        return float(wire_on_bench.really in (Really.SPEAKER, Really.GROUND))
    live_v = {Really.HALF_TURN_ON: _HALF_V, Really.DEAD: 0.0, Really.SPEAKER: 0.0, Really.GROUND: 0.0}
    on_v = live_v.get(wire_on_bench.really, _BATTERY_V)
    if measure == ON:
        return on_v
    if measure == LOADED:
        return min(on_v, _WEAK_V) if wire_on_bench.really is Really.WEAK_TURN_ON else on_v
    if measure in (OFF, ASLEEP):
        return on_v if wire_on_bench.really is Really.CONSTANT else 0.0
    raise ValueError(f"nothing shows “{measure}” of a wire")
