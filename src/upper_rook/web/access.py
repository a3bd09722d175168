"""What a request needs of the application around it."""

from typing import Annotated

from fastapi import Depends, Request
from sqlalchemy.orm import sessionmaker
from sqlmodel import Session


async def _store(request: Request) -> sessionmaker[Session]:
    made: sessionmaker[Session] = request.app.state.store
    return made


Store = Annotated[sessionmaker[Session], Depends(_store)]
"""
Opens a session: `with store() as session`, in the route itself.

A dependency that yields one would cost two more ways through the thread pool, and live as long as a streamed answer.
"""
