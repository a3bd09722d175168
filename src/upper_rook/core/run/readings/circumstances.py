"""Circumstances of a reading: as they were, not as a step wanted them."""

from enum import StrEnum
from typing import Annotated

from pydantic import Field

from upper_rook.core.common.units import Frozen, Key
from upper_rook.core.run.readings.tried_setting import TriedSetting
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.clean_maxima import TrimDb
from upper_rook.core.system.playing import INPUT_WORDS, InputKind
from upper_rook.core.system.source import ToneStep

Volume = Annotated[int, Field(ge=0, le=200)]
SupplyVolts = Annotated[float, Field(ge=-1000, le=1000)]
"""As it was read, which may be wrong: the bounds are those of any direct volts."""


class Hanging(StrEnum):
    """Load on the terminals."""

    NOTHING = "nothing"
    DUMMY = "dummy"
    SPEAKERS = "speakers"


class Circumstances(Frozen):
    """Circumstances of a reading. None is a circumstance that nobody gave."""

    volume: Volume | None = None
    """Volume number of the source."""
    tone: Tone | None = None
    way: InputKind | None = None
    """The way of playing."""
    trim_db: TrimDb | None = None
    """That way's level trim, as shown."""
    sub_level: ToneStep | None = None
    """As the source shows it."""
    supply_v: SupplyVolts | None = None
    hanging: Hanging | None = None
    row: Key | None = None
    """Row of its step, where a step asks for several readings."""
    displayed: Annotated[float, Field(ge=-1e6, le=1e6)] | None = None
    """The meter's display, where its known error was taken off."""
    setting: TriedSetting | None = None
    """The setting that was moved for it, where its step compares settings that people add."""

    @property
    def play(self) -> str:
        """The tone and the way of playing in words: "1 kHz sine at 0 dBFS, disc"; empty without a tone."""
        if self.tone is None:
            return ""
        return f"{self.tone.label}, {INPUT_WORDS[self.way]}" if self.way else self.tone.label
