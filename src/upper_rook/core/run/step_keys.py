"""The keys of steps, from the ids of what they are about; none is ever cut. And which source points are asked for."""

from collections.abc import Iterator

from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.path import Path
from upper_rook.core.system.source import Output, Source


def ceiling_key(source: str, output: str) -> str:
    """The ladder at an output of a source."""
    return f"ceiling.{source}.{output}"


def gain_key(path: str) -> str:
    """The gain of a path."""
    return f"gain.{path}"


def match_key(path: str) -> str:
    """The other channel of a path."""
    return f"match.{path}"


def asked_outputs(sheet: JobSheet) -> Iterator[tuple[Source, Output, Path]]:
    """Where clean maxima are asked for: of every source its first output that has volts and feeds a path, and that."""
    chain = sheet.chain
    for source in chain.feeding():
        path = next((one for one in chain.paths if one.source == source.id and not chain.is_digital(one)), None)
        if path is not None:
            yield source, chain.output_of(path), path
