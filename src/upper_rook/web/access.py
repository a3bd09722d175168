"""What a request needs of the application around it."""

from typing import Annotated

from fastapi import Depends, Request
from sqlalchemy.orm import sessionmaker
from sqlmodel import Session

from upper_rook.desk.doors.sessions import Passing
from upper_rook.store.trail import By


async def _store(request: Request) -> sessionmaker[Session]:
    made: sessionmaker[Session] = request.app.state.store
    return made


def here(request: Request) -> Passing | None:
    """Who asks; None where nobody has to sign in."""
    found: Passing | None = getattr(request.state, "passing", None)
    return found


Here = Annotated[Passing | None, Depends(here)]


def name_of(who: Passing | None, told: str) -> str:
    """Who did it: whoever is signed in, and nobody else; where nobody has to be, the name that was typed."""
    return who.person.name if who else told


def by_of(who: Passing | None, told: str = "") -> By:
    """The same as the trail names them."""
    return who.by if who else By(told)


Store = Annotated[sessionmaker[Session], Depends(_store)]
"""
Opens a session: `with store() as session`, in the route itself.

A dependency that yields one would cost two more ways through the thread pool, and live as long as a streamed answer.
"""
