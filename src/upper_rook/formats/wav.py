"""Captures in WAV files."""

from typing import BinaryIO

import numpy as np
import soundfile

from upper_rook.core.common.errors import BadInput
from upper_rook.core.signal.trace import Trace
from upper_rook.formats.progress import Progress

MOST_CHANNELS = 16
_DOUBLE_SAMPLES = 20_000_000
"""Beyond this many values they are kept in single precision, to spare memory."""
_BLOCK_FRAMES = 1 << 20


def read_wav(file: BinaryIO, full_scale_v: float = 1.0, progress: Progress | None = None) -> list[Trace]:
    """
    The channels in `file`, PCM or float of any width; full scale is `full_scale_v` volts.

    Raises:
        BadInput: with one sentence that says what was expected.
    """
    try:
        with soundfile.SoundFile(file) as wave:
            if wave.format not in ("WAV", "WAVEX", "RF64"):
                raise BadInput(f"A {wave.format} file: a WAV file is expected.")
            if wave.channels > MOST_CHANNELS:
                raise BadInput(f"{wave.channels} channels: at most {MOST_CHANNELS} are read.")
            frames, limits = _frames(wave, full_scale_v, progress), _limits(wave.subtype, full_scale_v)
            rate = float(wave.samplerate)
    except soundfile.LibsndfileError as error:
        raise BadInput(
            f"The WAV file can’t be read ({error.error_string.rstrip('.')}): save it again as PCM."
        ) from None
    if frames.shape[0] == 0:
        raise BadInput("The WAV file holds no samples.")
    if not np.all(np.isfinite(frames)):
        raise BadInput("The WAV file holds values that aren’t numbers: record it again.")
    names = ("left", "right") if frames.shape[1] == 2 else tuple(f"CH{number + 1}" for number in range(frames.shape[1]))
    return [Trace(frames[:, place], rate, name, limits) for place, name in enumerate(names)]


def _frames(wave: soundfile.SoundFile, full_scale_v: float, progress: Progress | None) -> np.ndarray:
    """(frame, channel) in volts."""
    whole = wave.frames * wave.channels
    frames = np.empty((wave.frames, wave.channels), dtype=np.float64 if whole <= _DOUBLE_SAMPLES else np.float32)
    done = 0
    while done < wave.frames:
        part = wave.read(_BLOCK_FRAMES, dtype=frames.dtype.name, always_2d=True)
        if part.shape[0] == 0:
            break
        frames[done : done + part.shape[0]] = part * full_scale_v
        done += part.shape[0]
        if progress:
            progress(done * wave.channels)
    return frames[:done]


def _limits(subtype: str, full_scale_v: float) -> tuple[float, float] | None:
    """Highest value of an integer converter; floating point has no such limit."""
    bits = {"PCM_U8": 8, "PCM_S8": 8, "PCM_16": 16, "PCM_24": 24, "PCM_32": 32}.get(subtype)
    return (-full_scale_v, full_scale_v * (1 - 2.0 ** (1 - bits))) if bits else None
