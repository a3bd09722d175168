"""The command line, run within this process: a process of its own takes seconds to load."""

import subprocess
import sys
from contextlib import redirect_stderr, redirect_stdout
from io import StringIO
from unittest.mock import patch

from upper_rook.cli import main


def run(*words: object) -> subprocess.CompletedProcess[str]:
    """The command with these words: its exit code and what it wrote."""
    written, refused = StringIO(), StringIO()
    arguments = ["upper-rook", *map(str, words)]
    with patch.object(sys, "argv", arguments), redirect_stdout(written), redirect_stderr(refused):
        try:
            main()
            code = 0
        except SystemExit as end:
            code = int(end.code or 0)
    return subprocess.CompletedProcess(arguments, code, written.getvalue(), refused.getvalue())
