"""
Data sheets as the bench reads them: loads by their network, volts and gains by their definitions.

Worked out here another way than a planner does, so that a mistake in either shows.
"""

import math
from collections.abc import Iterator
from itertools import count, pairwise

import numpy as np

from upper_rook.core.common.errors import Lacking
from upper_rook.core.common.units import from_db
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.loads import Load, Wiring
from upper_rook.core.system.path import Path
from upper_rook.core.system.processor import Processor, ProcessorKind
from upper_rook.core.system.source import Output

_Resistor = tuple[int, int, float]
_RED, _BLACK = 0, 1


def network_ohm(load: Load) -> float:
    """
    Resistance between a channel's terminals, in ohms: two entries of the inverse of the network's Laplacian.

    Raises:
        Lacking: without the speakers' impedance.
    """
    if load.impedance_ohm is None:
        raise Lacking("The speakers’ impedance isn’t known.", "loads.impedance_ohm")
    resistors = list(_network(load, load.impedance_ohm))
    size = 1 + max(max(number, other) for number, other, _ in resistors)
    laplacian = np.zeros((size, size))
    for number, other, ohm in resistors:
        laplacian[[number, other], [number, other]] += 1 / ohm
        laplacian[[number, other], [other, number]] -= 1 / ohm
    inverse = np.linalg.pinv(laplacian)
    across = np.zeros(size)
    across[[_RED, _BLACK]] = 1.0, -1.0
    return float(across @ inverse @ across)


def against_rated(load: Load) -> tuple[tuple[float, float], ...]:
    """A measured impedance curve as hertz and times the rated impedance, from the lowest frequency up; or nothing."""
    if not load.impedance_curve:
        return ()
    # Of one speaker, as it is measured: coils joined, nothing beside it.
    value = network_ohm(load.model_copy(update={"count": 1, "wiring": Wiring.PARALLEL, "others": ()}))
    return tuple((point.frequency_hz, point.ohm / value) for point in load.impedance_curve)


def _network(load: Load, coil_ohm: float) -> Iterator[_Resistor]:
    """Every coil between its two nodes, and the drivers that play the same band."""
    nodes = count(2)
    for red, black in _joints(_RED, _BLACK, load.count, load.wiring, nodes):
        for number, other in _joints(red, black, load.coils, load.coil_wiring, nodes):
            yield number, other, coil_ohm
    if not load.passive_hz:
        for driver in load.others:
            if driver.series_capacitor_uf is None:
                yield _RED, _BLACK, driver.impedance_ohm


def _joints(red: int, black: int, number: int, wiring: Wiring, nodes: Iterator[int]) -> Iterator[tuple[int, int]]:
    """The two nodes of each of some parts that are joined between two others."""
    in_row = {Wiring.PARALLEL: 1, Wiring.SERIES: number, Wiring.SERIES_PARALLEL: 2}[wiring]
    for _ in range(number // in_row):
        yield from pairwise((red, *(next(nodes) for _ in range(in_row - 1)), black))


def output_v(output: Output) -> float | None:
    """Volts RMS that an output gives clean; None where its data sheet says neither volts nor watts."""
    rated = output.rated
    full_v = rated.volts if rated.watts is None else math.sqrt(rated.watts * rated.load_ohm)
    # A level below zero is taken from it; one above drives the same stage further.
    return None if full_v is None else full_v * from_db(min(0.0, output.level_db))


def gain_db(processor: Processor) -> float:
    """Gain of a processor at 0 dB: volts that leave it for the volts that are its full scale at the input."""
    into_v = processor.input_full_scale_v or _taken_v(processor)
    out_v = processor.output_full_scale_v or processor.highest_output_v
    if processor.kind is not ProcessorKind.PROCESSOR or into_v is None:
        return 0.0
    return 20 * math.log10(out_v / into_v)


def input_limit_v(processor: Processor) -> float:
    """Volts RMS at which its input clips; infinite where nobody knows."""
    return min(_taken_v(processor) or math.inf, processor.input_full_scale_v or math.inf)


def _taken_v(processor: Processor) -> float | None:
    stated = processor.highest_input
    return stated.volts if stated.watts is None else math.sqrt(stated.watts * stated.load_ohm)


def is_set_in(chain: Chain, path: Path, place: int) -> bool:
    """Whether a path's equaliser, channel gain and filters are set in its processor number `place`."""
    kinds = [next(processor.kind for processor in chain.processors if processor.id == key) for key in path.through]
    return kinds[place] is ProcessorKind.PROCESSOR and ProcessorKind.PROCESSOR not in kinds[place + 1 :]
