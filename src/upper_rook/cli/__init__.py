"""The command line: everything the core does, and the server."""

import sys

from upper_rook.cli import computing, judging, keeping, serving
from upper_rook.cli.app import app
from upper_rook.cli.told import echo
from upper_rook.core.common.errors import RookError

__all__ = ["app", "computing", "judging", "keeping", "main", "serving"]


def main() -> None:
    """Entry point: 0 done, 2 bad input with one sentence on standard error, 1 a bug."""
    try:
        app()
    except RookError as error:
        echo(f"upper-rook: {error.sentence}", err=True)
        sys.exit(2)
