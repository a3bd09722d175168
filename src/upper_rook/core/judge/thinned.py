"""Deep memory: a capture of many points over few cycles, averaged down to what its judgement needs."""

import numpy as np

from upper_rook.core.judge.part import FEWEST_CYCLES, JUDGED_SAMPLES
from upper_rook.core.signal import tone_fit
from upper_rook.core.signal.trace import Trace

_WISHED_SAMPLES = 8000
_FEWEST_PER_CYCLE = 100
"""Averages over less than this part of a cycle leave a corner as it is."""
_KEPT = 0.98
"""Of the power, at least, must lie so low that the averages hold it."""


def thinned(trace: Trace) -> Trace:
    """
    `trace` as averages over equal stretches, where those still hold its tone; else itself.

    The loudest part of a deep memory would hold no cycle of a low tone, and no more points are worth their time.
    """
    count = trace.volts.size
    by = -(-count // _WISHED_SAMPLES)
    if count <= JUDGED_SAMPLES or not np.all(np.isfinite(trace.volts)):
        return trace
    rows = trace.volts[: count // by * by].reshape(-1, by)
    volts = np.asarray(rows.mean(axis=1, dtype=np.float64))
    whole = float(np.var(trace.volts, dtype=np.float64))
    if whole <= 0 or float(volts.var()) < _KEPT * whole:
        return trace
    frequency = tone_fit.coarse_frequency(volts)
    if not FEWEST_CYCLES / volts.size < frequency < 1 / _FEWEST_PER_CYCLE:
        return trace
    return Trace(volts, trace.rate_hz / by, trace.name, trace.limits_v)
