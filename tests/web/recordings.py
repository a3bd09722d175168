"""Recordings as a sound card makes them."""

import io

import numpy as np
import soundfile

from upper_rook.core.signal.swept_tone import swept_sine

_RATE, _SECONDS = 48_000, 12.0


def swept(volts: float, full_scale_v: float) -> bytes:
    """A sweep of so many volts RMS, recorded where full scale is `full_scale_v`, as a WAV file."""
    times = np.arange(round(_SECONDS * _RATE)) / _RATE
    file = io.BytesIO()
    wave = volts * np.sqrt(2) / full_scale_v * swept_sine(times, _SECONDS)
    soundfile.write(file, wave, _RATE, subtype="PCM_24", format="WAV")
    return file.getvalue()
