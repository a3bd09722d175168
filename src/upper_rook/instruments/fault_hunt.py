"""Whether a careful person's run shows what is wrong on the bench, at the step where it should show."""

import re
from collections.abc import Iterator
from functools import lru_cache

from upper_rook.core.common.units import Frozen
from upper_rook.core.metrology.comparison import Comparison, Fit
from upper_rook.core.run.result.progress import Run
from upper_rook.core.run.steps.step import State, Step, StepKind, StepState
from upper_rook.core.system.amplifier import Mode
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.path import Path
from upper_rook.core.system.processor import ProcessorKind
from upper_rook.instruments.auto_operator import AutoOperator
from upper_rook.instruments.simulated import FAULT_WORDS, Fault, dials_of

_VOLUME_STEPS, _GAIN, _MATCH, _PROVE = StepKind.VOLUME_STEPS, StepKind.GAIN, StepKind.MATCH, StepKind.PROVE
SHOWS_AT: dict[Fault, tuple[StepKind, ...]] = {
    Fault.NORMALISER: (_VOLUME_STEPS,),
    Fault.PHONE_VOLUME: (_VOLUME_STEPS,),
    Fault.LEVEL_TRIM: (_VOLUME_STEPS,),
    Fault.LOUDNESS: (_GAIN, _PROVE, StepKind.CONVERTER),
    Fault.BASS_UP: (_GAIN, _PROVE, StepKind.CONVERTER),
    Fault.TREBLE_UP: (_GAIN, _PROVE),
    Fault.FADER: (_VOLUME_STEPS, _GAIN),
    Fault.BALANCE: (_MATCH,),
    Fault.WEAK_SOURCE: (_VOLUME_STEPS,),
    Fault.OTHER_TRACK: (_VOLUME_STEPS, _GAIN),
    Fault.QUIET_TRACK: (_VOLUME_STEPS,),
    Fault.HALF_IN: (_GAIN,),
    Fault.LEAD_OFF: (_GAIN,),
    Fault.RIGHT_OFF: (_MATCH,),
    Fault.WRONG_PAIR: (_GAIN,),
    Fault.ROUTING: (_GAIN,),
    Fault.FILTERED_LOW: (_GAIN, _PROVE),
    Fault.FILTERED_HIGH: (_GAIN, _PROVE),
    Fault.BOOST_IN: (_GAIN, _PROVE),
    Fault.KNOB_DOWN: (_GAIN,),
    Fault.WEAK_AMPLIFIER: (_GAIN, _PROVE),
    Fault.EARLY_LIMITER: (_GAIN, _PROVE),
    Fault.GAIN_DEAD: (_GAIN,),
    Fault.FILTER_AT_FLAT: (StepKind.CORNER,),
    Fault.STACKED_FILTER: (_GAIN, StepKind.CORNER),
    Fault.ROLL_OFF: (StepKind.CONVERTER,),
    Fault.ASLEEP: (StepKind.CONVERTER,),
    Fault.TIRED_BATTERY: (StepKind.SUPPLY,),
    Fault.OVERCHARGED: (StepKind.SUPPLY,),
}
"""The steps at which a fault shows, any of which will do."""


class Hunt(Frozen):
    """One fault on one bench."""

    fault: Fault
    words: str
    seed: int
    found: bool
    told: tuple[str, ...]
    """Sentences of the run that it doesn't have without the fault, at the steps where it should."""


def applies(sheet: JobSheet, fault: Fault) -> bool:
    """Whether a system has what the fault is about."""
    paths = sheet.chain.paths
    if fault in (Fault.ROLL_OFF, Fault.ASLEEP):
        processors = (processor for path in paths for processor in sheet.chain.processors_of(path))
        return any(processor.kind is ProcessorKind.CONVERTER for processor in processors)
    if fault in (Fault.BALANCE, Fault.RIGHT_OFF):
        return any(sheet.chain.is_pair(path) for path in paths)
    if fault in (Fault.FILTER_AT_FLAT, Fault.STACKED_FILTER):
        return any(dials_of(path) for path in paths)
    if fault in (Fault.TREBLE_UP, Fault.FILTERED_HIGH):
        return any(_passes(path, 6000.0) for path in paths)
    if fault in (Fault.LOUDNESS, Fault.BASS_UP, Fault.BOOST_IN, Fault.FILTERED_LOW):
        return any(_passes(path, 45.0) for path in paths)
    # Strapped, the other amplifier isn't on this bench.
    return fault is not Fault.WRONG_PAIR or any(path.mode is not Mode.STRAPPED for path in paths)


def _passes(path: Path, hertz: float) -> bool:
    """Whether a path's filters leave anything of a frequency."""
    return sum(float(channel_filter.crossover.level_db(hertz)) for channel_filter in path.working) > -6


def hunt(sheet: JobSheet, fault: Fault, seed: int = 1, *, scope: bool = True) -> Hunt:
    """A run with the fault on the bench, compared with one without; a careful person looks where a fault may show."""
    without = signs_without_fault(sheet, seed, scope)
    told = [
        words
        for kind, words in signs(_worked(sheet, seed, (fault,), scope=scope))
        if kind in SHOWS_AT[fault] and (kind, words) not in without
    ]
    return Hunt(fault=fault, words=FAULT_WORDS[fault], seed=seed, found=bool(told), told=tuple(told))


@lru_cache(maxsize=4)
def signs_without_fault(sheet: JobSheet, seed: int, scope: bool) -> frozenset[tuple[StepKind, str]]:
    """Sentences of a run without a fault; every fault on a bench is compared with the same."""
    return frozenset(signs(_worked(sheet, seed, (), scope=scope)))


def _worked(sheet: JobSheet, seed: int, faults: tuple[Fault, ...], *, scope: bool) -> Run:
    return AutoOperator(sheet, seed, scope=scope, faults=faults).work()


_FIGURES = re.compile(r"[-−+±]?\d[\d.,]*(?:\s(?:[µmk]?V|k?Hz|dB|k?W|m?Ω|%|s)\b)?")
"""A value with its unit: another one alone points out nothing."""


def signs(run: Run) -> Iterator[tuple[StepKind, str]]:
    """Everything that a run points out, without the figures in it, by the kind of step that does."""
    for step in run.steps:
        yield from signs_of_step(run, step)
    for cause in run.plan.causes:
        if cause.key.startswith("source-far-off."):
            yield StepKind.VOLUME_STEPS, cause.key


def signs_of_step(run: Run, step: Step) -> Iterator[tuple[StepKind, str]]:
    """Everything that one step of a run points out."""
    state = next(state for state in run.states if state.step == step.key)
    for sentence in _sentences(state):
        yield step.kind, f"{step.key}: {_FIGURES.sub('#', sentence)}"


def _sentences(state: StepState) -> Iterator[str]:
    """Sentences of one step."""
    yield from state.meanings
    yield from state.volume_steps.questions if state.volume_steps else ()
    if _misses(state.comparison):
        yield "missed"
    if state.outcome:
        yield state.outcome.value
    for row in state.rows:
        yield from (f"{row.row}: {meaning}" for meaning in row.meanings)
        if _misses(row.comparison):
            yield f"{row.row} missed"
    if state.rows or state.state in (State.OPEN, State.SKIPPED):
        yield state.sentence


def _misses(comparison: Comparison | None) -> bool:
    return comparison is not None and comparison.fit in (Fit.BELOW, Fit.ABOVE)
