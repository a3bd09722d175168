"""Scratch files of work that is under way, by names that say whose they are: what a killed process left is swept."""

import os
import re
import secrets
import shutil
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

_FOLDER = re.compile(r"rook-(\d+)-\w+")
_FILE = re.compile(r"(?:\..+\.|rook-)(\d+)-\w+\.part")
_OLDER_FOLDER, _OLDER_FILE = re.compile(r"rook-\w{8}"), re.compile(r".+\.zip\.part")
"""Names of earlier versions, which don't say whose they are. Files only by an ending that nobody gives a backup."""
_OLD_S = 24 * 3600.0


@contextmanager
def scratch_folder(within: Path | None = None) -> Iterator[Path]:
    """A folder of this process that is gone afterwards; among the system's own without `within`."""
    with tempfile.TemporaryDirectory(prefix=f"rook-{os.getpid()}-", dir=within) as folder:
        yield Path(folder)


def scratch_file(*, delete: bool = True) -> "tempfile._TemporaryFileWrapper[bytes]":
    """A file of this process among the system's own, gone once it is closed unless `delete` is off."""
    return tempfile.NamedTemporaryFile(prefix=f"rook-{os.getpid()}-", suffix=".part", delete=delete)


def scratch_name(to: Path) -> Path:
    """A name beside `to` for what will be it once it is whole; no other process takes the same."""
    return to.with_name(f".{to.name}.{os.getpid()}-{secrets.token_hex(4)}.part")


def sweep(*folders: Path) -> None:
    """Does away with what processes that are gone left in these folders, and in the system's own."""
    for folder in {Path(tempfile.gettempdir()), *folders}:
        with suppress(OSError):
            for left in folder.iterdir():
                if left.lstat().st_uid == os.getuid() and _is_left(left):
                    _remove(left)


def _is_left(path: Path) -> bool:
    own, older = (_FOLDER, _OLDER_FOLDER) if path.is_dir() else (_FILE, _OLDER_FILE)
    owner = own.fullmatch(path.name)
    if owner:
        return not _is_running(int(owner[1]))
    return bool(older.fullmatch(path.name)) and time.time() - path.lstat().st_mtime > _OLD_S


def _is_running(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except (PermissionError, OverflowError):
        return True
    return True


def _remove(left: Path) -> None:
    if left.is_dir() and not left.is_symlink():
        shutil.rmtree(left, ignore_errors=True)
    else:
        left.unlink(missing_ok=True)
