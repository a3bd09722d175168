"""The act that each route asks for, declared where the route is; the door reads it before the request's body."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from fastapi import APIRouter, params
from fastapi.routing import APIRoute
from starlette.routing import Match
from starlette.types import Scope

from upper_rook.core.common.roles import Act

_LOOKING = frozenset({"GET", "HEAD", "OPTIONS"})


@dataclass(frozen=True)
class Asked:
    """The act of a route, by the kind of request; None is everybody's who is signed in, about themselves."""

    reading: Act | None
    writing: Act | None

    async def __call__(self) -> None:
        """Nothing: the door has looked at it by now."""

    def of(self, method: str) -> Act | None:
        """The act of a request."""
        return self.reading if method in _LOOKING else self.writing


def _declared(reading: Act | None, writing: Act | None) -> params.Depends:
    return params.Depends(Asked(reading, writing))


WORK = _declared(Act.LOOK, Act.WORK)
"""Reading is looking, changing is work."""
LOOK = _declared(Act.LOOK, Act.LOOK)
"""Changes nothing of the work, though it may be sent a body."""
SIGN_OFF = _declared(Act.LOOK, Act.SIGN_OFF)
CUSTOMERS = _declared(Act.CUSTOMERS, Act.CUSTOMERS)
PEOPLE = _declared(Act.PEOPLE, Act.PEOPLE)
ONES_OWN = _declared(None, None)
"""Acts that everybody does about themselves: out, another password."""


class NotDeclared(Exception):
    """A route that says nothing of who may ask it."""


def asked_of(route: APIRoute) -> Asked | None:
    """The declaration of a route: its own, else its router's."""
    found = [dependency.dependency for dependency in route.dependencies if isinstance(dependency.dependency, Asked)]
    return found[-1] if found else None


class Acts:
    """The declarations of all routes."""

    def __init__(self, routers: Iterable[APIRouter]) -> None:
        """Raises NotDeclared where a route says nothing: nobody serves one by mistake."""
        self._routes = list(_routes(routers))

    def of(self, scope: Scope) -> Act | None:
        """The act of a request; looking for an address that nobody serves, which is then not found."""
        for route, asked in self._routes:
            match, _ = route.matches(scope)
            if match is Match.FULL:
                return asked.of(scope["method"])
        return Act.LOOK


def _routes(routers: Iterable[APIRouter]) -> Iterator[tuple[APIRoute, Asked]]:
    for router in routers:
        for route in router.routes:
            if isinstance(route, APIRoute):
                asked = asked_of(route)
                if asked is None:
                    raise NotDeclared(f"{route.path}: say who may ask it (web/acts.py).")
                yield route, asked
