"""The signature of an archive: which installation wrote it, and that nothing in it was changed since."""

import hashlib
import json
from typing import Annotated, Literal
from uuid import UUID

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey, Ed25519PublicKey
from pydantic import StringConstraints, ValidationError

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import Frozen

CHANGED = "This job archive was changed after it was signed: ask for it again."


def _hex(digits: int) -> StringConstraints:
    return StringConstraints(pattern=rf"^[0-9a-f]{{{digits}}}$")


class Signature(Frozen):
    """`signature.json` of an archive."""

    format: Literal[1] = 1
    installation: UUID
    public_key: Annotated[str, _hex(64)]
    """Ed25519 (RFC 8032)."""
    digests: dict[str, Annotated[str, _hex(64)]]
    """SHA-256 of what was signed, by name; the files of captures are in `archive.json` by theirs."""
    signature: Annotated[str, _hex(128)]


def signed(key: Ed25519PrivateKey, installation: UUID, entries: dict[str, bytes]) -> Signature:
    """The signature of an archive's entries."""
    digests = {name: hashlib.sha256(data).hexdigest() for name, data in entries.items()}
    return Signature(
        installation=installation,
        public_key=key.public_key().public_bytes_raw().hex(),
        digests=digests,
        signature=key.sign(_statement(installation, digests)).hex(),
    )


def signer_of(text: bytes, entries: dict[str, bytes]) -> bytes:
    """The public key that signed these entries. Raises BadInput where it didn't."""
    try:
        found = Signature.model_validate_json(text)
        public = bytes.fromhex(found.public_key)
        key = Ed25519PublicKey.from_public_bytes(public)
        key.verify(bytes.fromhex(found.signature), _statement(found.installation, found.digests))
    except (ValidationError, InvalidSignature, ValueError):
        raise BadInput(CHANGED) from None
    if any(found.digests.get(name) != hashlib.sha256(data).hexdigest() for name, data in entries.items()):
        raise BadInput(CHANGED)
    return public


def _statement(installation: UUID, digests: dict[str, str]) -> bytes:
    statement = {"what": "upper-rook-archive", "installation": str(installation), "digests": digests}
    return json.dumps(statement, sort_keys=True, separators=(",", ":")).encode()
