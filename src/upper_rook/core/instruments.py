"""What a meter can be trusted for: its uncertainty, and a reading held against a wanted band."""

import math
from enum import StrEnum

from upper_rook.core.errors import NotFound
from upper_rook.core.units import Frozen, Hertz, Key, ratio_db


class MeterProfile(Frozen):
    """An AC voltmeter's data sheet: ±(percent of reading + digits), its display and its frequency range."""

    id: Key
    name: str
    percent: float
    digits: int
    counts: int
    """Display counts, for example 4000: ranges end at 0.4, 4, 40, 400 V."""
    true_rms: bool
    lowest_hz: Hertz
    highest_hz: Hertz
    simulated: bool = False

    def resolution_v(self, value_v: float) -> float:
        """Volts per digit on the lowest range that holds `value_v`."""
        top = self.counts / math.pow(10, math.ceil(math.log10(self.counts)))
        ranges = [top * 10.0**decade for decade in range(4)]
        fit = next((edge for edge in ranges if value_v <= edge), ranges[-1])
        return fit / self.counts

    def uncertainty_v(self, value_v: float, frequency_hz: float) -> float | None:
        """
        Expanded uncertainty (k = 2, about 95 %) in volts, or None where the data sheet promises nothing.

        The specification is a rectangular bound, so its standard uncertainty is the bound over √3 (JCGM 100).
        """
        if not self.lowest_hz <= frequency_hz <= self.highest_hz:
            return None
        bound = self.percent / 100 * value_v + self.digits * self.resolution_v(value_v)
        return 2 * bound / math.sqrt(3)


# Typical data sheets (common practice, no source); a person's own meter comes closer to one of them than to nothing.
PROFILES: tuple[MeterProfile, ...] = (
    MeterProfile(
        id="true-rms",
        name="True-RMS multimeter",
        percent=1.0,
        digits=3,
        counts=6000,
        true_rms=True,
        lowest_hz=40,
        highest_hz=1000,
    ),
    MeterProfile(
        id="average",
        name="Simple multimeter (average-responding)",
        percent=1.2,
        digits=5,
        counts=2000,
        true_rms=False,
        lowest_hz=40,
        highest_hz=400,
    ),
    MeterProfile(
        id="scope",
        name="Small oscilloscope, its RMS figure",
        percent=3.0,
        digits=2,
        counts=256,
        true_rms=True,
        lowest_hz=10,
        highest_hz=20000,
    ),
    MeterProfile(
        id="simulated",
        name="Simulated meter",
        percent=0.8,
        digits=3,
        counts=6000,
        true_rms=True,
        lowest_hz=20,
        highest_hz=20000,
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


class Limits(Frozen):
    """The band a reading must fall in, in the target's unit."""

    low: float
    high: float


class Fit(StrEnum):
    """Where a reading lies against its band, its uncertainty counted (JCGM 106)."""

    INSIDE = "inside"
    UNSURE = "unsure"
    """The reading is in the band, but the instrument's doubt reaches past an edge."""
    BELOW = "below"
    ABOVE = "above"


class Comparison(Frozen):
    """A reading held against a target: how far, which way, how sure."""

    fit: Fit
    percent: float
    """(reading − target) / target, in %."""
    db: float
    """20·log10(reading/target)."""
    sentence: str


def compare(value: float, uncertainty: float | None, target: float, limits: Limits) -> Comparison:
    """Holds `value` ± `uncertainty` (same unit as `target`) against `limits`."""
    percent, db = 100 * (value / target - 1), ratio_db(value, target)
    distance = f"{abs(percent):.1f} % ({abs(db):.2f} dB)"
    if value < limits.low:
        fit, sentence = Fit.BELOW, f"{distance} below: turn up."
    elif value > limits.high:
        fit, sentence = Fit.ABOVE, f"{distance} above: turn down."
    elif uncertainty is None:
        fit, sentence = Fit.UNSURE, "In the band, but the meter's data sheet says nothing about this frequency."
    elif value - uncertainty < limits.low or value + uncertainty > limits.high:
        fit, sentence = Fit.UNSURE, "In the band, but near enough to its edge for the meter to be wrong about it."
    else:
        fit, sentence = Fit.INSIDE, "In the band."
    return Comparison(fit=fit, percent=percent, db=db, sentence=sentence)
