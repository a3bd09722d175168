"""People and devices: let in by a link or a code, let go, taken away; and the trail of it."""

from datetime import UTC, datetime
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel, Field, model_validator

from upper_rook.core.common.roles import Role
from upper_rook.core.common.units import Name
from upper_rook.desk.auth import links, password_sign_in
from upper_rook.formats.cells import csv_table
from upper_rook.store import devices, people, trail
from upper_rook.store.devices import Device
from upper_rook.store.links import Link
from upper_rook.store.people import Person
from upper_rook.store.trail import Entry
from upper_rook.web import acts
from upper_rook.web.access import Here, Store
from upper_rook.web.auth import Body, Proven, need
from upper_rook.web.codes import CodeAt, codes
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api/people", tags=["doors"], dependencies=[acts.PEOPLE])

_A_FILE = 100_000
"""Acts in one file of the trail, at most."""


class Invite(Body):
    """Whom a link is to let in: somebody new in a role, somebody with a new password, or a device alone."""

    role: Role | None = None
    person: UUID | None = None

    @model_validator(mode="after")
    def _one_of_both(self) -> "Invite":
        if self.role is not None and self.person is not None:
            raise ValueError("A link is for somebody new or for somebody who is here: give one of the two.")
        return self


class Invitation(BaseModel):
    """A link that works once."""

    link: str
    """The end of an address of this app."""
    minutes: int
    """How long it works."""
    codes: list[CodeAt]
    fingerprint: str | None
    """Of the authority that devices are to trust."""


class DeviceEdit(Body):
    """Name of a device, and the minutes without a touch after which it locks itself."""

    name: Annotated[Name, Field(min_length=1)]
    locks_after_min: Annotated[int, Field(ge=1, le=240)] | None = None


class Trail(BaseModel):
    """Acts, the newest first."""

    kept: bool
    """Whether this database has a trail."""
    acts: list[Entry]


class Seen(Body):
    """How far somebody has seen the trail."""

    number: Annotated[int, Field(ge=1, le=2**62)]


@router.get("", responses=responses(401, 403))
def list_people(store: Store) -> list[Person]:
    """Everybody who is here."""
    with store() as session:
        return people.people(session)


@router.post("/invitations", status_code=201, responses=responses(401, 403, 404, 428))
def invite(request: Request, store: Store, by: Proven, wanted: Invite) -> Invitation:
    """A link and its codes."""
    settings = request.app.state.settings
    link = Link(role=wanted.role, person=wanted.person)
    with store() as session:
        token = links.invite(session, by.by, link)
    end = f"/come-in#{token}"
    lasts = links.FOR_A_DEVICE_LASTS if wanted.role is None and wanted.person is None else links.LASTS
    return Invitation(
        link=end,
        minutes=int(lasts.total_seconds() // 60),
        codes=codes(settings.addresses, end),
        fingerprint=settings.fingerprint,
    )


@router.delete("/{person_id}", status_code=204, responses=responses(401, 403, 404, 409, 428))
def let_go(store: Store, who: Proven, person_id: UUID, nameless: bool = False) -> None:
    """Ends somebody's time here: signed out everywhere at once; `nameless` takes the name out of the people as well."""
    with store() as session:
        password_sign_in.let_go(session, who, person_id, nameless=nameless)


@router.get("/devices", responses=responses(401, 403))
def list_devices(store: Store) -> list[Device]:
    """Every device, the last seen first."""
    with store() as session:
        return devices.devices(session)


@router.put("/devices/{device_id}", status_code=204, responses=responses(401, 403, 404))
def change_device(store: Store, who: Here, device_id: UUID, edit: DeviceEdit) -> None:
    """Name of a device, and the time after which it locks itself."""
    by = need(who)
    with store() as session:
        links.change_device(session, by.by, device_id, edit.name, edit.locks_after_min)


@router.delete("/devices/{device_id}", status_code=204, responses=responses(401, 403, 404))
def take_away(store: Store, who: Here, device_id: UUID) -> None:
    """Takes a device away: its sessions end at once."""
    by = need(who)
    with store() as session:
        links.take_away(session, by.by, device_id)


@router.get("/trail", responses=responses(401, 403))
def read_trail(store: Store, before: Annotated[int | None, Query(ge=1)] = None) -> Trail:
    """A hundred acts before a number."""
    with store() as session:
        return Trail(kept=trail.is_kept(session), acts=trail.read(session, before))


@router.get("/trail/news", responses=responses(401, 403))
def read_news(store: Store, who: Here) -> list[Entry]:
    """Acts that opened a way in and that this person hasn't seen."""
    with store() as session:
        return trail.news(session, need(who).person.id)


@router.put("/trail/seen", status_code=204, responses=responses(401, 403))
def see_news(store: Store, who: Here, seen: Seen) -> None:
    """Notes that this person has seen the acts up to a number."""
    with store() as session, session.begin():
        trail.see(session, need(who).person.id, seen.number)


@router.get("/trail.csv", response_class=Response, responses=responses(401, 403))
def trail_as_csv(store: Store) -> Response:
    """The trail as a table (RFC 4180), the newest first."""
    with store() as session:
        entries = trail.read(session, most=_A_FILE)
    table = csv_table(Entry.model_fields, (_row(entry) for entry in entries))
    name = f"trail-{datetime.now(UTC):%Y-%m-%d}.csv"
    return Response(table, media_type="text/csv", headers={"Content-Disposition": f'attachment; filename="{name}"'})


def _row(entry: Entry) -> tuple[object, ...]:
    return entry.number, entry.at.isoformat(), entry.by, entry.device, entry.act, entry.what
