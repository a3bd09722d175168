"""The least clipping that a capture would have shown, from its harmonics, its noise and its length."""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import format_hertz

Array = NDArray[np.float64]

MISLEADS_DB = 0.5
"""A wave is called clean where this much clipping is ruled out: some 2 % of distortion."""
BAND = 0.45
"""Part of the rate up to which a recorder surely passes a harmonic; its filter removes what lies beyond a half."""
_MISSED_ONCE = 3.1
"""Standard deviations by which it is ruled out: wrongly once in a thousand captures that are clipped by as much."""
_SEEN = _MISSED_ONCE + 1.3
"""In the mean so much must harmonics stand out, to be ruled out in nine clean captures of ten."""
_STEPS_DB = np.geomspace(0.05, 12.0, 48)
_ORDERS = np.arange(2, 26)
_FINE = 2048
_PLACES = np.arange(_FINE + 1) / _FINE


def least_visible_db(frequency: float, count: int, noise: float) -> float | None:
    """
    Least overdrive of one side, in dB, that shows in `count` samples; None where none would.

    `frequency` is the tone's in cycles a sample, `noise` an RMS over the tone's amplitude. With n samples a harmonic
    of amplitude b stands b·√(n/2)/σ out of noise of σ.
    """
    inside = _ORDERS * frequency < BAND
    # Both sides alike leave no even harmonics: the third must be there.
    if not inside[1]:
        return None
    power = np.sum(_one_sided()[:, inside] ** 2, axis=1) * count / 2
    seen = np.flatnonzero(power > (_SEEN * noise) ** 2)
    return float(_STEPS_DB[seen[0]]) if seen.size else None


def rules_out(left: Array, turns: Array, frequency: float, noise: float) -> bool:
    """
    Whether clipping of MISLEADS_DB on either side is ruled out by what a sine leaves.

    `left`, shape (n,), is that over the tone's amplitude, `turns` the tone's phase at every sample, 0 where it rises
    through its middle, `noise` an RMS over the amplitude. The rest that such a clip would leave, t, lies d = |t|/σ
    from a clean wave; it is ruled out where the projection left·t/(σ·|t|) stays 3.1 below d (Neyman and Pearson).
    """
    if 3 * frequency >= BAND or noise <= 0:
        return 3 * frequency < BAND
    cycle = _left_by_a_clip(min(_ORDERS.size, int(BAND / frequency) - 1))
    for side, along in ((1, turns), (-1, turns + 0.5)):
        # Behind a recorder's filter, and as a scope samples it: few moments a cycle may all miss the flat.
        for wanted in (np.interp(along % 1, _PLACES, cycle), _sampled_clip(along)):
            length = float(np.sqrt(wanted @ wanted))
            if length <= _MISSED_ONCE * noise or side * float(left @ wanted) / length > length - _MISSED_ONCE * noise:
                return False
    return True


def _sampled_clip(turns: Array) -> Array:
    """All that a sine through these samples leaves of one that is clipped above by MISLEADS_DB."""
    angle = 2 * np.pi * turns
    sine = np.sin(angle)
    wave = np.minimum(sine, 10 ** (-MISLEADS_DB / 20))
    columns = np.stack((np.ones_like(angle), sine, np.cos(angle)))
    weights = np.linalg.solve(columns @ columns.T + 1e-9 * angle.size * np.eye(3), columns @ wave)
    return np.asarray(wave - weights @ columns)


@lru_cache(maxsize=32)
def _left_by_a_clip(orders: int) -> Array:
    """Harmonics 2 to `orders` + 1 of a sine clipped above by MISLEADS_DB, over its fundamental, at _PLACES."""
    wave = np.minimum(np.sin(2 * np.pi * np.arange(_FINE) / _FINE), 10 ** (-MISLEADS_DB / 20))
    bins = np.fft.rfft(wave)
    kept = np.zeros_like(bins)
    kept[2 : orders + 2] = bins[2 : orders + 2]
    cycle = np.fft.irfft(kept, _FINE) / (2 * np.abs(bins[1]) / _FINE)
    return np.append(cycle, cycle[0])


def record_faster(rate_hz: float) -> str:
    """Advice where the third harmonic lies beyond the band: the highest tone whose own a rate surely holds."""
    return f"Record faster, or choose a tone below {format_hertz(rate_hz * BAND / 3, 2)}."


@lru_cache(maxsize=1)
def _one_sided() -> Array:
    """Harmonics 2 to 25 of a sine clipped on one side, over its fundamental; a row for each overdrive."""
    turns = np.sin(2 * np.pi * np.arange(_FINE) / _FINE)
    waves = np.minimum(turns, 10 ** (-_STEPS_DB[:, None] / 20))
    bins = np.abs(np.fft.rfft(waves, axis=1))
    return np.asarray(bins[:, 2:26] / bins[:, 1:2])
