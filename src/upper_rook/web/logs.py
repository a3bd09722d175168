"""Log of faults with times, in a file of limited size; never anything that a person typed."""

import logging
import re
from logging.handlers import RotatingFileHandler
from pathlib import Path

_LARGEST_BYTES = 2_000_000
_KEPT = 5
# What the database's own errors quote: statements, parameters, rows.
_QUOTED = re.compile(
    r"^\s*(\[SQL: |\[parameters: |DETAIL: |CONTEXT: |LINE \d+:).*?(?=^\S|\Z)", re.MULTILINE | re.DOTALL
)


class Discreet(logging.Formatter):
    """Lines with their time, without statements and their parameters."""

    def format(self, record: logging.LogRecord) -> str:
        """One entry."""
        return _QUOTED.sub("", super().format(record)).rstrip()


def log_to(folder: Path) -> Path:
    """Has warnings and worse of the app and its server go to a file in `folder`; gives the file."""
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    file = folder / "rook.log"
    handler = RotatingFileHandler(file, maxBytes=_LARGEST_BYTES, backupCount=_KEPT, encoding="utf-8", delay=True)
    handler.setFormatter(Discreet("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    for name in ("upper_rook", "uvicorn.error"):
        logging.getLogger(name).addHandler(handler)
    return file
