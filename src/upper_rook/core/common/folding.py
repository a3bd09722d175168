"""Text as it is searched: without case, accents and marks."""

import unicodedata


def folded(text: str) -> str:
    """
    Common form of all spellings of a word.

    >>> folded("Möwe  IV")
    'mowe iv'
    """
    plain = unicodedata.normalize("NFKD", text.casefold())
    letters = (text if text.isprintable() else " " for text in plain if not unicodedata.combining(text))
    return " ".join("".join(letters).split())
