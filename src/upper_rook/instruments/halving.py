"""A knob turned until something just holds, by halving its travel."""

from collections.abc import Callable

_TURNS = 18
"""Halvings of a knob's travel until it stands."""


def halved(is_below: Callable[[float], bool]) -> float:
    """The highest position of a knob that is still below, by halving."""
    low, high = 0.0, 1.0
    if is_below(high):
        return high
    for _ in range(_TURNS):
        middle = (low + high) / 2
        if is_below(middle):
            low = middle
        else:
            high = middle
    return low
