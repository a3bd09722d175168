"""The errors of Upper Rook: one small tree. Each carries a sentence for the user and the field it belongs to."""


class RookError(Exception):
    """
    Root of every error that a user can cause or mend.

    `sentence` says what is wrong and what to do; `field` is the dotted name of the value it belongs to, or None.
    """

    def __init__(self, sentence: str, field: str | None = None) -> None:
        super().__init__(sentence)
        self.sentence = sentence
        self.field = field


class BadInput(RookError):
    """A value that was typed, sent or read can't be used."""


class NotFound(RookError):
    """Something that was named isn't there."""


class Conflict(RookError):
    """A write was based on something that has changed since."""
