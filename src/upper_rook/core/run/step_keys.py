"""The keys of steps, from the ids of what they are about; none is ever cut. And which source points are asked for."""

from collections.abc import Iterator

from upper_rook.core.system.chain import Path
from upper_rook.core.system.job_sheet import JobSheet
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
    """Where clean maxima are asked for: of every source that feeds a path its first output, and that path."""
    for source in sheet.chain.feeding():
        path = next(one for one in sheet.chain.paths if one.source == source.id)
        yield source, sheet.chain.output_of(path), path
