"""Receiving a file piece by piece: onto the disk, with its digest, while there is room for it."""

import hashlib
from typing import BinaryIO

from fastapi import Request
from starlette.exceptions import HTTPException
from starlette.requests import ClientDisconnect

from upper_rook.web.health import LOW_BYTES, free_bytes


async def receive(request: Request, file: BinaryIO) -> str:
    """Writes the request's body to `file` and gives its SHA-256. Raises HTTPException: 507 without room, 400."""
    size = int(request.headers.get("content-length", "0") or 0)
    # Once as it comes and once in the database.
    if free_bytes(request.app.state.settings.data.resolve()) < LOW_BYTES + 2 * size:
        raise HTTPException(507)
    digest = hashlib.sha256()
    try:
        async for piece in request.stream():
            digest.update(piece)
            file.write(piece)
    except ClientDisconnect:
        raise HTTPException(400, "The file broke off.") from None
    file.flush()
    return digest.hexdigest()
