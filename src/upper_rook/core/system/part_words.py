"""The parts of a system as a sheet lists them."""

from collections import Counter

from upper_rook.core.common.units import format_value
from upper_rook.core.system.amplifier import Amplifier
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.loads import Load
from upper_rook.core.system.processor import Processor
from upper_rook.core.system.source import Source


def part_words(chain: Chain) -> tuple[str, ...]:
    """Each part by its name and figures, in the order of the signal, equal ones counted."""
    counted = Counter(
        (
            *map(_source, chain.sources),
            *map(_processor, chain.processors),
            *map(_amplifier, chain.amplifiers),
            *map(_speakers, chain.loads),
        )
    )
    return tuple(f"{words} ({times} of them)" if times > 1 else words for words, times in counted.items())


def _source(source: Source) -> str:
    return f"{source.name or 'Source without a name'}, volume to {source.top_volume}"


def _processor(processor: Processor) -> str:
    return processor.name or "Processor without a name"


def _amplifier(amplifier: Amplifier) -> str:
    if amplifier.name:
        return amplifier.name
    if not amplifier.ratings:
        return "Amplifier without a name"
    first = amplifier.ratings[0]
    return f"Amplifier without a name, {_figure(first.power_w, 'W')} into {_figure(first.load_ohm, 'Ω')}"


def _speakers(load: Load) -> str:
    ohms, watts = _figure(load.impedance_ohm, "Ω"), _figure(load.power_w, "W")
    return f"{load.name or 'Speakers without a name'}, {load.count} × {ohms}, {watts}"


def _figure(value: float | None, unit: str) -> str:
    return f"? {unit}" if value is None else format_value(value, unit, 3)
