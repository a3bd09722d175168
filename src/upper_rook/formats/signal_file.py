"""Test signals as WAV or FLAC files."""

import io
import re
from enum import StrEnum
from typing import NamedTuple

import numpy as np
import soundfile
from numpy.typing import NDArray

from upper_rook.core.signal.played_signal import RATE_HZ, PlayedSignal, samples


class AudioFile(StrEnum):
    """Kind of an audio file; both hold the same samples."""

    WAV = "wav"
    FLAC = "flac"


class Tags(NamedTuple):
    """Words in an audio file that a player shows; an empty one isn't written."""

    title: str = ""
    number: int = 0
    """Track."""
    album: str = ""


_LOOP_S = 10.0


def signal_file(signal: PlayedSignal, kind: AudioFile = AudioFile.WAV, tags: Tags | None = None) -> bytes:
    """A stereo 16-bit file of a signal, with triangular dither; its title is its name unless `tags` say more."""
    times = int(signal.length_s // _LOOP_S)
    if signal.loops and times > 1 and signal.length_s == times * _LOOP_S:
        # A part that loops without a click plays so often: a minute needn't be worked out six times over.
        part = samples(signal.model_copy(update={"seconds": _LOOP_S}))
    else:
        part, times = samples(signal), 1
    return _dithered(part, times, kind, tags or Tags(signal.label))


def signal_file_name(signal: PlayedSignal, kind: AudioFile = AudioFile.WAV) -> str:
    """Name of a signal's file, of letters that every player's file system has."""
    plain = signal.label.replace("−", "-").replace("+", "")
    return "-".join(re.sub(r"[^A-Za-z0-9.-]+", " ", plain).split()) + f".{kind.value}"


def _dithered(samples: NDArray[np.float64], times: int, kind: AudioFile, tags: Tags) -> bytes:
    """Samples in full scale ±1, so many times over, as a stereo 16-bit file with triangular dither."""
    step = 2.0**-15
    dice = np.random.default_rng(16)
    dither = (dice.random(samples.size) - dice.random(samples.size)) * step
    # Full scale leaves no room for dither above it.
    whole = np.clip(np.round((samples + dither) / step), -32768, 32767).astype(np.int16)
    file = io.BytesIO()
    with soundfile.SoundFile(file, "w", RATE_HZ, 2, "PCM_16", format=kind.value.upper()) as writer:
        for name, value in (("title", tags.title), ("tracknumber", str(tags.number or "")), ("album", tags.album)):
            if value:
                setattr(writer, name, value)
        writer.write(np.tile(np.column_stack((whole, whole)), (times, 1)))
    return file.getvalue()
