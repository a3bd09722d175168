"""A source's level trim, moved at the bench."""

from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.playing import InputKind


def with_trim(sheet: JobSheet, path_id: str | None, way: InputKind, trim_db: float) -> JobSheet:
    """A sheet with the level trim of one way of playing moved, on the source of a path."""
    path = next(path for path in sheet.chain.paths if path.id == path_id)
    sources = tuple(
        source.model_copy(
            update={
                "inputs": tuple(
                    playing.model_copy(update={"trim_db": trim_db}) if playing.kind is way else playing
                    for playing in source.inputs
                )
            }
        )
        if source.id == path.source
        else source
        for source in sheet.chain.sources
    )
    return sheet.model_copy(update={"chain": sheet.chain.model_copy(update={"sources": sources})})
