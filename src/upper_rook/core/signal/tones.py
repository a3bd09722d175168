"""Test tones: what is played, at which level."""

from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from upper_rook.core.common.units import Frozen, Hertz, format_signed, from_db

ToneLevel = Annotated[float, Field(ge=-40, le=0)]


class Tone(Frozen):
    """A sine: frequency in Hz and level in dBFS (0 dBFS is a sine whose peak is full scale; AES17, memory)."""

    frequency_hz: Hertz
    level_dbfs: ToneLevel = 0.0
    swept: bool = False
    """Played as a sweep and read at its highest, which is expected at `frequency_hz`."""

    @property
    def label(self) -> str:
        """As it is said aloud: "1 kHz sine at 0 dBFS"."""
        if self.swept:
            return f"sweep from 20 Hz to 20 kHz at {self.level_label} dBFS, by its highest volts"
        hz = self.frequency_hz
        name = f"{hz / 1000:g} kHz" if hz >= 1000 else f"{hz:g} Hz"
        return f"{name} sine at {self.level_label} dBFS"

    @property
    def level_label(self) -> str:
        """Its level as a number with a true minus."""
        return format_signed(self.level_dbfs)


SUB_TONE_HZ = 50.0
FULL_TONE_HZ = 1000.0


def sine(tone: Tone, seconds: float, rate_hz: int = 48000) -> NDArray[np.float64]:
    """
    Samples of `tone` in full scale ±1, cut to a whole number of cycles so that it loops without a click.

    Where so many seconds don't hold whole cycles within 1 part in 10⁸, it is shortened, by half at the most, to the
    length that comes nearest to the frequency.
    """
    count = _whole_cycles(tone.frequency_hz, round(seconds * rate_hz), rate_hz)
    cycles = max(1, round(tone.frequency_hz * count / rate_hz))
    return from_db(tone.level_dbfs) * np.sin(2 * np.pi * cycles * np.arange(count) / count)


_EXACT = 1e-8


def _whole_cycles(frequency_hz: float, longest: int, rate_hz: int) -> int:
    """Number of samples, `longest` or down to half of it, that holds whole cycles most exactly."""
    counts = np.arange(longest, max(1, longest // 2) - 1, -1)
    cycles = frequency_hz * counts / rate_hz
    off = np.abs(np.maximum(1, np.round(cycles)) / cycles - 1)
    return int(counts[0] if off[0] < _EXACT else counts[np.argmin(off)])
