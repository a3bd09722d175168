"""Two instruments on the same point: do they agree within their data sheets, and if not, which usual reason fits."""

import math
from collections.abc import Iterator
from typing import Annotated

import numpy as np
from pydantic import Field

from upper_rook.core.common.units import Frozen, Hertz, Volts, format_db, format_value
from upper_rook.core.metrology.meters import MeterProfile
from upper_rook.core.signal import clipped_sine

_OVER_DB = np.linspace(0.0, 24.0, 481)
_AVERAGE = 10 ** (clipped_sine.average_meter_db(_OVER_DB) / 20)
_RATIO_TOLERANCE = 0.06
"""How near a ratio must come to a round one to be put down to it."""


class Shown(Frozen):
    """Value that one instrument shows."""

    profile: MeterProfile
    voltage_v: Volts

    @property
    def name(self) -> str:
        """Name of the instrument in a sentence."""
        return self.profile.name.partition(",")[0].partition("(")[0].strip().lower().replace("rms", "RMS")


class Point(Frozen):
    """Figures known of the point that both instruments are on."""

    frequency_hz: Hertz
    over_db: Annotated[float, Field(ge=0)] | None = None
    """Overdrive of the wave there, where it was seen; 0 for a clean one."""
    dc_v: float | None = None


class Agreement(Frozen):
    """Whether two instruments agree."""

    agree: bool | None
    """None when one of them promises nothing here."""
    ratio: float
    """The second over the first."""
    sentence: str
    reasons: tuple[str, ...] = ()
    """The usual reasons that fit, the likeliest first."""


def agreement(first: Shown, second: Shown, point: Point) -> Agreement:
    """Holds two instruments against each other: |a − b| within √(Ua² + Ub²), both expanded (JCGM 100)."""
    doubts = [shown.profile.uncertainty_v(shown.voltage_v, point.frequency_hz) for shown in (first, second)]
    ratio = second.voltage_v / first.voltage_v
    told = (
        f"The {first.name} shows {format_value(first.voltage_v, 'V')}, "
        f"the {second.name} {format_value(second.voltage_v, 'V')}"
    )
    apart = f"{abs(100 * (ratio - 1)):.1f} % apart"
    if doubts[0] is None or doubts[1] is None:
        silent = first if doubts[0] is None else second
        sentence = f"{told}: {apart}. The {silent.name} promises nothing at {format_value(point.frequency_hz, 'Hz')}."
        return Agreement(agree=None, ratio=ratio, sentence=sentence, reasons=tuple(_reasons(first, second, point)))
    allowed = math.hypot(doubts[0], doubts[1])
    if abs(first.voltage_v - second.voltage_v) <= allowed:
        return Agreement(
            agree=True, ratio=ratio, sentence=f"{told}: they agree within {format_value(allowed, 'V', 2)}."
        )
    return Agreement(
        agree=False,
        ratio=ratio,
        sentence=f"{told}: {apart}, more than their data sheets allow ({format_value(allowed, 'V', 2)}).",
        reasons=tuple(_reasons(first, second, point)) or ("None of the usual reasons fits: change one of the two.",),
    )


def _reasons(first: Shown, second: Shown, point: Point) -> Iterator[str]:
    low, high = sorted((first, second), key=lambda shown: shown.voltage_v)
    ratio = high.voltage_v / low.voltage_v
    yield from _average(low, high, ratio, point)
    yield from _dc(low, high, point)
    yield from _bandwidth(low, ratio, point)
    yield from _round_ratios(low, high, ratio)
    for shown in (first, second):
        if shown.voltage_v < 0.02 * shown.profile.ranges_v[0]:
            yield f"{format_value(shown.voltage_v, 'V')} is little for the {shown.name}: choose its lowest range."


def _average(low: Shown, high: Shown, ratio: float, point: Point) -> Iterator[str]:
    """An average-responding meter reads up to 11 % high on a clipped wave (closed form in clipped_sine)."""
    if high.profile.true_rms or not low.profile.true_rms or ratio > 1.02 * float(_AVERAGE[-1]):
        return
    if point.over_db is not None:
        predicted = 10 ** (float(clipped_sine.average_meter_db(point.over_db)) / 20)
        if abs(ratio / predicted - 1) > 0.03:
            return
    over = float(np.interp(ratio, _AVERAGE, _OVER_DB))
    yield (
        f"The {high.name} responds to the average and reads high on a clipped wave: "
        f"{format_db(over)} of clipping would do this. Believe the {low.name}."
    )


def _dc(low: Shown, high: Shown, point: Point) -> Iterator[str]:
    if not high.profile.reads_dc or low.profile.reads_dc:
        return
    needed = math.sqrt(high.voltage_v**2 - low.voltage_v**2)
    if point.dc_v is not None and abs(abs(point.dc_v) - needed) > 0.15 * needed:
        return
    yield (
        f"{format_value(needed, 'V', 3)} of DC under the tone would do this: the {high.name} counts it. "
        "Couple it to AC."
    )


def _bandwidth(low: Shown, ratio: float, point: Point) -> Iterator[str]:
    """A single-pole roll-off: 1/√(1 + (f/f₀)²)."""
    edge = low.profile.bandwidth_hz
    if edge is None:
        return
    predicted = math.hypot(1, point.frequency_hz / edge)
    if predicted > 1.01 and ratio < 1.3 * predicted:
        yield (
            f"The {low.name} reads low so far up: about {100 * (1 - 1 / predicted):.0f} % "
            f"at {format_value(point.frequency_hz, 'Hz')}."
        )


def _round_ratios(low: Shown, high: Shown, ratio: float) -> Iterator[str]:
    for wanted, told in (
        (10.0, "a ×10 probe whose factor is set on one side only"),
        (math.sqrt(2), "one of the two showing the peak, the other the RMS"),
        (2 * math.sqrt(2), "one of the two showing peak to peak, the other the RMS"),
        (2.0, "one of the two on half of a bridged output, or showing peak to peak for the peak"),
        (1000.0, "millivolts read as volts"),
    ):
        if wanted == 10.0 and not (low.profile.probe_factors or high.profile.probe_factors):
            continue
        if abs(ratio / wanted - 1) < _RATIO_TOLERANCE:
            yield f"The ratio is {ratio:.3g}: {told}."
