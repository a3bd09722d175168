"""Needs of a request from the application around it."""

from typing import Annotated

from fastapi import Depends, Request
from sqlalchemy.orm import sessionmaker
from sqlmodel import Session

from upper_rook.core.common.roles import Act, may, practises
from upper_rook.desk.auth.sessions import Passing
from upper_rook.store.trail import By
from upper_rook.web.problems import NotYours

ONLY_PRACTICE = "You are here to practise: that is about real vehicles. Ask the owner for another role."


async def _store(request: Request) -> sessionmaker[Session]:
    made: sessionmaker[Session] = request.app.state.store
    return made


def here(request: Request) -> Passing | None:
    """Person who asks; None where nobody has to sign in."""
    found: Passing | None = getattr(request.state, "passing", None)
    return found


Here = Annotated[Passing | None, Depends(here)]


def name_of(who: Passing | None, told: str) -> str:
    """Person who did it: the one who is signed in; where nobody has to be, the name that was typed."""
    return who.person.name if who else told


def practice_of(who: Passing | None, told: bool | None) -> bool | None:
    """Whether a job is practice: as asked, and always where somebody is there to practise only."""
    return True if who and practises(who.person.role) else told


def need_library(who: Passing | None) -> None:
    """Raises NotYours where somebody is there to practise only: the library is of real units."""
    if who and practises(who.person.role):
        raise NotYours(ONLY_PRACTICE)


def sees_customers(who: Passing | None) -> bool:
    """Whether customers may be shown: to everybody where nobody has to sign in."""
    return who is None or may(who.person.role, Act.CUSTOMERS)


def by_of(who: Passing | None, told: str = "") -> By:
    """The same as the trail names them."""
    return who.by if who else By(told)


Store = Annotated[sessionmaker[Session], Depends(_store)]
"""
Opens a session: `with store() as session`, in the route itself.

A dependency that yields one would cost two more ways through the thread pool, and live as long as a streamed answer.
"""
