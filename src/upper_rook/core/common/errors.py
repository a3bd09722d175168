"""The errors of Upper Rook: one small tree. Each carries a sentence for the user and the field it belongs to."""

from collections.abc import Mapping
from typing import Any


class RookError(Exception):
    """
    Root of every error that a user can cause or correct.

    `sentence` says what is wrong and what to do; `field` is the dotted name of the value it belongs to, or None.
    """

    def __init__(self, sentence: str, field: str | None = None) -> None:
        super().__init__(sentence)
        self.sentence = sentence
        self.field = field


class BadInput(RookError, ValueError):
    """
    A value that was typed, sent or read can't be used.

    A validator may raise it too: its `field` is then the place below the value that is validated.
    """


class NotFound(RookError):
    """Something that was named isn't there."""


class Conflict(RookError):
    """A write was based on something that has changed since."""


class Lacking(BadInput):
    """
    Something isn't known yet that this can't be worked out without.

    Its `field` is a part of the system and a value of it (`loads.power_w`), where one value would settle it.
    """


class SetByEar(Lacking):
    """Nothing lacks: there are no volts that could be set."""


def field_within(error: Mapping[str, Any]) -> tuple[str, ...]:
    """The place below a value that a refusal of the whole value knows, from one of Pydantic's error entries."""
    told = error.get("ctx", {}).get("error")
    return (told.field,) if isinstance(told, RookError) and told.field else ()
