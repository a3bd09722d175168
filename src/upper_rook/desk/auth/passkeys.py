"""
Passkeys (WebAuthn, level 2): a key that somebody's own device keeps and opens by finger, face or its own number.

Bound to the name in the address: under a bare number browsers make none.
"""

import ipaddress
import json
from datetime import UTC, datetime, timedelta
from typing import Any, NamedTuple

import webauthn
from sqlmodel import Session
from webauthn.helpers import base64url_to_bytes, options_to_json
from webauthn.helpers.exceptions import WebAuthnException
from webauthn.helpers.structs import (
    AuthenticatorSelectionCriteria,
    PublicKeyCredentialDescriptor,
    ResidentKeyRequirement,
    UserVerificationRequirement,
)

from upper_rook.core.common.errors import BadInput, Conflict
from upper_rook.desk.auth.credentials import Shut
from upper_rook.desk.auth.sessions import Entry, Passing, enter
from upper_rook.desk.transaction import transaction
from upper_rook.store import passkeys, trail
from upper_rook.store.devices import Device
from upper_rook.store.passkeys import Kept
from upper_rook.store.trail import Act, By

_LASTS = timedelta(minutes=5)
_NOT_OURS = "That passkey opens nothing here: use the password."

Document = dict[str, Any]


class Site(NamedTuple):
    """Under what the app was asked: a key made for one opens under no other."""

    name: str
    origin: str


def site_of(host: str) -> Site:
    """The site of a request's Host header. Raises BadInput where browsers make no keys."""
    name = host.rsplit(":", 1)[0] if not host.endswith("]") else host
    try:
        ipaddress.ip_address(name.strip("[]"))
    except ValueError:
        return Site(name, f"https://{host}")
    raise BadInput("Passkeys need a name in the address, not a number: open the app under its name.", "passkey")


def offer(session: Session, who: Passing, site: Site) -> Document:
    """Options for the browser to make a key for a person who is signed in."""
    known = [
        PublicKeyCredentialDescriptor(id=bytes.fromhex(passkey.id))
        for passkey in passkeys.of_person(session, who.person.id)
    ]
    options = webauthn.generate_registration_options(
        rp_id=site.name,
        rp_name="Upper Rook",
        user_id=who.person.id.bytes,
        user_name=who.person.name,
        authenticator_selection=AuthenticatorSelectionCriteria(
            resident_key=ResidentKeyRequirement.REQUIRED, user_verification=UserVerificationRequirement.REQUIRED
        ),
        exclude_credentials=known,
    )
    with transaction(session):
        passkeys.challenge(session, options.challenge, who.device, who.person.id, datetime.now(UTC) + _LASTS)
    return dict(json.loads(options_to_json(options)))


def add(session: Session, who: Passing, site: Site, made: Document, name: str) -> None:
    """Keeps a key that was made just now. Raises BadInput for one that wasn't, Conflict for one that is known."""
    with transaction(session):
        challenge = passkeys.take_challenge(session, who.device, who.person.id)
    try:
        found = webauthn.verify_registration_response(
            credential=made,
            expected_challenge=challenge or b"",
            expected_rp_id=site.name,
            expected_origin=site.origin,
            require_user_verification=True,
        )
    except (WebAuthnException, ValueError, KeyError, TypeError):
        raise BadInput("The key could not be made: try again.", "passkey") from None
    if passkeys.find(session, found.credential_id):
        raise Conflict("That key is known already.", "passkey")
    with transaction(session):
        kept = Kept(who.person, found.credential_public_key, found.sign_count)
        passkeys.add(session, found.credential_id, kept, name.strip())
        trail.note(session, who.by, Act.PASSKEY_ADDED, name)


def ask(session: Session, device: Device, site: Site) -> Document:
    """Options for the browser to sign in with a key; they reveal nobody's name."""
    options = webauthn.generate_authentication_options(
        rp_id=site.name, user_verification=UserVerificationRequirement.REQUIRED
    )
    with transaction(session):
        passkeys.challenge(session, options.challenge, device.id, None, datetime.now(UTC) + _LASTS)
    return dict(json.loads(options_to_json(options)))


def sign_in(session: Session, device: Device, site: Site, signed: Document) -> Entry:
    """Lets in whoever's key signed. Raises Shut; a key whose counter went back has been copied and opens nothing."""
    with transaction(session):
        challenge = passkeys.take_challenge(session, device.id, None)
    try:
        key = base64url_to_bytes(str(signed["rawId"]))
        kept = passkeys.find(session, key)
        if challenge is None or kept is None:
            raise Shut(_NOT_OURS)
        found = webauthn.verify_authentication_response(
            credential=signed,
            expected_challenge=challenge,
            expected_rp_id=site.name,
            expected_origin=site.origin,
            credential_public_key=kept.public_key,
            credential_current_sign_count=kept.uses,
            require_user_verification=True,
        )
    except (WebAuthnException, ValueError, KeyError, TypeError):
        with transaction(session):
            trail.note(session, By(device=device.name), Act.FAILED, "by passkey")
        raise Shut(_NOT_OURS) from None
    with transaction(session):
        passkeys.used(session, key, found.new_sign_count)
        return enter(session, kept.person, device, "by passkey")


def remove(session: Session, who: Passing, key: str) -> None:
    """Does away with one of one's own keys. Raises NotFound."""
    try:
        raw = bytes.fromhex(key)
    except ValueError:
        raw = b""
    with transaction(session):
        passkeys.remove(session, who.person.id, raw)
        trail.note(session, who.by, Act.PASSKEY_REMOVED)
