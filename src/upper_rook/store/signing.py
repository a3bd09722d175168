"""The key that an installation signs its archives with (Ed25519, RFC 8032)."""

import hashlib

from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from sqlalchemy import text
from sqlmodel import Session, select

from upper_rook.store.tables import SigningKeyRow, SigningSecretRow


def signing_key(session: Session) -> Ed25519PrivateKey:
    """The installation's key, made at its first use; within the caller's transaction."""
    row = session.exec(select(SigningSecretRow)).first()
    if row is None:
        # Two first archives at once are signed with one key.
        session.execute(text("select pg_advisory_xact_lock(hashtextextended('signing_key', 0))"))
        row = session.exec(select(SigningSecretRow)).first() or _made(session)
    return Ed25519PrivateKey.from_private_bytes(row.private)


def is_own(session: Session, public: bytes) -> bool:
    """Whether a public key is, or was, this installation's."""
    return session.get(SigningKeyRow, public) is not None


def own_keys(session: Session) -> frozenset[bytes]:
    """Every public key that this installation signed with."""
    return frozenset(session.exec(select(SigningKeyRow.public)))


def fingerprint(public: bytes) -> str:
    """A key as people compare it: the beginning of its SHA-256, in fours."""
    digits = hashlib.sha256(public).hexdigest()[:16]
    return " ".join(digits[place : place + 4] for place in range(0, 16, 4))


def _made(session: Session) -> SigningSecretRow:
    key = Ed25519PrivateKey.generate()
    row = SigningSecretRow(public=key.public_key().public_bytes_raw(), private=key.private_bytes_raw())
    session.add(SigningKeyRow(public=row.public))
    session.flush()
    session.add(row)
    session.flush()
    return row
