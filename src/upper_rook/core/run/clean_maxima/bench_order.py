"""Order of the clean maxima of a source on its own: the one that changes least on the bench."""

from collections.abc import Iterator

from upper_rook.core.run.clean_maxima.required_points import RequiredPoint, with_second_tones
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.methods import EXTENT
from upper_rook.core.system.path import Path
from upper_rook.core.system.playing import InputKind, Side
from upper_rook.core.system.source import Sides


def asked_alone(sheet: JobSheet) -> Iterator[RequiredPoint]:
    """Every point of a source on its own, with every tone of the job."""
    return with_second_tones(sheet, _with_one_tone(sheet))


def _with_one_tone(sheet: JobSheet) -> Iterator[RequiredPoint]:
    """
    Every output and side by every way of playing, there and back: from each to the next one thing changes.

    Of n outputs and sides by m ways that is n·m - 1 changes, the least there can be. The way changes seldomest: a disc
    or a phone takes longer than a lead (common practice, no source).
    """
    extent = EXTENT.of(sheet.choices)
    for source in sheet.chain.sources:
        ways: list[InputKind | None] = [playing.kind for playing in source.played]
        paths = [path for path in sheet.chain.paths if path.source == source.id and not sheet.chain.is_digital(path)]
        places = [(path, side) for path in paths for side in _sides(sheet, path)]
        used = (ways if extent.every_way else ways[:1]) or [None]
        for turn, way in enumerate(used):
            row = places if extent.every_output else places[:1]
            for path, side in row if turn % 2 == 0 else reversed(row):
                yield RequiredPoint(source, sheet.chain.output_of(path), path, way, side=side)


def _sides(sheet: JobSheet, path: Path) -> tuple[Side | None, ...]:
    """Side that a person begins with: the left."""
    return (None, Side.RIGHT) if sheet.chain.output_of(path).sides is Sides.PAIR else (None,)
