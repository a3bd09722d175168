"""Test tones as RIFF WAVE files."""

import io

import numpy as np
import soundfile

from upper_rook.core.tones import Tone, sine


def tone_wav(tone: Tone, seconds: float = 10.0, rate_hz: int = 48000) -> bytes:
    """A stereo 16-bit file of `tone` that loops without a click, with triangular dither."""
    samples = sine(tone, seconds, rate_hz)
    step = 2.0**-15
    dice = np.random.default_rng(16)
    dither = (dice.random(samples.size) - dice.random(samples.size)) * step
    # Full scale leaves no room for dither above it.
    whole = np.clip(np.round((samples + dither) / step), -32768, 32767).astype(np.int16)
    file = io.BytesIO()
    soundfile.write(file, np.column_stack((whole, whole)), rate_hz, subtype="PCM_16", format="WAV")
    return file.getvalue()
