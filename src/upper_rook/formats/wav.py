"""Audio files: test signals out as WAV or FLAC, captures in as WAV."""

import io
import re
from enum import StrEnum
from typing import BinaryIO, NamedTuple

import numpy as np
import soundfile
from numpy.typing import NDArray

from upper_rook.core.common.errors import BadInput
from upper_rook.core.signal.pink_noise import pink_noise
from upper_rook.core.signal.played_signal import RATE_HZ, PlayedSignal, samples
from upper_rook.core.signal.swept_tone import sweep
from upper_rook.core.signal.tones import Tone, sine
from upper_rook.core.signal.trace import Trace
from upper_rook.formats.progress import Progress

MOST_CHANNELS = 16
_DOUBLE_SAMPLES = 20_000_000
"""Beyond this many values they are kept in single precision, to spare memory."""
_BLOCK_FRAMES = 1 << 20


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


def tone_file_name(tone: Tone, kind: AudioFile = AudioFile.WAV) -> str:
    """Name of a tone's file."""
    what = "sweep-20-Hz-20-kHz" if tone.swept else f"sine-{tone.frequency_hz:g}-Hz"
    return f"{what}-{tone.level_dbfs:g}-dBFS.{kind.value}"


def tone_wav(tone: Tone, seconds: float = 10.0, rate_hz: int = 48000) -> bytes:
    """A stereo 16-bit file of `tone` that loops without a click, with triangular dither; a sweep takes its minute."""
    return tone_file(tone, seconds, rate_hz)


def tone_file(
    tone: Tone,
    seconds: float = 10.0,
    rate_hz: int = 48000,
    kind: AudioFile = AudioFile.WAV,
    tags: Tags = Tags(),  # noqa: B008 nobody writes into it
) -> bytes:
    """The same as a WAV or FLAC file, with what a player shows."""
    if tone.swept:
        return _dithered(sweep(tone.level_dbfs, rate_hz=rate_hz), rate_hz, kind=kind, tags=tags)
    part_s, times = _looped(seconds)
    return _dithered(sine(tone, part_s, rate_hz), rate_hz, times, kind=kind, tags=tags)


def pink_noise_file(
    seconds: float = 10.0,
    rate_hz: int = 48000,
    kind: AudioFile = AudioFile.WAV,
    tags: Tags = Tags(),  # noqa: B008 nobody writes into it
) -> bytes:
    """The same of pink noise from 20 Hz to 20 kHz, −20 dBFS RMS."""
    part_s, times = _looped(seconds)
    return _dithered(pink_noise(part_s, rate_hz), rate_hz, times, kind=kind, tags=tags)


_LOOP_S = 10.0


def _looped(seconds: float) -> tuple[float, int]:
    """A part that loops without a click, and how often it plays: a minute needn't be worked out six times over."""
    times = int(seconds // _LOOP_S)
    return (_LOOP_S, times) if times > 1 and seconds == times * _LOOP_S else (seconds, 1)


def signal_file(signal: PlayedSignal, kind: AudioFile) -> bytes:
    """A stereo 16-bit file of a signal, with triangular dither and its name as the title."""
    return _dithered(samples(signal), RATE_HZ, kind=kind, tags=Tags(signal.label))


def signal_file_name(signal: PlayedSignal, kind: AudioFile) -> str:
    """Name of a signal's file, of letters that every player's file system has."""
    plain = signal.label.replace("−", "-").replace("+", "")
    return "-".join(re.sub(r"[^A-Za-z0-9.-]+", " ", plain).split()) + f".{kind.value}"


def _dithered(
    samples: NDArray[np.float64],
    rate_hz: int,
    times: int = 1,
    *,
    kind: AudioFile = AudioFile.WAV,
    tags: Tags = Tags(),  # noqa: B008 nobody writes into it
) -> bytes:
    """Samples in full scale ±1, so many times over, as a stereo 16-bit file with triangular dither."""
    step = 2.0**-15
    dice = np.random.default_rng(16)
    dither = (dice.random(samples.size) - dice.random(samples.size)) * step
    # Full scale leaves no room for dither above it.
    whole = np.clip(np.round((samples + dither) / step), -32768, 32767).astype(np.int16)
    file = io.BytesIO()
    with soundfile.SoundFile(file, "w", rate_hz, 2, "PCM_16", format=kind.value.upper()) as writer:
        for name, value in (("title", tags.title), ("tracknumber", str(tags.number or "")), ("album", tags.album)):
            if value:
                setattr(writer, name, value)
        writer.write(np.tile(np.column_stack((whole, whole)), (times, 1)))
    return file.getvalue()


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
    names = ("left", "right") if frames.shape[1] == 2 else tuple(f"CH{one + 1}" for one in range(frames.shape[1]))
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
