"""A Unix socket that only the proxy before the app may open: the folder's and the socket's rights say who that is."""

import os
import socket
import stat
from pathlib import Path

from upper_rook.core.common.errors import BadInput

_OWNER_AND_GROUP = 0o117
"""Mask that leaves the socket to its owner and its folder's group."""
_LONGEST = 107
"""Bytes of a Unix socket's path (unix(7))."""


def listening_socket(place: Path) -> socket.socket:
    """A socket that listens at `place`; one that a killed app left there is taken away. Raises BadInput."""
    if len(os.fsencode(place)) > _LONGEST:
        raise BadInput(f"The path of a Unix socket has at most {_LONGEST} bytes: {place} is longer.")
    _clear(place)
    listener = socket.socket(socket.AF_UNIX)
    mask = os.umask(_OWNER_AND_GROUP)
    try:
        listener.bind(str(place))
    except OSError as error:
        listener.close()
        raise BadInput(
            f"{place} can’t be opened ({error.strerror}): make its folder first, writable for this app."
        ) from None
    finally:
        os.umask(mask)
    listener.listen(2048)
    return listener


def _clear(place: Path) -> None:
    """Takes away a socket that nobody listens at."""
    try:
        if not stat.S_ISSOCK(place.lstat().st_mode):
            raise BadInput(f"{place} is a file already: give the socket another name.")
    except FileNotFoundError:
        return
    with socket.socket(socket.AF_UNIX) as probe:
        try:
            probe.connect(str(place))
        except ConnectionRefusedError:
            place.unlink()
            return
        except OSError as error:
            raise BadInput(f"{place} can’t be used ({error.strerror}).") from None
    raise BadInput(f"Another app listens at {place}: stop it, or give another socket.")
