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
        _end(error.sentence)
    except Exception as error:
        # Only now: most commands ask no database, and loading what does takes a moment.
        from sqlalchemy.exc import OperationalError

        if not isinstance(error, OperationalError):
            raise
        _end(f"The database can’t be reached: {str(error.orig).strip().splitlines()[-1]}")


def _end(sentence: str) -> None:
    echo(f"upper-rook: {sentence}", err=True)
    sys.exit(2)
