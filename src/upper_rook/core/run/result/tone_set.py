"""The tones of one job in the order of its run: a stick’s contents before somebody goes to the vehicle."""

from collections.abc import Iterable

from upper_rook.core.common.units import Frozen
from upper_rook.core.run.steps.step import Step, StepKind
from upper_rook.core.signal.tones import Tone

MOST = 64
_SWEPT = (StepKind.SOURCE_SWEEP, StepKind.PROVE)
"""Kinds of steps that a recorded sweep answers."""
_SWEEP = {"frequency_hz": 1000.0, "swept": True}


class NumberedTone(Frozen):
    """A tone with its number, and the steps that play it."""

    number: int
    tone: Tone
    steps: tuple[str, ...]
    """Their titles, the first use first."""


def tone_set(steps: Iterable[Step]) -> tuple[NumberedTone, ...]:
    """Every tone of these steps once, at most MOST, in the run's order; behind them the sweep that some may use."""
    steps = tuple(steps)
    uses: dict[Tone, dict[str, None]] = {}
    for step in steps:
        for wants in (step.wants, *(row.wants for row in step.rows)):
            if wants is not None and wants.tone is not None:
                uses.setdefault(wants.tone, {})[step.title] = None
    for step in steps:
        if step.kind in _SWEPT and step.wants is not None and step.wants.tone is not None:
            uses.setdefault(step.wants.tone.model_copy(update=_SWEEP), {})[step.title] = None
    return tuple(
        NumberedTone(number=number, tone=tone, steps=tuple(titles))
        for number, (tone, titles) in enumerate(list(uses.items())[:MOST], 1)
    )
