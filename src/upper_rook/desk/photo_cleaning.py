"""Photos are read in a child process: one at a time, bounded in memory and time."""

import threading
from base64 import b64decode
from pathlib import Path

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import Frozen
from upper_rook.desk.child import Child, Gone, TookTooLong
from upper_rook.formats.photo_file import PhotoFiles

LONGEST_S = 30.0
_TOO_MUCH = "This photo takes too much memory or time to be read: take a smaller one."


class PhotoRequest(Frozen):
    """A file that was sent."""

    file: Path


class PhotoReply(Frozen):
    """Its files in base 64 with their size, or the sentence why there are none."""

    full: str = ""
    small: str = ""
    width: int = 0
    height: int = 0
    refusal: str = ""


class PhotoCleaner:
    """The child that reads photos, and who waits for it."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._child = Child("upper_rook.desk.photo_child", {})

    def cleaned(self, file: Path) -> PhotoFiles:
        """The files that are kept of a photo. Raises BadInput for what isn't one, or takes too much to read."""
        with self._lock:
            try:
                answer = self._child.ask(PhotoRequest(file=file).model_dump_json().encode(), LONGEST_S)
            except (Gone, TookTooLong):
                raise BadInput(_TOO_MUCH) from None
        reply = PhotoReply.model_validate_json(answer)
        if reply.refusal:
            raise BadInput(reply.refusal)
        return PhotoFiles(b64decode(reply.full), b64decode(reply.small), reply.width, reply.height)

    def close(self) -> None:
        """Ends the child, in the middle of a photo too."""
        self._child.kill()
        with self._lock:
            self._child.end()


CLEANER = PhotoCleaner()
"""The one of this process."""
