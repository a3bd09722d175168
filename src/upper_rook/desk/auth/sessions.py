"""Sessions: begun at the door, carried by every request, renewed on the way, locked, ended."""

import secrets
from datetime import UTC, datetime, timedelta
from typing import NamedTuple
from uuid import UUID

from sqlmodel import Session

from upper_rook.desk.auth.credentials import NotProven, digest, new_token
from upper_rook.desk.transaction import transaction
from upper_rook.store import devices, sign_ins, trail
from upper_rook.store.devices import Device
from upper_rook.store.people import Person
from upper_rook.store.sign_ins import SignIn
from upper_rook.store.trail import Act, By

IDLE = timedelta(hours=14)
"""A working day and its night: nobody signs in twice a day."""
LASTS = timedelta(days=30)
PROOF_LASTS = timedelta(minutes=5)
_RENEWED_AFTER = timedelta(hours=12)
_GRACE = timedelta(minutes=1)
_SEEN_EVERY = timedelta(minutes=1)


class Entry(NamedTuple):
    """A session as it is handed out: what the browser is to keep."""

    person: Person
    token: str
    device_token: str | None = None
    """Where the device was let in with it."""


class Passing(NamedTuple):
    """Person and device behind a request, and the token to carry from now on where that changed."""

    person: Person
    session: UUID
    device: UUID
    device_name: str
    locked: bool
    proved_at: datetime
    """When this person last typed a password or PIN here, or signed in."""
    token: str | None = None

    @property
    def by(self) -> By:
        """As the trail names them."""
        return By(self.person.name, self.device_name)


def enter(session: Session, person: Person, device: Device, how: str, device_token: str | None = None) -> Entry:
    """Somebody's new session on a device; within a transaction."""
    token = new_token()
    sign_ins.end_old(session, IDLE, LASTS)
    sign_ins.add(session, person.id, digest(token), device.id)
    devices.seen(session, device.id)
    trail.note(session, By(person.name, device.name), Act.SIGNED_IN, how)
    return Entry(person, token, device_token)


class Carried(NamedTuple):
    """Proofs that a request carries of who sends it."""

    token: str
    device_token: str
    untouched: timedelta | None = None
    """For how long its device wasn't touched, where its page says so."""


def passing(session: Session, carried: Carried) -> Passing | None:
    """
    Person behind a token; None where it is none of ours, from another device, or its time is over.

    An old token is replaced on the way, and a device that nobody touched for its time is locked.
    """
    kept, now = digest(carried.token), datetime.now(UTC)
    found = sign_ins.find(session, kept)
    if found is None or found.row.seen_at < now - IDLE or found.row.began_at < now - LASTS:
        return None
    if not secrets.compare_digest(found.device_token, digest(carried.device_token)):
        return None
    row = found.row
    if row.token != kept and row.renewed_at < now - _GRACE:
        # Somebody comes with what was replaced long ago: one of the two is not who signed in.
        with transaction(session):
            sign_ins.end(session, row.id)
        return None
    touched = row.touched_at if carried.untouched is None else max(row.touched_at, now - carried.untouched)
    signed_in, device, proved_at, locked = row.id, row.device_id, row.proved_at, row.locked_at is not None
    if not locked and _left_alone(found, touched):
        locked = True
        with transaction(session):
            sign_ins.lock(session, signed_in, locked=True)
    token = _renewed(session, found, kept, touched)
    return Passing(found.person, signed_in, device, found.device, locked, proved_at, token)


def _left_alone(found: SignIn, touched: datetime) -> bool:
    """Whether a device should be locked by now; what is known of its last touch may be a little old."""
    limit = found.locks_after_min
    return limit is not None and touched < datetime.now(UTC) - timedelta(minutes=limit) - _SEEN_EVERY


def _renewed(session: Session, found: SignIn, kept: bytes, touched: datetime) -> str | None:
    """Another token where this one is old; of two requests at once one gets it, the other goes on with the former."""
    now, row = datetime.now(UTC), found.row
    key, device = row.id, row.device_id
    if row.renewed_at < now - _RENEWED_AFTER:
        token = new_token()
        with transaction(session):
            return token if sign_ins.renew(session, key, kept, digest(token)) else None
    if row.seen_at < now - _SEEN_EVERY:
        with transaction(session):
            sign_ins.seen(session, key, touched)
            devices.seen(session, device)
    return None


def need_proof(who: Passing) -> None:
    """Raises NotProven where nobody typed a password or PIN of late: a page left open is not its person."""
    if who.proved_at < datetime.now(UTC) - PROOF_LASTS:
        raise NotProven("Show first that it is you: type your password or your PIN.")


def sign_out(session: Session, who: Passing) -> None:
    """Out on this device."""
    with transaction(session):
        sign_ins.end(session, who.session)
        trail.note(session, who.by, Act.SIGNED_OUT)


def lock(session: Session, who: Passing) -> None:
    """Nobody does anything here until its person is back; what is on the screen stays there."""
    with transaction(session):
        sign_ins.lock(session, who.session, locked=True)
