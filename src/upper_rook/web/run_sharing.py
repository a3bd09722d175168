"""One run on several devices."""

from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict

from upper_rook.core.common.roles import Act, may
from upper_rook.core.common.units import Key, LongKey
from upper_rook.core.run.readings.records import NewReading, Reading
from upper_rook.desk import run_sharing as desk
from upper_rook.desk.auth.sessions import Passing
from upper_rook.desk.run_sharing import Together, Wish
from upper_rook.store.run_sharing import OfferedReading
from upper_rook.web import acts
from upper_rook.web.access import Here, Store
from upper_rook.web.auth import need
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["run"], dependencies=[acts.WORK])


class Sign(BaseModel):
    """That a device is there."""

    model_config = ConfigDict(extra="forbid")
    step: LongKey = ""
    row: Key | None = None
    """Reading of the step that is at hand, where there are several."""
    leaves: bool = False
    looks_on: bool = False
    """It only shows the run; its device may be at work there by another page."""


class Wanted(BaseModel):
    """Wish of a device about the run."""

    model_config = ConfigDict(extra="forbid")
    wish: Wish


def _here(who: Passing | None) -> desk.Here:
    there = need(who)
    return desk.Here(there.person, there.device, there.device_name)


@router.put("/presence", responses=responses(401, 404), dependencies=[acts.LOOK])
def be_there(store: Store, who: Here, job_id: UUID, sign: Sign) -> Together:
    """A sign every few seconds; tells who else is there and what is offered."""
    me = _here(who)
    with store() as session:
        if sign.leaves:
            desk.leave(session, job_id, me.device, looks_on=sign.looks_on)
            return Together(present=(), may_take=False, offers=())
        at = desk.Place(sign.step, sign.row)
        if sign.looks_on:
            return desk.look_on(session, job_id, me, at)
        return desk.be_there(session, job_id, me, at, works=may(me.person.role, Act.WORK))


@router.post("/holding", responses=responses(401, 404, 409))
def hold(store: Store, who: Here, job_id: UUID, wanted: Wanted) -> Together:
    """Asks for the run, hands it over, keeps it, takes it over."""
    with store() as session:
        return desk.wish(session, job_id, _here(who), wanted.wish)


@router.post("/offers", status_code=201, responses=responses(401, 404))
def offer(store: Store, who: Here, job_id: UUID, new: NewReading) -> OfferedReading:
    """Offers a reading; it isn't taken yet."""
    me = _here(who)
    with store() as session:
        return desk.offer(session, job_id, me, new.model_copy(update={"by": me.person.name}))


@router.post("/offers/{offer_id}/take", status_code=201, responses=responses(401, 404, 409))
def take_offer(store: Store, who: Here, job_id: UUID, offer_id: UUID) -> Reading:
    """Takes it, under the name of whoever read it."""
    need(who)
    with store() as session:
        return desk.take_offer(session, job_id, offer_id)


@router.delete("/offers/{offer_id}", status_code=204, responses=responses(401, 404))
def leave_offer(store: Store, who: Here, job_id: UUID, offer_id: UUID) -> None:
    """Does without it."""
    need(who)
    with store() as session:
        desk.leave_offer(session, job_id, offer_id)
