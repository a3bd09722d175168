"""What a job is found by."""

from upper_rook.core.common.folding import folded
from upper_rook.core.system.job_sheet import JobSheet

LONGEST = 4000


def search_words(sheet: JobSheet) -> str:
    """The vehicle, the note and the names of all parts and paths, folded; at most 4,000 characters."""
    chain = sheet.chain
    names = (
        *(one.name for one in chain.sources),
        *(one.name for one in chain.processors),
        *(one.name for one in chain.amplifiers),
        *(one.name for one in chain.loads),
        *(one.name for one in chain.paths),
    )
    return folded(" ".join((sheet.vehicle, sheet.note, *names)))[:LONGEST]
