"""Which clean maxima of its sources a job asks for."""

from collections.abc import Iterator
from collections.abc import Set as AbstractSet
from typing import NamedTuple

from upper_rook.core.run.step_keys import ceiling_key
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.path import Path
from upper_rook.core.system.schools import EXTENT
from upper_rook.core.system.source import InputKind, Output, Side, Sides, Source


class Asked(NamedTuple):
    """A source point whose clean maximum is asked for."""

    source: Source
    output: Output
    path: Path
    """A path that leads from it."""
    way: InputKind | None
    """The way of playing; None where the ways aren't told apart."""
    optional: bool = False
    """Whether its output was measured for all ways together, or for both sides, before they were told apart."""
    side: Side | None = None
    """The side; None where the sides aren't told apart."""

    @property
    def key(self) -> str:
        """The key of its ladder."""
        return ceiling_key(self.source.id, self.output.id, self.way, self.side)


def asked_points(sheet: JobSheet, worked: AbstractSet[str]) -> Iterator[Asked]:
    """
    Where clean maxima are asked for.

    Of every source that feeds a path its first output that has volts, by the first way of playing, by all that the
    customer uses, or every output by every way. A ladder that was climbed before the ways were told apart stays:
    `worked` are the steps that have a record.
    """
    chain, extent = sheet.chain, EXTENT.of(sheet.choices)
    for source in chain.feeding():
        own = [one for one in chain.paths if one.source == source.id and not chain.is_digital(one)]
        first = {one.output: one for one in reversed(own)}
        paths = [one for one in own if first[one.output] is one]
        used = source.inputs if extent.every_way else source.inputs[:1]
        for path in paths if extent.every_output else paths[:1]:
            output = chain.output_of(path)
            together = not used or ceiling_key(source.id, output.id) in worked
            if together:
                yield Asked(source, output, path, None)
            for one in used:
                yield Asked(source, output, path, one.kind, optional=together)
            if extent.every_output and output.sides is Sides.PAIR:
                # What a person begins with is the left; the right is held against it, once.
                yield Asked(source, output, path, used[0].kind if used else None, True, Side.RIGHT)
