"""Passkeys: made and removed by whoever is signed in, and in by one."""

from typing import Annotated, Any

from fastapi import APIRouter, Depends, Request, Response

from upper_rook.core.common.units import Name
from upper_rook.desk.auth import passkeys
from upper_rook.desk.auth.passkeys import Site, site_of
from upper_rook.store import passkeys as kept
from upper_rook.store.passkeys import Passkey
from upper_rook.store.people import Person
from upper_rook.web import acts, problems
from upper_rook.web.access import Here, Store
from upper_rook.web.auth import Body, Known, Proven, entered, need
from upper_rook.web.problems import responses

router = APIRouter(
    prefix="/api/doors", tags=["doors"], dependencies=[acts.ONES_OWN], max_body_size=problems.LARGEST_AT_THE_DOOR
)


def _site(request: Request) -> Site:
    return site_of(request.headers["host"])


At = Annotated[Site, Depends(_site)]


class Made(Body):
    """A key as the browser made it (WebAuthn's own document)."""

    name: Name
    credential: dict[str, Any]


class Signed(Body):
    """Document that a key signed (WebAuthn's own)."""

    credential: dict[str, Any]


@router.get("/passkeys", responses=responses(401))
def list_passkeys(store: Store, who: Here) -> list[Passkey]:
    """One's own keys."""
    with store() as session:
        return kept.of_person(session, need(who).person.id)


@router.post("/passkeys/offer", responses=responses(401, 428))
def offer(store: Store, who: Proven, site: At) -> dict[str, Any]:
    """Options for the browser to make a key."""
    with store() as session:
        return passkeys.offer(session, who, site)


@router.post("/passkeys", status_code=201, responses=responses(401, 409, 428))
def add(store: Store, who: Proven, site: At, made: Made) -> list[Passkey]:
    """Keeps a key that was made just now."""
    with store() as session:
        passkeys.add(session, who, site, made.credential, made.name)
        return kept.of_person(session, who.person.id)


@router.delete("/passkeys/{key_id}", status_code=204, responses=responses(401, 404))
def remove(store: Store, who: Here, key_id: str) -> None:
    """Does away with one of one's own keys."""
    with store() as session:
        passkeys.remove(session, need(who), key_id)


@router.post("/passkey/ask", responses=responses(401))
def ask(store: Store, device: Known, site: At) -> dict[str, Any]:
    """Options for the browser to sign in with a key."""
    with store() as session:
        return passkeys.ask(session, device, site)


@router.post("/passkey", responses=responses(401))
def sign_in(response: Response, store: Store, device: Known, site: At, by: Signed) -> Person:
    """In by a passkey."""
    with store() as session:
        return entered(response, passkeys.sign_in(session, device, site, by.credential))
