"""One transaction for one act."""

from collections.abc import Iterator
from contextlib import contextmanager

from sqlmodel import Session


@contextmanager
def transaction(session: Session) -> Iterator[None]:
    """Keeps all that is done within, or nothing of it."""
    try:
        yield
    except BaseException:
        session.rollback()
        raise
    session.commit()
