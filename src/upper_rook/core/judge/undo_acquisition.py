"""
Samples as an instrument took them, where it exports lines between them, pairs of extremes, or deep memory.

Each is brought back to even samples before anything is judged.
"""

import numpy as np

from upper_rook.core.judge.segment import FEWEST_CYCLES
from upper_rook.core.signal import tone_fit
from upper_rook.core.signal.trace import Trace

_MANY_SAMPLES = 6000
_WISHED_SAMPLES = 3000
"""Number of samples that averages leave: more add no certainty worth their time."""
_FEWEST_PER_CYCLE = 100
"""Averages over less than this part of a cycle leave a corner as it is."""
_KEPT = 0.98
"""Of the power, at least, must lie so low that the averages hold it."""


_MOST_BETWEEN = 20
"""Points drawn for one sample, at most."""
_BENDS_THERE = 0.999
"""Of a polygon's bends, at least, lie at its corners."""
_MOST_OF_RATE = 0.2
"""Of a polygon's corners a second, the highest tone that they can be the samples of."""
_TURNS = 0.95
"""Of the points of a row of extremes, at least, turn back."""
_PLAIN_SHARE = 1e-6


def undo_acquisition(trace: Trace) -> tuple[Trace, str]:
    """`trace` as its instrument took it, and how that differs from what was exported; empty where it doesn't."""
    if trace.volts.size < 3 * _MOST_BETWEEN or not np.all(np.isfinite(trace.volts)):
        return trace, ""
    for found, told in ((_corners(trace), "Lines were drawn between samples"), (_middles(trace), _PAIRS)):
        if found is not None:
            return thinned(found), f"{told}: only the samples are analysed."
    return thinned(trace), ""


_PAIRS = "The file holds the lowest and highest of each interval; their middle is used"


def _corners(trace: Trace) -> Trace | None:
    """The corners of a polygon, where nearly all of its bends are at every n-th point."""
    volts = np.asarray(trace.volts[: 100 * _MOST_BETWEEN], dtype=np.float64)
    bends = np.diff(volts, 2) ** 2
    whole = float(bends.sum())
    if whole <= _PLAIN_SHARE * float(np.ptp(volts)) ** 2 or tone_fit.middle(bends) > 1e-6 * bends.max():
        return None
    for by in range(_MOST_BETWEEN, 1, -1):
        sums = np.array([bends[place::by].sum() for place in range(by)])
        if sums.max() > _BENDS_THERE * whole:
            first = (int(sums.argmax()) + 1) % by
            corners = np.asarray(trace.volts[first::by], dtype=np.float64)
            # A triangle has corners as well, two a cycle, and nothing was drawn between samples there.
            if tone_fit.coarse_frequency(corners) > _MOST_OF_RATE:
                return None
            return Trace(corners, trace.rate_hz / by, trace.name, trace.limits_v)
    return None


def _middles(trace: Trace) -> Trace | None:
    """The middles of pairs, where lowest and highest alternate from point to point."""
    volts = np.asarray(trace.volts[: trace.volts.size // 2 * 2], dtype=np.float64)
    bends = np.diff(volts, 2)
    if float(np.mean(bends[1:] * bends[:-1] < 0)) < _TURNS:
        return None
    if tone_fit.middle(np.abs(bends)) < 4 * tone_fit.code_step(volts):
        return None
    return Trace(volts.reshape(-1, 2).mean(axis=1), trace.rate_hz / 2, trace.name, trace.limits_v)


def thinned(trace: Trace) -> Trace:
    """
    `trace` as averages over equal stretches, where those still hold its tone; else itself.

    The loudest part of a deep memory would hold no cycle of a low tone, and no more points are worth their time.
    """
    count = trace.volts.size
    by = -(-count // _WISHED_SAMPLES)
    if count <= _MANY_SAMPLES or not np.all(np.isfinite(trace.volts)):
        return trace
    rows = trace.volts[: count // by * by].reshape(-1, by)
    volts = np.asarray(rows.mean(axis=1, dtype=np.float64))
    whole = float(np.var(trace.volts, dtype=np.float64))
    if whole <= 0 or float(volts.var()) < _KEPT * whole:
        return trace
    frequency = tone_fit.coarse_frequency(volts)
    if not FEWEST_CYCLES / volts.size < frequency < 1 / _FEWEST_PER_CYCLE:
        return trace
    code_v = tone_fit.code_step(np.asarray(trace.volts[:: max(1, count // _WISHED_SAMPLES)], dtype=np.float64))
    return Trace(volts, trace.rate_hz / by, trace.name, trace.limits_v, averaged=by, code_v=code_v)
