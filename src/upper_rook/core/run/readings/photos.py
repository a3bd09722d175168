"""A photo of a job: of a part or of a step, with what was drawn on it."""

from enum import StrEnum
from typing import Annotated, Self
from uuid import UUID

from pydantic import Field, StringConstraints, model_validator

from upper_rook.core.common.moments import Moment
from upper_rook.core.common.units import Frozen, LongKey, Name

LONGEST_SIDE = 2048
"""Pixels of a kept photo: a scale of knob positions is read, and a job of thirty photos is 15 MB."""
SMALL_SIDE = 640
"""Pixels of its small copy for lists and paper: two side by side on A4 are 190 dots an inch."""
MOST_PHOTOS = 200
"""Photos of one job."""

Share = Annotated[float, Field(ge=0, le=1)]
"""Place on a photo, in shares of its width or height from the top left."""
Digest = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
"""SHA-256 of a file."""


class DrawnKind(StrEnum):
    """Kind of what is drawn on a photo."""

    ARROW = "arrow"
    """From its tail to its head."""
    CIRCLE = "circle"
    """From its centre to a point of its rim."""
    WORD = "word"
    """Text that begins at its first point, at half its height."""


class Drawn(Frozen):
    """An arrow, a circle or a word on a photo."""

    kind: DrawnKind
    x: Share
    y: Share
    x2: Share = 0.0
    """Second point; nothing to a word."""
    y2: Share = 0.0
    text: Name = ""

    @model_validator(mode="after")
    def _can_be_seen(self) -> Self:
        if self.kind is DrawnKind.WORD:
            if not self.text:
                raise ValueError("a word on a photo has letters")
        elif (self.x, self.y) == (self.x2, self.y2):
            raise ValueError("an arrow or circle has two different points")
        return self


class NewPhoto(Frozen):
    """Details of a photo when its file is sent: the sender names it, so that sending it twice is harmless."""

    id: UUID
    name: Name = ""
    """Caption."""
    part: LongKey | None = None
    """Part that it shows, by its list and id in the system: `amplifiers.front`."""
    step: LongKey | None = None
    """Step that it was taken at."""
    taken_at: Moment
    by: Name = ""
    device: UUID | None = None
    """Device that sent it."""
    sequence: Annotated[int, Field(ge=1, le=2**53)] | None = None


class Photo(NewPhoto):
    """A photo that is kept: resized, turned upright, without what the camera wrote into it."""

    width: Annotated[int, Field(ge=1, le=LONGEST_SIDE)]
    """Pixels."""
    height: Annotated[int, Field(ge=1, le=LONGEST_SIDE)]
    size: Annotated[int, Field(ge=1)]
    """Bytes."""
    digest: Digest
    small_digest: Digest
    sent_digest: Digest
    """SHA-256 of the file as it was sent: sent again it is known by it."""
    drawn: Annotated[tuple[Drawn, ...], Field(max_length=40)] = ()
    revision: Annotated[int, Field(ge=1)] = 1
    """Grows with each change of caption, place or drawing, so that two people don't overwrite each other."""
    arrival: int = 0
    """Number among all records in the order in which they came."""


class PhotoChange(Frozen):
    """Caption, place and drawing of a photo as somebody wants them."""

    revision: Annotated[int, Field(ge=1)]
    """The revision that was changed."""
    name: Name
    part: LongKey | None
    step: LongKey | None
    drawn: Annotated[tuple[Drawn, ...], Field(max_length=40)]
