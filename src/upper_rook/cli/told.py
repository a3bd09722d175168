"""Printing of the commands: names and paths from files stand in it, and none of them steers a terminal."""

import re

import typer

# C0 and C1 controls but tab and line feed, DEL, and what turns the direction of text.
_STEERS = re.compile("[\x00-\x08\x0b-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069]")


def shown(text: object) -> str:
    r"""
    Text with everything that steers a terminal written out, as JSON writes it.

    >>> shown("front\x1b[2J")
    'front\\u001b[2J'
    """
    return _STEERS.sub(lambda found: f"\\u{ord(found[0]):04x}", str(text))


def echo(text: object, *, err: bool = False) -> None:
    """Prints a text; on standard error where it is no result."""
    typer.echo(shown(text), err=err)
