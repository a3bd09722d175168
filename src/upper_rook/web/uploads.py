"""Receiving a file piece by piece: onto the disk, with its digest, while there is room for it."""

import hashlib
import time
from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO, TypeVar, cast

from fastapi import Request
from fastapi.concurrency import run_in_threadpool
from starlette.exceptions import HTTPException
from starlette.requests import ClientDisconnect

from upper_rook.desk.auth.sessions import Passing
from upper_rook.desk.scratch import scratch_file
from upper_rook.web.fair_share import UPLOADS
from upper_rook.web.health import LOW_BYTES, free_bytes

Kept = TypeVar("Kept")
GRACE_S, LEAST_BYTES_S = 60.0, 5_000.0
"""Slower than this, after so long, a file only holds a place that others wait for."""


async def received(request: Request, who: Passing | None, keep: Callable[[Path, str], Kept]) -> Kept:
    """
    Receives the request's body in one of the places for uploads; gives what `keep` makes of the file and its SHA-256.

    Raises Busy where there is no place, HTTPException as `receive` does.
    """
    with UPLOADS.taken(who), scratch_file() as file:
        digest = await receive(request, cast("BinaryIO", file))
        return await run_in_threadpool(keep, Path(file.name), digest)


async def receive(request: Request, file: BinaryIO) -> str:
    """Writes the request's body to `file` and gives its SHA-256. Raises HTTPException: 507 without room, 408, 400."""
    size = int(request.headers.get("content-length", "0") or 0)
    # Once as it comes and once in the database.
    if free_bytes(request.app.state.settings.data.resolve()) < LOW_BYTES + 2 * size:
        raise HTTPException(507)
    digest = hashlib.sha256()
    begun, received = time.monotonic(), 0
    try:
        async for piece in request.stream():
            digest.update(piece)
            file.write(piece)
            received += len(piece)
            taken_s = time.monotonic() - begun
            if taken_s > GRACE_S and received < LEAST_BYTES_S * taken_s:
                raise HTTPException(408, "The file comes too slowly: move nearer to the network and send it again.")
    except ClientDisconnect:
        raise HTTPException(400, "The file broke off.") from None
    file.flush()
    return digest.hexdigest()
