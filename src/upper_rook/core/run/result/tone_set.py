"""The tones of one job in the order of its run: a stick’s contents before somebody goes to the vehicle."""

from collections.abc import Iterable

from upper_rook.core.common.units import Frozen
from upper_rook.core.run.steps.step import Step
from upper_rook.core.signal.tones import Tone

MOST = 64


class NumberedTone(Frozen):
    """A tone with its number, and the steps that play it."""

    number: int
    tone: Tone
    steps: tuple[str, ...]
    """Their titles, the first use first."""


def tone_set(steps: Iterable[Step]) -> tuple[NumberedTone, ...]:
    """Every tone of these steps once, at most MOST, in the run's order."""
    uses: dict[Tone, dict[str, None]] = {}
    for step in steps:
        for wants in (step.wants, *(row.wants for row in step.rows)):
            if wants is not None and wants.tone is not None:
                uses.setdefault(wants.tone, {})[step.title] = None
    return tuple(
        NumberedTone(number=number, tone=tone, steps=tuple(titles))
        for number, (tone, titles) in enumerate(list(uses.items())[:MOST], 1)
    )
