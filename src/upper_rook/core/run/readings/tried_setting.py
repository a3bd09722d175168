"""A setting of the source that somebody moved for a reading, as the source shows it."""

from enum import StrEnum
from hashlib import blake2b
from typing import Annotated

from pydantic import Field, StringConstraints

from upper_rook.core.common.units import Frozen, Key, Name, format_hertz
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.playing import INPUT_WORDS, InputKind


class SettingKind(StrEnum):
    """Setting that moves a source's clean maximum."""

    TRIM = "trim"
    SUB_LEVEL = "sub_level"
    FADER = "fader"
    PHONE_VOLUME = "phone_volume"
    TONE_CONTROL = "tone_control"
    OTHER = "other"


SETTING_WORDS = {
    SettingKind.TRIM: "Level trim",
    SettingKind.SUB_LEVEL: "Sub level",
    SettingKind.FADER: "Fader",
    SettingKind.PHONE_VOLUME: "Phone’s volume",
    SettingKind.TONE_CONTROL: "Tone control",
    SettingKind.OTHER: "Setting",
}
OWN_ROW = "own"
"""Row of a reading with a setting of its own: which one, its setting, output, way and tone say."""


class TriedSetting(Frozen):
    """A setting as it stood for one reading, and the output that was read."""

    kind: SettingKind
    shown: Annotated[Name, StringConstraints(min_length=1, max_length=20), Field(validate_default=True)]
    """Its value as the source shows it: a number or a word."""
    output: Key


def row_key(setting: TriedSetting, way: InputKind | None, tone: Tone | None) -> str:
    """
    Key of the row of a setting at its output, by its way and with its tone: the same wherever it is worked out.

    >>> plus_3 = TriedSetting(kind=SettingKind.TRIM, shown="+3", output="line")
    >>> row_key(plus_3, None, None) == row_key(plus_3.model_copy(update={"shown": "+4"}), None, None)
    False
    """
    told = (setting.kind, setting.shown.casefold(), setting.output, way or "", f"{tone.frequency_hz:g}" if tone else "")
    return f"{OWN_ROW}-{blake2b(chr(0).join(told).encode(), digest_size=8).hexdigest()}"


def row_name(setting: TriedSetting, output: str, way: InputKind | None, tone: Tone | None) -> str:
    """Name of that row: "Level trim +3, Rear, USB, 1 kHz"."""
    parts = (
        f"{SETTING_WORDS[setting.kind]} {setting.shown}",
        output,
        INPUT_WORDS[way] if way else "",
        format_hertz(tone.frequency_hz) if tone else "",
    )
    return ", ".join(part for part in parts if part)
