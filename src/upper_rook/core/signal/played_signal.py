"""Signals to be played from a phone, a stick or a disc: a sine, a sweep, noise, level steps, silence."""

from enum import StrEnum
from typing import Annotated, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import Frozen, Hertz, format_hertz, format_signed
from upper_rook.core.signal import pink_noise
from upper_rook.core.signal.swept_tone import sweep
from upper_rook.core.signal.tones import Tone, ToneLevel, sine

RATE_HZ = 48_000
STEPS_DB = (-20.0, -12.0, -6.0, -3.0, 0.0)
"""Levels of the level steps, below the chosen one."""


class SignalKind(StrEnum):
    """Kind of a signal."""

    SINE = "sine"
    SWEEP = "sweep"
    PINK_NOISE = "pink_noise"
    LEVEL_STEPS = "level_steps"
    """A sine at −20, −12, −6, −3 and 0 dB of its level, one after the other."""
    SILENCE = "silence"


class PlayedSignal(Frozen):
    """A signal as it is asked for."""

    kind: SignalKind = SignalKind.SINE
    frequency_hz: Hertz = 1000.0
    """Of a sine and of level steps."""
    level_dbfs: ToneLevel = 0.0
    """0 dBFS is a sine whose peak is full scale (AES17, memory); pink noise lies 20 dB below, so that its peaks fit."""
    seconds: Annotated[float, Field(ge=1, le=120)] = 10.0
    """Length; of level steps that of each."""
    from_hz: Hertz = 20.0
    """Where a sweep begins."""
    to_hz: Hertz = 20_000.0

    @model_validator(mode="after")
    def _can_be_played(self) -> Self:
        if max(self.frequency_hz, self.from_hz, self.to_hz) > RATE_HZ / 2.2:
            raise BadInput(
                "A file of 48 kHz holds no more than about 21.8 kHz: choose a lower frequency.", "frequency_hz"
            )
        if self.from_hz >= self.to_hz:
            raise BadInput("A sweep goes up: give a lower frequency to begin with.", "from_hz")
        return self

    @property
    def loops(self) -> bool:
        """Whether it can be repeated without a click."""
        return self.kind in {SignalKind.SINE, SignalKind.PINK_NOISE, SignalKind.SILENCE}

    @property
    def label(self) -> str:
        """As it is said aloud and written into a file: "1 kHz sine at 0 dBFS"."""
        level = format_signed(self.level_dbfs)
        if self.kind is SignalKind.SWEEP:
            return f"sweep from {format_hertz(self.from_hz)} to {format_hertz(self.to_hz)} at {level} dBFS"
        if self.kind is SignalKind.PINK_NOISE:
            return f"pink noise at {format_signed(self.level_dbfs + pink_noise.LEVEL_DBFS)} dBFS RMS"
        if self.kind is SignalKind.SILENCE:
            return "silence"
        sound = Tone(frequency_hz=self.frequency_hz, level_dbfs=self.level_dbfs).label
        return sound if self.kind is SignalKind.SINE else f"level steps up to {sound}"


def samples(signal: PlayedSignal, rate_hz: int = RATE_HZ) -> NDArray[np.float64]:
    """One channel of `signal` in full scale ±1; shape (about seconds · rate_hz,)."""
    level = signal.level_dbfs
    if signal.kind is SignalKind.SWEEP:
        return sweep(level, signal.seconds, rate_hz, between_hz=(signal.from_hz, signal.to_hz))
    if signal.kind is SignalKind.PINK_NOISE:
        return pink_noise.pink_noise(signal.seconds, rate_hz, level + pink_noise.LEVEL_DBFS)
    if signal.kind is SignalKind.SILENCE:
        return np.zeros(round(signal.seconds * rate_hz))
    wave = sine(Tone(frequency_hz=signal.frequency_hz, level_dbfs=level), signal.seconds, rate_hz)
    if signal.kind is SignalKind.SINE:
        return wave
    # Each holds whole cycles, so that one goes over into the next without a click.
    return np.concatenate([wave * 10 ** (step / 20) for step in STEPS_DB])
