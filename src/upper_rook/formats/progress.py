"""How a reader tells how far it is."""

from collections.abc import Callable

Progress = Callable[[int], None]
"""Called with how much has been read so far."""
