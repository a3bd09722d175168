"""The child that reads photos: a file's name a line in, what is kept of it a line out, until its parent is gone."""

import os
import resource
from base64 import b64encode

from upper_rook.core.common.errors import BadInput
from upper_rook.desk.child import answer_lines
from upper_rook.desk.photo_cleaning import PhotoReply, PhotoRequest
from upper_rook.formats.photo_file import cleaned

MOST_BYTES = 1_000_000_000
_NICENESS = 10


def reply_to(request: PhotoRequest) -> PhotoReply:
    """The files that are kept of a photo, or why there are none."""
    try:
        files = cleaned(request.file)
    except BadInput as error:
        return PhotoReply(refusal=error.sentence)
    except MemoryError:
        return PhotoReply(refusal="This photo needs more memory than it may use: take a smaller one.")
    return PhotoReply(
        full=b64encode(files.full).decode(),
        small=b64encode(files.small).decode(),
        width=files.width,
        height=files.height,
    )


def main() -> None:
    """Works until standard input ends."""
    # Saves come first.
    os.nice(_NICENESS)
    resource.setrlimit(resource.RLIMIT_DATA, (MOST_BYTES, MOST_BYTES))
    answer_lines(lambda line: reply_to(PhotoRequest.model_validate_json(line)).model_dump_json())


if __name__ == "__main__":
    main()
