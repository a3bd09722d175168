"""Whether a reading was taken with the tone that its step plays: frequency and level decide what it settles."""

from upper_rook.core.signal.tones import Tone

_FREQUENCY_WITHIN = 0.03
"""A player's and a meter's hertz together are off by less (common practice, no source)."""
_LEVEL_WITHIN_DB = 0.3


def is_other(played: Tone | None, wanted: Tone | None) -> bool:
    """Whether another tone played than was wanted, as far as both are known."""
    if played is None or wanted is None:
        return False
    apart = abs(played.frequency_hz / wanted.frequency_hz - 1) > _FREQUENCY_WITHIN
    return apart or abs(played.level_dbfs - wanted.level_dbfs) > _LEVEL_WITHIN_DB


def in_words(played: Tone, wanted: Tone) -> str:
    """A reading with another tone, and the way to a right one."""
    return f"read with {played.label}. Play {wanted.label} and read again"
