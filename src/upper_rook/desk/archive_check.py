"""Archives are read in a child process before they are read here: no archive can take the memory of who saves."""

import subprocess
import sys
from pathlib import Path
from threading import BoundedSemaphore

from upper_rook.core.common.errors import BadInput
from upper_rook.formats.job_archive import TOO_LARGE

LONGEST_S = 60.0
_AT_ONCE = BoundedSemaphore(2)


def check_archive(file: Path) -> None:
    """Raises BadInput where the file isn't a whole archive, or takes too much memory or time to read."""
    with _AT_ONCE:
        try:
            # The words are this module's own, but for the name of a file.
            done = subprocess.run(  # noqa: S603
                [sys.executable, "-m", "upper_rook.desk.archive_child", str(file)],
                stdin=subprocess.DEVNULL,
                capture_output=True,
                timeout=LONGEST_S,
                check=False,
            )
        except subprocess.TimeoutExpired:
            raise BadInput(TOO_LARGE) from None
    if done.returncode:
        raise BadInput(TOO_LARGE)
    if sentence := done.stdout.decode(errors="replace").strip():
        raise BadInput(sentence)
