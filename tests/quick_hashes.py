"""Password hashes of a moment: those of the app take as long as a guesser is to wait, and were a tenth of the tests."""

from pwdlib import PasswordHash
from pwdlib.hashers.argon2 import Argon2Hasher

from upper_rook.desk.auth import credentials

OF_THE_APP = credentials.HASHES


def use() -> None:
    """Hashes quickly in this process from here on."""
    credentials.HASHES = PasswordHash((Argon2Hasher(time_cost=1, memory_cost=8, parallelism=1),))
