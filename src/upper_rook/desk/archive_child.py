"""The child that reads an archive first, bounded in memory and time: prints nothing, or why it can't be taken in."""

import resource
import sys
from pathlib import Path

from upper_rook.core.common.errors import BadInput
from upper_rook.formats.job_archive import TOO_LARGE, ReadArchive

MOST_BYTES = 1_000_000_000


def main() -> None:
    """Reads the archive that is named on the command line."""
    resource.setrlimit(resource.RLIMIT_DATA, (MOST_BYTES, MOST_BYTES))
    try:
        with Path(sys.argv[1]).open("rb") as file:
            ReadArchive(file).look_at_photos()
    except BadInput as error:
        print(error.sentence)
    except MemoryError:
        print(TOO_LARGE)


if __name__ == "__main__":
    main()
