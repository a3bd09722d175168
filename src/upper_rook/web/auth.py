"""The door: a device let in by a link, people on it by password or PIN; out again, locked, back."""

from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Depends, Request, Response
from fastapi.responses import FileResponse
from pydantic import BaseModel, ConfigDict, Field
from starlette.datastructures import Headers

from upper_rook.core.common.errors import NotFound
from upper_rook.core.common.roles import Act, Role, acts_of, practises
from upper_rook.core.common.units import Name
from upper_rook.desk.auth import links, password_sign_in, sessions
from upper_rook.desk.auth.credentials import Shut
from upper_rook.desk.auth.links import Newcomer, NewDevice
from upper_rook.desk.auth.sessions import Entry, Passing
from upper_rook.store import devices
from upper_rook.store.devices import Device
from upper_rook.store.people import Person
from upper_rook.web import acts, problems
from upper_rook.web.access import Here, Store
from upper_rook.web.auth_middleware import DEVICE, device_cookie, session_cookie, token_in
from upper_rook.web.codes import CodeAt, codes
from upper_rook.web.problems import responses

router = APIRouter(
    prefix="/api/doors", tags=["doors"], dependencies=[acts.ONES_OWN], max_body_size=problems.LARGEST_AT_THE_DOOR
)

Words = Annotated[str, Field(max_length=1000)]
Token = Annotated[str, Field(max_length=200)]


class Body(BaseModel):
    """Entry sent to the door."""

    model_config = ConfigDict(extra="forbid")


class Door(BaseModel):
    """State of the door for whoever asks."""

    locked: bool
    """Whether one has to sign in."""
    person: Person | None = None
    """Person who is signed in on this device."""
    may: tuple[Act, ...] = ()
    """Acts that this person's role covers."""
    practises: bool = False
    """Whether it keeps to practice jobs."""
    away: bool = False
    """Whether that person has to come back first: this device locked itself."""
    device: Device | None = None
    """Name of this device."""
    by_pin: list[Person] = []
    """People who come in by a PIN here."""


class SignIn(Body):
    """By name and password."""

    name: Name
    password: Words


class SignInByPin(Body):
    """By the number that opens on this device."""

    person: UUID
    pin: Token


class LinkOf(Body):
    """A link that works once."""

    link: Token


class LinkFor(BaseModel):
    """Purpose of a link."""

    kind: Literal["person", "password", "device"]
    role: Role | None = None
    name: str | None = None
    """Person who chooses a new password."""


class ComeIn(Body):
    """Somebody new, or somebody with a new password."""

    link: Token
    name: Name = ""
    password: Words
    device: Name = ""
    """Name of this device."""
    shared: bool = False
    """Whether several people use it: then it locks itself after five minutes without a touch."""


class Pair(Body):
    """A device alone."""

    link: Token
    device: Name
    shared: bool = False
    """Whether several people use it: then it locks itself after five minutes without a touch."""


class NewPassword(Body):
    """Another password."""

    former: Words
    password: Words
    end_passkeys: bool = False
    """Ends the passkeys that were made before as well."""


class NewPin(Body):
    """A PIN for this device."""

    password: Words
    pin: Token


class Proof(Body):
    """Proof that it is this person, by one of the two."""

    password: Words | None = None
    pin: Token | None = None


def need(who: Passing | None) -> Passing:
    """Person who is signed in. Raises Shut where nobody has to be: then there is nobody to be let in or out."""
    if who is None:
        raise Shut("This server has no sign-in. Start it with --lan.")
    return who


def _proven(who: Here) -> Passing:
    passing = need(who)
    sessions.need_proof(passing)
    return passing


Proven = Annotated[Passing, Depends(_proven)]
"""Person who typed a password or PIN within the last minutes. Raises NotProven."""


def entered(response: Response, entry: Entry) -> Person:
    """Hands out what the browser is to keep."""
    response.headers.append("set-cookie", session_cookie(entry.token))
    if entry.device_token:
        response.headers.append("set-cookie", device_cookie(entry.device_token))
    return entry.person


def _device(request: Request, store: Store) -> Device | None:
    token = token_in(Headers(scope=request.scope), DEVICE)
    with store() as session:
        return links.known_device(session, token)


MaybeKnown = Annotated[Device | None, Depends(_device)]


def _known(device: MaybeKnown) -> Device:
    if device is None:
        raise Shut("This device isn’t known here: have a code for it shown under People, and open that.", "device")
    return device


Known = Annotated[Device, Depends(_known)]
"""The device that asks. Raises Shut for one that was never let in: nobody guesses passwords from there."""


def _address(request: Request) -> str:
    return request.client.host if request.client else ""


Address = Annotated[str, Depends(_address)]


@router.get("", responses=responses())
def door(request: Request, store: Store, who: Here, device: MaybeKnown) -> Door:
    """Whether one has to sign in, who has, and on which device."""
    if not request.app.state.settings.doors:
        return Door(locked=False)
    if device is None:
        return Door(locked=True)
    with store() as session:
        return Door(
            locked=True,
            person=who.person if who else None,
            may=acts_of(who.person.role) if who else (),
            practises=bool(who and practises(who.person.role)),
            away=bool(who and who.locked),
            device=device,
            by_pin=devices.with_pin(session, device.id),
        )


@router.get("/authority", response_class=FileResponse, responses=responses(404))
def authority(request: Request) -> FileResponse:
    """The certificate of the workshop's own authority, that devices are to trust."""
    file = request.app.state.settings.authority
    if file is None or not file.is_file():
        raise NotFound("This server has no authority of its own.")
    return FileResponse(file, media_type="application/x-x509-ca-cert", filename="upper-rook-authority.crt")


@router.get("/codes", responses=responses(401))
def list_codes(request: Request, who: Here) -> list[CodeAt]:
    """Where other devices find the app, the address that most reach first."""
    need(who)
    return codes(request.app.state.settings.addresses)


@router.post("/link", responses=responses(401))
def look_at_link(store: Store, asked: LinkOf) -> LinkFor:
    """Purpose of a link; it stays as it is."""
    with store() as session:
        link, person = links.look(session, asked.link)
    if person:
        return LinkFor(kind="password", name=person.name)
    return LinkFor(kind="person", role=link.role) if link.role else LinkFor(kind="device")


@router.post("/come-in", status_code=201, responses=responses(401, 409))
def come_in(response: Response, store: Store, device: MaybeKnown, new: ComeIn) -> Person:
    """In by a link; this device is let in as well."""
    who = Newcomer(new.name, new.password, NewDevice(new.device, new.shared))
    with store() as session:
        return entered(response, links.come_in(session, new.link, who, device))


@router.post("/pair", status_code=201, responses=responses(401))
def pair(response: Response, store: Store, device: MaybeKnown, new: Pair) -> Device:
    """Lets a device in."""
    with store() as session:
        paired = links.pair(session, new.link, device, NewDevice(new.device, new.shared))
    if paired.token:
        response.headers.append("set-cookie", device_cookie(paired.token))
    return paired.device


@router.post("/sign-in", responses=responses(401, 429))
def sign_in(response: Response, store: Store, device: Known, address: Address, by: SignIn) -> Person:
    """In by name and password."""
    with store() as session:
        return entered(response, password_sign_in.sign_in(session, by.name, by.password, address, device))


@router.post("/pin", responses=responses(401))
def sign_in_by_pin(response: Response, store: Store, device: Known, by: SignInByPin) -> Person:
    """In by the PIN that opens on this device."""
    with store() as session:
        return entered(response, password_sign_in.sign_in_by_pin(session, by.person, by.pin, device))


@router.post("/sign-out", status_code=204, responses=responses(401))
def sign_out(response: Response, store: Store, who: Here) -> None:
    """Out on this device."""
    with store() as session:
        sessions.sign_out(session, need(who))
    response.headers.append("set-cookie", session_cookie(""))


@router.post("/lock", status_code=204, responses=responses(401))
def lock(store: Store, who: Here) -> None:
    """Nobody does anything on this device until its person is back."""
    with store() as session:
        sessions.lock(session, need(who))


@router.post("/unlock", status_code=204, responses=responses(401, 429))
def unlock(store: Store, who: Here, by: Proof) -> None:
    """Back, by password or PIN."""
    with store() as session:
        password_sign_in.prove(session, need(who), by.password, by.pin)


@router.post("/prove", status_code=204, responses=responses(401, 429))
def prove(store: Store, who: Here, by: Proof) -> None:
    """Shows who it is before an act that lets somebody in or out."""
    with store() as session:
        password_sign_in.prove(session, need(who), by.password, by.pin)


@router.post("/password", responses=responses(401, 429))
def change_password(response: Response, store: Store, who: Here, new: NewPassword) -> Person:
    """Another password; signed out everywhere else."""
    with store() as session:
        entry = password_sign_in.change_password(
            session, need(who), new.former, new.password, end_passkeys=new.end_passkeys
        )
        return entered(response, entry)


@router.put("/own-pin", status_code=204, responses=responses(401, 429))
def set_pin(store: Store, who: Here, new: NewPin) -> None:
    """A PIN for this device."""
    with store() as session:
        password_sign_in.set_pin(session, need(who), new.password, new.pin)


@router.delete("/own-pin", status_code=204, responses=responses(401))
def end_pin(store: Store, who: Here) -> None:
    """No PIN opens here any more."""
    with store() as session:
        password_sign_in.end_pin(session, need(who))
