"""Responses of paths with their phases: the terms of the sums where paths sound together."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.crossover.driver_groups import members_of
from upper_rook.core.crossover.timing import Timing, timing_of
from upper_rook.core.signal.filters import Complex, Crossover, Pass
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.loads import Load
from upper_rook.core.system.path import Path
from upper_rook.core.system.playing import Side

Array = NDArray[np.float64]


class FilterBank:
    """Responses of filters over one grid of frequencies, each worked out once: many paths share theirs."""

    def __init__(self, frequency_hz: Array) -> None:
        self.frequency_hz = frequency_hz
        self._known: dict[Crossover, Complex] = {}

    def response(self, crossover: Crossover) -> Complex:
        """H of `one` at each frequency."""
        known = self._known.get(crossover)
        if known is None:
            known = self._known[crossover] = crossover.response(self.frequency_hz)
        return known


def path_response(
    path: Path, load: Load, equaliser: Complex, bank: FilterBank, *, late_s: float = 0.0, side: Side = Side.LEFT
) -> Complex:
    """
    Filters, equaliser, boost, polarity and lateness of one side of a path, and the capacitor before its speakers.

    Its channel gain is a level to be set, not shape.
    """
    whole = -equaliser if path.inverted_of(side) else equaliser
    if late_s:
        whole = whole * delayed(bank.frequency_hz, late_s)
    if path.boost:
        whole = whole * path.boost.response(bank.frequency_hz)
    for crossover in (*(channel_filter.crossover for channel_filter in path.working), *capacitor_of(load)):
        whole = whole * bank.response(crossover)
    return whole


def delayed(frequency_hz: Array, late_s: float) -> Complex:
    """H of a delay in seconds."""
    return np.asarray(np.exp(-2j * np.pi * frequency_hz * late_s))


def capacitor_of(load: Load) -> tuple[Crossover, ...]:
    """The high-pass that a capacitor before a speaker makes, into its rated impedance."""
    corner_hz = load.capacitor_hz
    return (Crossover(kind=Pass.HIGH, corner_hz=corner_hz, order=1),) if corner_hz and corner_hz >= 1 else ()


@dataclass(frozen=True)
class PathResponses:
    """Responses of the paths of a system over a grid of frequencies, by their ids."""

    frequency_hz: Array
    equalisers: dict[str, Complex]
    responses: dict[str, Complex]
    """Of every path that sounds together with another."""
    bank: FilterBank
    timing: Timing


def responses_of(
    chain: Chain, equalisers: Sequence[Complex], frequency_hz: Array, side: Side = Side.LEFT
) -> PathResponses:
    """The responses of one side of `chain`; `equalisers` are those of its paths over `frequency_hz`."""
    table = dict(zip((path.id for path in chain.paths), equalisers, strict=True))
    together = {path.id: path for _, paths in members_of(chain) if len(paths) > 1 for path in paths}
    bank, timing = FilterBank(frequency_hz), timing_of(chain, side)
    responses = {
        key: path_response(path, chain.load_of(path), table[key], bank, late_s=timing.of(path), side=side)
        for key, path in together.items()
    }
    return PathResponses(frequency_hz, table, responses, bank, timing)


def middles_of(rows: Sequence[Complex], frequency_hz: Array) -> Array:
    """The middle of each response, weighted by its power, as log2 of hertz."""
    weights = np.abs(np.array(rows)) ** 2 + 1e-12
    return np.asarray(weights @ np.log2(frequency_hz) / weights.sum(axis=1))
