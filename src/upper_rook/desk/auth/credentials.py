"""Credentials: tokens, passwords and short numbers, kept as digests and hashes only."""

import hashlib
import secrets
from functools import cache
from itertools import pairwise

from pwdlib import PasswordHash

from upper_rook.core.common.errors import BadInput, RookError
from upper_rook.core.common.folding import folded

SHORTEST = 10
"""Characters of a password, at least (more than the 8 of NIST SP 800-63B, from memory)."""
LONGEST = 200
PIN_SHORTEST, PIN_LONGEST = 4, 8
HASHES = PasswordHash.recommended()


class Shut(RookError):
    """The door stays shut."""


class NotProven(RookError):
    """A person has to show first who they are, by password or PIN."""


class TooManyTries(RookError):
    """Too many tries."""


@cache
def _nobodys() -> str:
    """Hash for the password of a name that isn't here: the answer takes as long."""
    return HASHES.hash("nobody is called so")


def new_token() -> str:
    """Something that can't be guessed."""
    return secrets.token_urlsafe(32)


def digest(token: str) -> bytes:
    """Stored digest of a token."""
    return hashlib.sha256(token.encode()).digest()


def hashed(words: str) -> str:
    """Stored hash of a password or a short number (Argon2id)."""
    return HASHES.hash(words)


def matches(words: str, kept: str | None) -> bool:
    """Whether a password is the one kept; without one it takes as long to say no."""
    return HASHES.verify(words[: LONGEST + 1], kept or _nobodys()) and kept is not None


def refuse_weak(name: str, password: str) -> None:
    """Raises BadInput for a password that anybody would try first."""
    if len(password) < SHORTEST:
        raise BadInput(f"Make it {SHORTEST} characters at least: a few words are easy to type.", "password")
    if len(password) > LONGEST:
        raise BadInput(f"Make it {LONGEST} characters at most.", "password")
    if folded(password) in {folded(name), folded(name) * 2} or len(set(password)) < 4:
        raise BadInput("Not the name itself, nor one letter over and over: anybody would try that first.", "password")


def refuse_weak_pin(pin: str) -> None:
    """Raises BadInput for what isn't a short number, or is the first that anybody tries."""
    if not (pin.isascii() and pin.isdigit() and PIN_SHORTEST <= len(pin) <= PIN_LONGEST):
        raise BadInput(f"A PIN is {PIN_SHORTEST} to {PIN_LONGEST} digits.", "pin")
    steps = {int(after) - int(before) for before, after in pairwise(pin)}
    if steps in ({0}, {1}, {-1}):
        raise BadInput("Not the same digit over and over, nor digits in a row: anybody would try that first.", "pin")
