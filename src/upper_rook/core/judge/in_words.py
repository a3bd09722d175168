"""Findings of the judge as they are said."""

from enum import StrEnum

_SAID = {"unseen": "can’t tell", "cannot_tell": "can’t tell"}


class InWords(StrEnum):
    """A finding that is stored by its value and said in words."""

    @property
    def words(self) -> str:
        """In a few words, for a list or a line."""
        return _SAID.get(self.value, self.value.replace("_", " "))
