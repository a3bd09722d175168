"""
The trail of acts: who let whom in, took what away, signed what off.

It belongs to a role of the database that nobody signs in as (trail.sql): here it can be added to and read.
"""

from datetime import datetime
from enum import StrEnum
from typing import NamedTuple
from uuid import UUID

from sqlalchemy import text
from sqlmodel import Session

from upper_rook.core.common.units import Frozen


class Act(StrEnum):
    """Kind of an entry in the trail."""

    SIGNED_IN = "signed in"
    SIGNED_OUT = "signed out"
    FAILED = "failed at the door"
    LINK_MADE = "made a link"
    CAME_IN = "came in"
    DEVICE_LET_IN = "let a device in"
    DEVICE_TAKEN_AWAY = "took a device away"
    DEVICE_CHANGED = "changed a device"
    PASSWORD_CHANGED = "changed the password"  # noqa: S105
    PIN_SET = "set a PIN"
    PIN_ENDED = "PIN ended"
    PASSKEY_ADDED = "added a passkey"
    PASSKEY_REMOVED = "removed a passkey"
    LET_GO = "let somebody go"
    SIGNED_OFF = "signed a job off"
    JOB_DELETED = "deleted a job"
    JOB_BACK = "took a job out of the bin"
    BIN_EMPTIED = "emptied the bin"
    BROUGHT_IN = "brought a job in from a file"
    STRUCK = "struck a record out"
    PUT_BACK = "had a record count again"
    ATTACHED = "attached a capture"
    RENAMED = "renamed a capture"
    PHOTO_REMOVED = "removed a photo"
    CUSTOMER_TAKEN_OUT = "took a customer out"
    RESTORED = "put a backup in place"


WAYS_IN = (Act.CAME_IN, Act.DEVICE_LET_IN, Act.PASSKEY_ADDED, Act.PASSWORD_CHANGED, Act.PIN_SET)
"""Acts that opened a way in, or changed one."""


class By(NamedTuple):
    """Person and device that did it."""

    name: str = ""
    device: str = ""


NOBODY = By()
"""Where nobody has to sign in and nobody gave a name."""


class Entry(Frozen):
    """One act."""

    number: int
    at: datetime
    by: str
    device: str
    act: str
    what: str


_IS_KEPT = text("select to_regclass('trail.act') is not null")
_NOTE = text("insert into trail.act (by, device, act, what) values (:by, :device, :act, :what)")
_READ = text(
    "select number, at, by, device, act, what from trail.act where number < :before order by number desc limit :most"
)
_CHAIN = text("""
    select count(*), min(number) filter (where link is distinct from expected),
      (array_agg(link order by number desc))[1]
    from (
      select number, link, trail.digest(lag(link) over acts, number, at, by, device, act, what) as expected
      from trail.act where number >= (select min(number) from trail.act where link is not null)
      window acts as (order by number)
    ) as chained
""")
_NEWS = text("""
    select number, at, by, device, act, what from trail.act
    where act = any(:acts) and number > coalesce((select number from trail_seen where person_id = :person), 0)
      and at > now() - make_interval(days => :days)
    order by number desc limit :most
""")
_NEW_FOR_DAYS = 30
_SEEN = text("""
    insert into trail_seen (person_id, number) values (:person, :number)
    on conflict (person_id) do update set number = greatest(trail_seen.number, excluded.number)
""")
_IS_CHAINED = text("select to_regproc('trail.chain') is not null")
_LARGEST = 2**62


class Chain(NamedTuple):
    """State of the chain of digests."""

    acts: int
    broken_at: int | None
    """Number of the first act that doesn't follow from the one before."""
    digest: str
    """Of the last act, in hexadecimal."""


def is_kept(session: Session) -> bool:
    """Whether this database has a trail: one of the user's own may lack it."""
    return bool(session.execute(_IS_KEPT).scalar())


def note(session: Session, by: By, act: Act, what: str = "") -> None:
    """Adds an act."""
    if is_kept(session):
        told = {"by": by.name[:200], "device": by.device[:200], "act": act.value, "what": what[:500]}
        session.execute(_NOTE, told)


def read(session: Session, before: int | None = None, most: int = 100) -> list[Entry]:
    """Acts before a number, the newest first."""
    if not is_kept(session):
        return []
    rows = session.execute(_READ, {"before": before or _LARGEST, "most": most}).mappings()
    return [Entry.model_validate(dict(row)) for row in rows]


def news(session: Session, person: UUID, most: int = 20) -> list[Entry]:
    """Acts of the last 30 days that opened a way in and that a person hasn't seen, the newest first."""
    if not is_kept(session):
        return []
    wanted = {"acts": [act.value for act in WAYS_IN], "person": person, "days": _NEW_FOR_DAYS, "most": most}
    return [Entry.model_validate(dict(row)) for row in session.execute(_NEWS, wanted).mappings()]


def see(session: Session, person: UUID, number: int | None = None) -> None:
    """Notes that a person has seen the acts up to a number, or all there are; it never goes back."""
    if number is None:
        number = max((act.number for act in read(session, most=1)), default=0)
    session.execute(_SEEN, {"person": person, "number": number})


def check(session: Session) -> Chain | None:
    """
    Compares each act's digest with the act and the digest before it; None where no trail with digests is kept.

    Acts from before digests were kept aren't covered.
    """
    if not is_kept(session) or not session.execute(_IS_CHAINED).scalar():
        return None
    acts, broken, last = session.execute(_CHAIN).one()
    return Chain(acts, broken, last.hex() if last else "")
