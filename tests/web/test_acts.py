"""The acts that routes ask for, and the roles that cover them."""

from uuid import uuid4

import pytest
from fastapi import APIRouter
from fastapi.routing import APIRoute
from starlette.testclient import TestClient

from tests.web.people import invited
from upper_rook.core.common.roles import Act, Role
from upper_rook.web.acts import Acts, NotDeclared, asked_of
from upper_rook.web.app import ROUTERS
from upper_rook.web.auth_middleware import OPEN

DECLARED = Acts(ROUTERS)
WRITES = {"POST", "PUT", "DELETE", "PATCH"}
MAY = {
    Act.LOOK: set(Role),
    Act.WORK: set(Role) - {Role.LOOKER_ON},
    Act.SIGN_OFF: {Role.OWNER, Role.FITTER},
    Act.CUSTOMERS: {Role.OWNER, Role.FITTER, Role.APPRENTICE},
    Act.PEOPLE: {Role.OWNER},
}
"""As docs/doors.md has it."""


def test_every_route_declares_its_act_and_only_these_differ_from_their_method() -> None:
    routes = [route for router in ROUTERS for route in router.routes if isinstance(route, APIRoute)]
    odd: dict[Act | None, set[str]] = {}
    for route in routes:
        asked = asked_of(route)
        assert asked is not None, route.path
        for method in route.methods or ():
            act, usual = asked.of(method), Act.WORK if method in WRITES else Act.LOOK
            if act is not usual:
                odd.setdefault(act, set()).add(route.path)
    assert odd.pop(Act.LOOK) == {
        "/api/jobs/{job_id}/preview",
        "/api/jobs/{job_id}/presence",
        "/api/sources/{source_id}/into-job",
        "/api/parts/{part_id}/into-job",
    }
    assert odd.pop(Act.SIGN_OFF) == {"/api/jobs/{job_id}/sign-offs"}
    assert odd.pop(Act.CUSTOMERS) == {"/api/jobs/{job_id}/customer"}
    assert all(path.startswith("/api/people") for path in odd.pop(Act.PEOPLE))
    assert all(path.startswith("/api/doors") for path in odd.pop(None))
    assert odd == {}


def test_a_route_that_declares_nothing_is_served_to_nobody() -> None:
    router = APIRouter()
    router.add_api_route("/api/forgotten", lambda: "served", methods=["POST"])
    with pytest.raises(NotDeclared, match="/api/forgotten"):
        Acts([router])


@pytest.mark.parametrize("role", list(Role))
def test_each_role_does_what_it_covers_and_no_more(shut: TestClient, role: Role) -> None:
    browser = invited(shut, role, f"As {role.value}")
    paths = shut.app.openapi()["paths"]  # type: ignore[attr-defined]
    for path, operations in paths.items():
        if path in OPEN or path.startswith("/api/doors") or path == "/api/live":
            continue
        for method in operations:
            address = path
            for part in [one.split("}")[0] for one in path.split("{")[1:]]:
                address = address.replace(f"{{{part}}}", str(uuid4()))
            act = DECLARED.of({"type": "http", "method": method.upper(), "path": address, "headers": []})
            assert act is not None
            answer = browser.request(method, address, json={})
            shut_to_learners = ("/api/sources", "/api/parts", "/api/archives", "/api/logbook")
            real = role is Role.LEARNER and path.startswith(shut_to_learners)
            assert (answer.status_code == 403) == (real or role not in MAY[act]), (
                role,
                method,
                path,
                answer.status_code,
            )
            assert answer.status_code != 401
