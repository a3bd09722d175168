"""Whether a meter's display has settled after something was turned."""

from upper_rook.instruments.meter import Sample

_STILL = 0.5
"""A display that moves by less than this part of its doubt rests (common practice, no source)."""
_UNKNOWN_DOUBT = 0.01


class Steadiness:
    """
    Watches the updates of one meter.

    >>> watch = Steadiness(settles_s=1.0)
    >>> [watch.is_steady(Sample(value_v=volts, uncertainty_v=0.1), at_s) for volts, at_s in
    ...     ((4.0, 0.0), (4.0, 1.0), (5.0, 1.4), (5.0, 2.0), (5.01, 2.5))]
    [False, True, False, False, True]
    """

    def __init__(self, settles_s: float) -> None:
        """`settles_s` is how long a meter of that kind needs after a change."""
        self._settles_s = settles_s
        self._last: Sample | None = None
        self._since_s = 0.0

    def is_steady(self, sample: Sample, at_s: float) -> bool:
        """Whether neither the value nor what the meter knows of its circumstances has moved for long enough."""
        if self._last is None or _moved(self._last, sample):
            self._last, self._since_s = sample, at_s
        return at_s - self._since_s >= self._settles_s


def _moved(before: Sample, now: Sample) -> bool:
    if (before.point, before.tone, before.volume) != (now.point, now.tone, now.volume):
        return True
    doubt_v = now.uncertainty_v if now.uncertainty_v is not None else _UNKNOWN_DOUBT * now.value_v
    return abs(now.value_v - before.value_v) > _STILL * doubt_v
