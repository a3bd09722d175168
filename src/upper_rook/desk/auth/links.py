"""Letting in by a link that works once: somebody new, somebody who forgot the password, a device."""

from datetime import UTC, datetime, timedelta
from typing import NamedTuple
from uuid import UUID

from sqlmodel import Session

from upper_rook.core.common.errors import BadInput, NotFound
from upper_rook.core.common.folding import folded
from upper_rook.core.common.roles import Role
from upper_rook.desk.auth.credentials import Shut, digest, hashed, new_token, refuse_weak
from upper_rook.desk.auth.sessions import Entry, enter
from upper_rook.desk.transaction import transaction
from upper_rook.store import devices, links, people, trail
from upper_rook.store.devices import Device
from upper_rook.store.links import Link
from upper_rook.store.people import Person
from upper_rook.store.trail import Act, By

LASTS = timedelta(hours=24)
FOR_A_DEVICE_LASTS = timedelta(minutes=10)
"""Time for the person beside the screen to scan it."""
_SHARED_LOCKS_AFTER_MIN = 5
_USED = "This link has been used or is too old: ask for another one."
AT_THE_MACHINE = By(device="at the machine")
"""By whom, in the trail, what was done on the command line."""


class NewDevice(NamedTuple):
    """A device that is let in."""

    name: str
    shared: bool = False
    """Whether several people use it: then it locks itself."""


class Newcomer(NamedTuple):
    """Details from a person who comes in by a link."""

    name: str
    password: str
    device: NewDevice


class Paired(NamedTuple):
    """A device that was let in, with what it is to keep."""

    device: Device
    token: str


def first_link(session: Session) -> str | None:
    """
    The token of a link by which the first owner comes in; None once one can. Links before it end.

    After a restore it is for whoever was the owner: people are in a backup, what opens the door isn't.
    """
    with transaction(session):
        if people.has_owner(session):
            return None
        links.end_all(session)
        owner = people.first_owner(session)
        return _made(session, AT_THE_MACHINE, Link(person=owner.id) if owner else Link(role=Role.OWNER))


def invite(session: Session, by: By, link: Link) -> str:
    """
    The token of a link: for somebody new and for a new password it lasts a day, for a device ten minutes.

    Raises NotFound for somebody who isn't here.
    """
    if link.person is not None and people.find(session, link.person) is None:
        raise NotFound("Person not found. Reload the page.", "person")
    with transaction(session):
        return _made(session, by, link)


def _made(session: Session, by: By, link: Link) -> str:
    token = new_token()
    for_a_device = link.role is None and link.person is None
    lasts = FOR_A_DEVICE_LASTS if for_a_device else LASTS
    links.add(session, digest(token), link, datetime.now(UTC) + lasts)
    whose = people.find(session, link.person) if link.person else None
    what = "for a device" if for_a_device else f"a new password for {whose.name}" if whose else f"for {link.role}"
    trail.note(session, by, Act.LINK_MADE, what)
    return token


def look(session: Session, token: str) -> tuple[Link, Person | None]:
    """Purpose and person of a link, without using it up. Raises Shut."""
    found = links.find(session, digest(token))
    if found is None:
        raise Shut(_USED)
    return found, people.find(session, found.person) if found.person else None


def come_in(session: Session, token: str, new: Newcomer, known: Device | None) -> Entry:
    """
    In by a link, signed in at once: somebody new, or somebody with a new password; the device is let in with them.

    Raises Shut for a link that is used, too old, none of ours or for a device only; BadInput for a name or password
    that won't do; Conflict where the name is taken. The link then still works.
    """
    link, whose = look(session, token)
    session.rollback()
    name = whose.name if whose else new.name.strip()
    if not folded(name):
        raise BadInput("Type a name. It is shown with everything you do.", "name")
    refuse_weak(name, new.password)
    kept = hashed(new.password)
    with transaction(session):
        if links.take(session, digest(token)) is None or (link.role is None and whose is None):
            raise Shut(_USED)
        person = whose or people.add(session, name, link.role or Role.LOOKER_ON)
        people.set_password(session, person.id, kept)
        if whose:
            # Whoever had to ask for a link may have lost a device with a key on it, or had one added by another.
            people.end_passkeys(session, person.id)
        paired = _paired(session, known, new.device, name)
        trail.note(session, By(name, paired.device.name), Act.CAME_IN, f"as {person.role}")
        if not whose:
            # Nobody is told of their own coming, or of what was before it.
            trail.see(session, person.id)
        return enter(session, person, paired.device, "by a link", paired.token or None)


def pair(session: Session, token: str, known: Device | None, device: NewDevice) -> Paired:
    """Lets a device in by a link that was made for one. Raises Shut, BadInput for one without a name."""
    if not device.name.strip():
        raise BadInput("Give this device a name of its own, for example tablet, bay 2.", "device")
    with transaction(session):
        link = links.take(session, digest(token))
        if link is None or link.role is not None or link.person is not None:
            raise Shut(_USED)
        return _paired(session, known, device, "")


def _paired(session: Session, known: Device | None, device: NewDevice, by: str) -> Paired:
    """The device that came, known from now on; one that was known stays what it is."""
    name = device.name.strip()[:80] or "a device"
    if known is not None:
        devices.change(session, known.id, name, known.locks_after_min)
        return Paired(known.model_copy(update={"name": name}), "")
    token = new_token()
    made = devices.add(session, digest(token), name, _SHARED_LOCKS_AFTER_MIN if device.shared else None)
    trail.note(session, By(by, name), Act.DEVICE_LET_IN)
    return Paired(made, token)


def known_device(session: Session, token: str) -> Device | None:
    """The device that carries a token."""
    return devices.find(session, digest(token)) if token else None


def change_device(session: Session, by: By, device: UUID, name: str, locks_after_min: int | None) -> None:
    """Name of a device, and the time after which it locks itself. Raises NotFound."""
    with transaction(session):
        devices.change(session, device, name, locks_after_min)
        trail.note(session, by, Act.DEVICE_CHANGED, name)


def take_away(session: Session, by: By, device: UUID) -> None:
    """Ends a device with its sessions, at once. Raises NotFound."""
    with transaction(session):
        name = devices.take_away(session, device)
        trail.note(session, by, Act.DEVICE_TAKEN_AWAY, name)
