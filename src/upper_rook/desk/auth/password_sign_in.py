"""Coming in on a device that is known: by name and password, or by the short number that opens there."""

from datetime import timedelta
from uuid import UUID

from sqlmodel import Session

from upper_rook.core.common.errors import Conflict
from upper_rook.core.common.folding import folded
from upper_rook.core.common.roles import Role
from upper_rook.desk.auth.credentials import Shut, TooManyTries, hashed, matches, refuse_weak, refuse_weak_pin
from upper_rook.desk.auth.sessions import Entry, Passing, enter
from upper_rook.desk.transaction import transaction
from upper_rook.store import devices, people, sign_ins, trail
from upper_rook.store.devices import Device
from upper_rook.store.people import Person
from upper_rook.store.trail import Act, By

PIN_TRIES = 5
_WINDOW = timedelta(minutes=15)
_TRIES, _TRIES_BY_ADDRESS = 5, 30
"""By one name on one device, and from one address: nobody keeps somebody out who works elsewhere."""


def sign_in(session: Session, name: str, password: str, address: str, device: Device) -> Entry:
    """
    Lets somebody in by name and password.

    Raises Shut, whether the name or the password is wrong, and TooManyTries by that name or from that address, whoever
    they are.
    """
    limits = {f"name {folded(name)[:80]} {device.id}": _TRIES, f"address {address}": _TRIES_BY_ADDRESS}
    person = _by_password(session, name, password, limits, device.name)
    with transaction(session):
        return enter(session, person, device, "by password")


def _by_password(session: Session, name: str, password: str, limits: dict[str, int], device: str) -> Person:
    tries = _counted(session, limits)
    known = people.with_password(session, name)
    # Hashing takes long, and nobody is kept waiting for a connection meanwhile.
    session.rollback()
    if not matches(password, known[1] if known else None) or known is None:
        with transaction(session):
            trail.note(session, By(device=device), Act.FAILED, "by password")
        raise Shut("Name or password is wrong.")
    with transaction(session):
        sign_ins.forget(session, tries)
    return known[0]


def _counted(session: Session, limits: dict[str, int]) -> tuple[UUID, ...]:
    """Counts a try before it is looked at, so that many at once don't get more. Raises TooManyTries."""
    with transaction(session):
        for what, most in limits.items():
            sign_ins.wait_for_turn(session, what)
            if sign_ins.knocked(session, what, _WINDOW) >= most:
                raise TooManyTries(f"Too many tries: wait {_WINDOW.seconds // 60} minutes.")
        return sign_ins.knock(session, *limits, forget=_WINDOW * 4)


def sign_in_by_pin(session: Session, person: UUID, pin: str, device: Device) -> Entry:
    """Lets somebody in by the number that opens on this device. Raises Shut; five wrong ones end it."""
    whose = _by_pin(session, person, pin, device.id, device.name)
    with transaction(session):
        return enter(session, whose, device, "by PIN")


def _by_pin(session: Session, person: UUID, pin: str, device: UUID, name: str) -> Person:
    with transaction(session):
        tries = devices.try_pin(session, person, device)
    whose = people.find(session, person)
    if tries is None or whose is None:
        raise Shut("No PIN opens here any more: use the password.")
    kept = devices.pin_of(session, person, device) if tries <= PIN_TRIES else None
    session.rollback()
    if matches(pin, kept):
        with transaction(session):
            devices.pin_was_right(session, person, device)
        return whose
    with transaction(session):
        trail.note(session, By(device=name), Act.FAILED, "by PIN")
        if tries >= PIN_TRIES:
            devices.end_pin(session, person, device)
            trail.note(session, By(whose.name, name), Act.PIN_ENDED, "too many wrong ones")
    if tries >= PIN_TRIES:
        raise Shut("Too many wrong attempts: the PIN is disabled. Use the password.")
    raise Shut(f"That is not the PIN: {PIN_TRIES - tries} more tries.")


def confirm_owner(session: Session, name: str, password: str) -> Person:
    """The owner, asked before what can't be undone. Raises Shut for anybody else, TooManyTries."""
    person = _by_password(session, name, password, {f"name {folded(name)[:80]} at the machine": _TRIES}, "")
    if person.role is not Role.OWNER:
        raise Shut("Only the owner may do that.")
    return person


def set_pin(session: Session, who: Passing, password: str, pin: str) -> None:
    """A short number for this device. Raises Shut for another password than one's own, BadInput for the first tried."""
    refuse_weak_pin(pin)
    _own_password(session, who, password)
    kept = hashed(pin)
    with transaction(session):
        devices.set_pin(session, who.person.id, who.device, kept)
        trail.note(session, who.by, Act.PIN_SET)


def end_pin(session: Session, who: Passing) -> None:
    """No number opens here for them."""
    with transaction(session):
        devices.end_pin(session, who.person.id, who.device)
        trail.note(session, who.by, Act.PIN_ENDED)


def prove(session: Session, who: Passing, password: str | None, pin: str | None) -> None:
    """Shows that this person is there, by password or number; a locked device goes on. Raises Shut, TooManyTries."""
    if pin is not None:
        _by_pin(session, who.person.id, pin, who.device, who.device_name)
    else:
        _own_password(session, who, password or "")
    with transaction(session):
        sign_ins.prove(session, who.session)
        sign_ins.lock(session, who.session, locked=False)


def change_password(session: Session, who: Passing, former: str, password: str, *, end_passkeys: bool) -> Entry:
    """
    Another password: signed out everywhere, and in again here; `end_passkeys` ends the keys made before as well.

    Raises Shut, TooManyTries, BadInput.
    """
    _own_password(session, who, former)
    refuse_weak(who.person.name, password)
    kept = hashed(password)
    with transaction(session):
        people.set_password(session, who.person.id, kept)
        if end_passkeys:
            people.end_passkeys(session, who.person.id)
        trail.note(session, who.by, Act.PASSWORD_CHANGED)
        return enter(session, who.person, devices.get(session, who.device), "with the new password")


def _own_password(session: Session, who: Passing, password: str) -> None:
    """Counted for this session alone: what others try in vain keeps nobody out who is in."""
    try:
        _by_password(session, who.person.name, password, {f"session {who.session}": _TRIES}, who.device_name)
    except Shut:
        raise Shut("That is not your password.") from None


def let_go(session: Session, by: Passing, person: UUID, *, nameless: bool) -> None:
    """Ends somebody's time here. Raises Conflict for oneself: somebody has to hold the keys; NotFound."""
    if person == by.person.id:
        raise Conflict("You can’t let yourself go: somebody has to hold the keys.", "person")
    whose = people.find(session, person)
    with transaction(session):
        people.let_go(session, person, nameless="somebody who left" if nameless else None)
        told = whose.name if whose and not nameless else "name taken out"
        trail.note(session, by.by, Act.LET_GO, told)
