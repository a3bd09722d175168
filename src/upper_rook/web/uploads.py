"""Receiving a file piece by piece: onto the disk, with its digest, while there is room for it."""

import hashlib
import time
from typing import BinaryIO

from fastapi import Request
from starlette.exceptions import HTTPException
from starlette.requests import ClientDisconnect

from upper_rook.web.health import LOW_BYTES, free_bytes

GRACE_S, LEAST_BYTES_S = 60.0, 5_000.0
"""Slower than this, after so long, a file only holds a place that others wait for."""


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
