"""What happened at the bench: readings and marks. Neither is ever edited; they are struck out with a reason."""

from enum import StrEnum
from typing import Annotated, Self, TypeVar
from uuid import UUID

from pydantic import Field, model_validator

from upper_rook.core.common.moments import Moment
from upper_rook.core.common.units import Frozen, Key, Name, Volts
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.ceiling import Basis

Volume = Annotated[int, Field(ge=0, le=200)]
Version = Annotated[int, Field(ge=1, le=2_000_000_000)]
Reason = Annotated[Name, Field(min_length=1)]


class Setting(Frozen):
    """One thing that a reading depends on, as it was when the reading was taken."""

    key: Key
    label: str
    value: str


class Eye(StrEnum):
    """What the person says of the wave."""

    CLEAN = "clean"
    CLIPPED = "clipped"
    UNSEEN = "unseen"
    """Nobody could see it: only a meter was at hand."""


class NewReading(Frozen):
    """A voltage as it is sent: named by its sender, so that sending it twice is harmless."""

    id: UUID
    step: Key
    voltage_v: Volts
    """AC volts RMS."""
    instrument: Key
    volume: Volume
    """Volume number of the source."""
    seen: Eye = Eye.UNSEEN
    sheet_version: Version
    """The version of the job's sheet it was taken under."""
    taken_at: Moment
    by: Name = ""


class Reading(NewReading):
    """A voltage as it is kept."""

    uncertainty_v: float | None
    """Expanded (k = 2), or None outside what the instrument's data sheet covers."""
    tone: Tone
    settings: tuple[Setting, ...]
    struck: str | None = None
    """Why it no longer counts, or None."""


class Answer(StrEnum):
    """An answer to one line of a checklist."""

    DONE = "done"
    ABSENT = "absent"
    """There is no such thing on this vehicle."""
    LEFT = "left"
    """Left as it is, with the reason."""


class Outcome(StrEnum):
    """Why a gain stands although its target was not met."""

    CLIPPED_FIRST = "clipped_first"
    AT_STOP = "at_stop"
    ABOVE_AT_LOWEST = "above_at_lowest"


class NewMark(Frozen):
    """Something a person said about a step: exactly one of answer, basis, outcome or skipped."""

    id: UUID
    step: Key
    item: Key | None = None
    """The checklist line that `answer` belongs to."""
    answer: Answer | None = None
    basis: Basis | None = None
    """Takes the source's clean maximum, with `volume`."""
    volume: Volume | None = None
    outcome: Outcome | None = None
    skipped: bool = False
    note: Name = ""
    sheet_version: Version
    taken_at: Moment
    by: Name = ""

    @model_validator(mode="after")
    def _one_thing(self) -> Self:
        said = [self.answer is not None, self.basis is not None, self.outcome is not None, self.skipped]
        if sum(said) != 1:
            raise ValueError("a mark says exactly one thing: an answer, a basis, an outcome or skipped")
        if (self.answer is None) != (self.item is None):
            raise ValueError("an answer needs the checklist line that it belongs to")
        if (self.basis is None) != (self.volume is None):
            raise ValueError("taking a clean maximum needs its volume number")
        if (self.skipped or self.answer is Answer.LEFT) and not self.note:
            raise ValueError("say why in a few words")
        return self


class Mark(NewMark):
    """A mark as it is kept."""

    struck: str | None = None


Record = TypeVar("Record", Reading, Mark)


def standing(records: tuple[Record, ...], step: str) -> list[Record]:
    """The records of `step` that still count, oldest first."""
    return sorted((one for one in records if one.step == step and one.struck is None), key=lambda one: one.taken_at)
