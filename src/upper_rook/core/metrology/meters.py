"""Uncertainty of meters by their data sheets."""

import math

from upper_rook.core.common.errors import NotFound
from upper_rook.core.common.units import Frozen, Hertz, Key


class Promise(Frozen):
    """Promise of a data sheet for a band of frequencies: ±(percent of the reading + digits)."""

    lowest_hz: Hertz
    highest_hz: Hertz
    percent: float
    digits: int


class MeterProfile(Frozen):
    """The data sheet of an AC voltmeter or of a scope's RMS figure."""

    id: Key
    name: str
    promises: tuple[Promise, ...]
    """Bands of frequencies, lowest first; outside them nothing is promised."""
    ranges_v: tuple[float, ...]
    """Full scale of each range, lowest first."""
    steps: int
    """Steps of the display in a range: its counts, or the codes of a converter of so many bits."""
    true_rms: bool
    bandwidth_hz: Hertz | None = None
    """Where it reads 3 dB low, if the data sheet says so."""
    reads_dc: bool = False
    """Whether a DC part counts in its reading."""
    probe_factors: bool = False
    """Whether it is used with probes that divide."""
    settles_s: float = 1.0
    """How long its display needs after a change (common practice, no source)."""
    simulated: bool = False
    dc_percent: float = 0.5
    """Of a DC reading, on top of two steps of the display."""

    def resolution_v(self, value_v: float) -> float:
        """Volts per step on the lowest range that holds `value_v`."""
        fit = next((full for full in self.ranges_v if value_v <= full), self.ranges_v[-1])
        return fit / self.steps

    def promise(self, frequency_hz: float) -> Promise | None:
        """Promise of the data sheet at a frequency."""
        return next(
            (promise for promise in self.promises if promise.lowest_hz <= frequency_hz <= promise.highest_hz), None
        )

    def uncertainty_v(self, value_v: float, frequency_hz: float) -> float | None:
        """
        Expanded uncertainty (k = 2, about 95 %) in volts, or None where the data sheet promises nothing.

        The specification is a rectangular bound, so its standard uncertainty is the bound over √3 (JCGM 100).
        """
        promised = self.promise(frequency_hz)
        if promised is None or value_v > self.ranges_v[-1]:
            return None
        bound = promised.percent / 100 * value_v + promised.digits * self.resolution_v(value_v)
        return 2 * bound / math.sqrt(3)

    def dc_uncertainty_v(self, value_v: float) -> float | None:
        """The same of a DC reading."""
        if abs(value_v) > self.ranges_v[-1]:
            return None
        bound = self.dc_percent / 100 * abs(value_v) + 2 * self.resolution_v(abs(value_v))
        return 2 * bound / math.sqrt(3)


def _decades(first: float, count: int = 4) -> tuple[float, ...]:
    return tuple(first * 10.0**decade for decade in range(count))


# Typical data sheets (common practice, no source); a person's own meter comes closer to one of them than to nothing.
PROFILES: tuple[MeterProfile, ...] = (
    MeterProfile(
        id="true-rms",
        name="True-RMS multimeter",
        promises=(
            Promise(lowest_hz=40, highest_hz=500, percent=1.0, digits=3),
            Promise(lowest_hz=500, highest_hz=1000, percent=1.5, digits=3),
        ),
        ranges_v=_decades(0.6),
        steps=6000,
        true_rms=True,
        bandwidth_hz=5000,
    ),
    MeterProfile(
        id="average",
        name="Simple multimeter (average-responding)",
        promises=(Promise(lowest_hz=40, highest_hz=400, percent=1.2, digits=5),),
        ranges_v=_decades(0.2),
        steps=2000,
        settles_s=2.0,
        true_rms=False,
        bandwidth_hz=2000,
    ),
    MeterProfile(
        id="doubtful",
        name="Old or doubtful meter",
        promises=(Promise(lowest_hz=40, highest_hz=1000, percent=5.0, digits=5),),
        ranges_v=_decades(0.2),
        steps=2000,
        settles_s=2.0,
        # Nobody knows what is in it: read as if a clipped wave might mislead it.
        true_rms=False,
        bandwidth_hz=2000,
        dc_percent=5.0,
    ),
    MeterProfile(
        id="lamp-volts",
        name="Distortion lamp with a voltage display",
        promises=(Promise(lowest_hz=30, highest_hz=5000, percent=2.0, digits=2),),
        ranges_v=_decades(1.0),
        steps=1000,
        true_rms=True,
        bandwidth_hz=10_000,
    ),
    MeterProfile(
        id="scope",
        name="Small oscilloscope, its RMS figure",
        promises=(Promise(lowest_hz=10, highest_hz=20000, percent=3.0, digits=2),),
        ranges_v=(0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200),
        steps=128,
        dc_percent=3.0,
        true_rms=True,
        reads_dc=True,
        probe_factors=True,
    ),
    MeterProfile(
        id="simulated",
        name="Simulated meter",
        promises=(Promise(lowest_hz=20, highest_hz=20000, percent=0.8, digits=3),),
        ranges_v=_decades(0.6),
        steps=6000,
        settles_s=0.6,
        true_rms=True,
        simulated=True,
    ),
)


def profile(instrument: str) -> MeterProfile:
    """The profile with this id. Raises NotFound."""
    for known in PROFILES:
        if known.id == instrument:
            return known
    names = ", ".join(known.id for known in PROFILES)
    raise NotFound(f"No instrument is called “{instrument}”: choose one of {names}.", "instrument")


def is_averaging(instrument: str) -> bool:
    """Whether an instrument is known to respond to the average: it reads high on a clipped wave."""
    return any(known.id == instrument and not known.true_rms for known in PROFILES)
