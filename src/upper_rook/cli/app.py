"""The command line itself: its refusals, and the file or database that a command works on."""

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from upper_rook.core.common.errors import RookError

if TYPE_CHECKING:
    from upper_rook.web.settings import Settings

JsonFlag = Annotated[bool, typer.Option("--json", help="One JSON document on standard output.")]

app = typer.Typer(
    help="Upper Rook: set a car audio system’s levels and crossovers by measurement.",
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    add_completion=False,
)


class Refusal(RookError):
    """A refusal of the command line itself."""


def bytes_of(file: Path) -> bytes:
    """Contents of a file. Raises Refusal where it can't be read."""
    try:
        return file.read_bytes()
    except OSError as error:
        raise Refusal(f"Can’t read {file}: {error.strerror}.") from None


def own_settings() -> "Settings":
    """Settings of the app. Raises Refusal without a database."""
    from upper_rook.web.settings import Settings

    settings = Settings()
    if not settings.database_url:
        raise Refusal("DATABASE_URL is not set: start it as ./rook serve or ./rook demo, which bring a database.")
    return settings
