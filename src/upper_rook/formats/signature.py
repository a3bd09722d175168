"""The signature of an archive or a backup: the installation that wrote it, and that nothing in it was changed since."""

import hashlib
import json
from enum import StrEnum
from typing import Annotated, Literal
from uuid import UUID

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey, Ed25519PublicKey
from pydantic import StringConstraints, ValidationError

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import Frozen


class Kind(StrEnum):
    """Kind of file that is signed: the signature of one is none of the other."""

    ARCHIVE = "job archive"
    BACKUP = "backup"

    @property
    def changed(self) -> str:
        """Refusal of a file that isn't as it was signed."""
        return f"This {self.value} was changed after it was signed: ask for it again."


_CALLED = {Kind.ARCHIVE: "upper-rook-archive", Kind.BACKUP: "upper-rook-backup"}


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


def signed(
    key: Ed25519PrivateKey, installation: UUID, entries: dict[str, bytes], kind: Kind = Kind.ARCHIVE
) -> Signature:
    """The signature of a file's entries."""
    digests = {name: hashlib.sha256(data).hexdigest() for name, data in entries.items()}
    return Signature(
        installation=installation,
        public_key=key.public_key().public_bytes_raw().hex(),
        digests=digests,
        signature=key.sign(_statement(kind, installation, digests)).hex(),
    )


def signer_of(text: bytes, entries: dict[str, bytes], kind: Kind = Kind.ARCHIVE) -> bytes:
    """The public key that signed these entries. Raises BadInput where it didn't."""
    try:
        found = Signature.model_validate_json(text)
        public = bytes.fromhex(found.public_key)
        key = Ed25519PublicKey.from_public_bytes(public)
        key.verify(bytes.fromhex(found.signature), _statement(kind, found.installation, found.digests))
    except (ValidationError, InvalidSignature, ValueError):
        raise BadInput(kind.changed) from None
    if any(found.digests.get(name) != hashlib.sha256(data).hexdigest() for name, data in entries.items()):
        raise BadInput(kind.changed)
    return public


def _statement(kind: Kind, installation: UUID, digests: dict[str, str]) -> bytes:
    statement = {"what": _CALLED[kind], "installation": str(installation), "digests": digests}
    return json.dumps(statement, sort_keys=True, separators=(",", ":")).encode()
