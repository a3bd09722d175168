"""A simulated filter on an amplifier: a dial whose scale is off by some per cent."""

from upper_rook.core.common.units import Frozen, Hertz
from upper_rook.core.signal.filters import Pass


class DialModel(Frozen):
    """A Butterworth filter whose corner follows a logarithmic dial."""

    kind: Pass
    order: int
    lowest_hz: Hertz
    highest_hz: Hertz
    off: float = 1.0
    """What its corner really is of what the scale says."""

    def corner_hz(self, turned: float) -> float:
        """Where it stands, from 0 (fully down) to 1 (fully up)."""
        return float(self.off * self.lowest_hz * (self.highest_hz / self.lowest_hz) ** turned)

    def gain(self, turned: float | None, frequency_hz: float) -> float:
        """What it leaves of a tone; with the filter out, None, everything."""
        if turned is None:
            return 1.0
        away = self.corner_hz(turned) / frequency_hz
        past = away if self.kind is Pass.HIGH else 1 / away
        return float((1 + past ** (2 * self.order)) ** -0.5)
