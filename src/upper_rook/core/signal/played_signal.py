"""Signals to be played from a phone, a stick or a disc: a sine, a sweep, noise, level steps, silence."""

from enum import StrEnum
from typing import Annotated, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from upper_rook.core.common.cautions import SPEAKERS_OFF, Caution
from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import Frozen, Hertz, format_hertz, format_signed
from upper_rook.core.signal import pink_noise
from upper_rook.core.signal.swept_tone import sweep
from upper_rook.core.signal.tones import Tone, ToneLevel, sine

RATE_HZ = 48_000
STEPS_DB = (-20.0, -12.0, -6.0, -3.0, 0.0)
"""Levels of the level steps, below the chosen one."""
LEAST_S, MOST_S = 1.0, 120.0
HIGHEST_HZ = RATE_HZ / 2.2
"""A file of 48 kHz holds no higher sine with room for the player's filter (common practice, no source)."""


class SignalKind(StrEnum):
    """Kind of a signal."""

    SINE = "sine"
    SWEEP = "sweep"
    PINK_NOISE = "pink_noise"
    LEVEL_STEPS = "level_steps"
    """A sine at −20, −12, −6, −3 and 0 dB of its level, one after the other."""
    SILENCE = "silence"


class KindOffered(Frozen):
    """A kind of signal as it is offered: its name, a sentence about it, and the fields that it has."""

    kind: SignalKind
    label: str
    about: str
    usual_s: float
    """Length where none is given."""
    loops: bool = False
    """Whether it can be repeated without a click."""
    one_frequency: bool = False
    two_frequencies: bool = False
    leveled: bool = True


KINDS = (
    KindOffered(
        kind=SignalKind.SINE,
        label="Sine",
        about="Played here it goes on until you stop it. Its file ends after whole cycles, so that it repeats cleanly.",
        usual_s=10.0,
        loops=True,
        one_frequency=True,
    ),
    KindOffered(
        kind=SignalKind.SWEEP,
        label="Sweep",
        about="Each octave takes as long as the next. Nothing else may sound meanwhile.",
        usual_s=60.0,
        two_frequencies=True,
    ),
    KindOffered(
        kind=SignalKind.PINK_NOISE,
        label="Pink noise",
        about="As much power in each octave, from 20 Hz to 20 kHz. Its RMS lies 20 dB below the level; peaks reach it.",
        usual_s=10.0,
        loops=True,
    ),
    KindOffered(
        kind=SignalKind.LEVEL_STEPS,
        label="Level steps",
        about="The sine at −20, −12, −6, −3 and 0 dB of its level, one after the other: volts must follow.",
        usual_s=5.0,
        one_frequency=True,
    ),
    KindOffered(
        kind=SignalKind.SILENCE,
        label="Silence",
        about="Shows what noise and hum a source leaves with nothing played.",
        usual_s=10.0,
        loops=True,
        leveled=False,
    ),
)
_OFFERED = {offered.kind: offered for offered in KINDS}


class SignalChoices(Frozen):
    """Everything that can be chosen for a signal."""

    kinds: tuple[KindOffered, ...] = KINDS
    levels_dbfs: tuple[float, ...] = (0, -3, -5, -6, -10, -12, -20)
    cautions: tuple[Caution, ...] = (SPEAKERS_OFF,)


class PlayedSignal(Frozen):
    """A signal as it is asked for."""

    kind: SignalKind = SignalKind.SINE
    frequency_hz: Hertz = 1000.0
    """Of a sine and of level steps."""
    level_dbfs: ToneLevel = 0.0
    """0 dBFS is a sine whose peak is full scale (AES17, memory); pink noise lies 20 dB below, so that its peaks fit."""
    seconds: Annotated[float, Field(ge=LEAST_S, le=MOST_S)] | None = None
    """Length; of level steps that of each; the kind's usual one where none is given."""
    from_hz: Hertz = 20.0
    """Where a sweep begins."""
    to_hz: Hertz = 20_000.0

    @model_validator(mode="after")
    def _can_be_played(self) -> Self:
        for name in ("frequency_hz", "from_hz", "to_hz"):
            if getattr(self, name) > HIGHEST_HZ:
                raise BadInput("A file of 48 kHz holds no more than about 21.8 kHz: choose a lower frequency.", name)
        if self.from_hz >= self.to_hz:
            raise BadInput("A sweep goes up: give a lower frequency to begin with.", "from_hz")
        return self

    @classmethod
    def of(cls, tone: Tone, seconds: float | None = None) -> Self:
        """
        The signal that a run's tone is played by; a sweep always takes its usual minute.

        Raises:
            BadInput: where the tone lies above what a file of 48 kHz holds.
        """
        if tone.swept:
            return cls(kind=SignalKind.SWEEP, level_dbfs=tone.level_dbfs)
        return cls(frequency_hz=tone.frequency_hz, level_dbfs=tone.level_dbfs, seconds=seconds)

    @property
    def length_s(self) -> float:
        """Length in seconds; of level steps that of each."""
        return self.seconds or _OFFERED[self.kind].usual_s

    @property
    def loops(self) -> bool:
        """Whether it can be repeated without a click."""
        return _OFFERED[self.kind].loops

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
    """One channel of `signal` in full scale ±1; shape (about length_s · rate_hz,)."""
    level = signal.level_dbfs
    if signal.kind is SignalKind.SWEEP:
        return sweep(level, signal.length_s, rate_hz, between_hz=(signal.from_hz, signal.to_hz))
    if signal.kind is SignalKind.PINK_NOISE:
        return pink_noise.pink_noise(signal.length_s, rate_hz, level + pink_noise.LEVEL_DBFS)
    if signal.kind is SignalKind.SILENCE:
        return np.zeros(round(signal.length_s * rate_hz))
    wave = sine(Tone(frequency_hz=signal.frequency_hz, level_dbfs=level), signal.length_s, rate_hz)
    if signal.kind is SignalKind.SINE:
        return wave
    # Each holds whole cycles, so that one goes over into the next without a click.
    return np.concatenate([wave * 10 ** (step / 20) for step in STEPS_DB])
