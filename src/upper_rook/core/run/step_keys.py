"""The keys of steps, from the ids of what they are about; none is ever cut. And which source points are asked for."""

from collections.abc import Iterator
from typing import NamedTuple

from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.path import Path
from upper_rook.core.system.schools import EXTENT
from upper_rook.core.system.source import InputKind, Output, Source


def ceiling_key(source: str, output: str) -> str:
    """The ladder at an output of a source."""
    return f"ceiling.{source}.{output}"


def gain_key(path: str) -> str:
    """The gain of a path."""
    return f"gain.{path}"


def match_key(path: str) -> str:
    """The other channel of a path."""
    return f"match.{path}"


def factory_key(source: str, output: str) -> str:
    """The wires of a factory system."""
    return f"factory.{source}.{output}"


BLEND_KEY = "blend"


def converter_key(processor: str, path: str) -> str:
    """The output of a converter on a path."""
    return f"converter.{processor}.{path}"


def corner_key(path: str, place: int) -> str:
    """A filter of a path, by its place among them."""
    return f"corner.{path}.{place}"


def prove_key(path: str) -> str:
    """Everything in use on a path."""
    return f"prove.{path}"


class Asked(NamedTuple):
    """A source point whose clean maximum is asked for."""

    source: Source
    output: Output
    path: Path
    """A path that leads from it."""
    way: InputKind | None
    """The way of playing; None where the customer's aren't told."""

    @property
    def key(self) -> str:
        """The key of its ladder; that of the first way is the output's own."""
        own = ceiling_key(self.source.id, self.output.id)
        first = self.way is None or self.way is self.source.inputs[0].kind
        return own if first or self.way is None else f"{own}.{self.way.value.replace('_', '-')}"


def asked_points(sheet: JobSheet) -> Iterator[Asked]:
    """
    Where clean maxima are asked for.

    Of every source that feeds a path its first output that has volts, by the first way of playing, by all that the
    customer uses, or every output by every way.
    """
    chain, extent = sheet.chain, EXTENT.of(sheet.choices)
    for source in chain.feeding():
        own = [one for one in chain.paths if one.source == source.id and not chain.is_digital(one)]
        used = source.inputs if extent.every_way else source.inputs[:1]
        ways: list[InputKind | None] = [one.kind for one in used] or [None]
        by_output = {one.output: one for one in reversed(own)}
        paths = [one for one in own if by_output[one.output] is one]
        for path in paths if extent.every_output else paths[:1]:
            for way in ways:
                yield Asked(source, chain.output_of(path), path, way)
