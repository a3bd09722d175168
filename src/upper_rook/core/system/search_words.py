"""Words that a job is found by."""

from upper_rook.core.common.folding import folded
from upper_rook.core.system.job_sheet import JobSheet

LONGEST = 4000


def search_words(sheet: JobSheet) -> str:
    """The vehicle, the note and the names of all parts and paths, folded; at most 4,000 characters."""
    chain = sheet.chain
    names = (
        *(source.name for source in chain.sources),
        *(processor.name for processor in chain.processors),
        *(amplifier.name for amplifier in chain.amplifiers),
        *(load.name for load in chain.loads),
        *(path.name for path in chain.paths),
    )
    return folded(" ".join((sheet.vehicle, sheet.note, *names)))[:LONGEST]
