"""Roles of a workshop, and the acts that each allows."""

from enum import StrEnum


class Role(StrEnum):
    """Role of a person in the workshop."""

    OWNER = "owner"
    """Lets people and devices in and out, besides all the rest."""
    FITTER = "fitter"
    APPRENTICE = "apprentice"
    """Does everything a fitter does, but a fitter signs the job off."""
    LOOKER_ON = "looker_on"
    """Sees everything, changes nothing."""
    LEARNER = "learner"
    """Does what an apprentice does, in practice jobs, and sees no others."""


class Act(StrEnum):
    """Kind of act that a request asks for."""

    LOOK = "look"
    WORK = "work"
    """Changes a job, a source or the bench."""
    SIGN_OFF = "sign_off"
    """Answers for a job as it is."""
    CUSTOMERS = "customers"
    """Sees and enters customers."""
    PEOPLE = "people"
    """Lets somebody in or out."""


_MAY: dict[Role, frozenset[Act]] = {
    Role.OWNER: frozenset(Act),
    Role.FITTER: frozenset({Act.LOOK, Act.WORK, Act.SIGN_OFF, Act.CUSTOMERS}),
    Role.APPRENTICE: frozenset({Act.LOOK, Act.WORK, Act.CUSTOMERS}),
    Role.LOOKER_ON: frozenset({Act.LOOK}),
    Role.LEARNER: frozenset({Act.LOOK, Act.WORK}),
}


def may(role: Role, act: Act) -> bool:
    """
    Whether a role covers an act.

    >>> may(Role.LOOKER_ON, Act.WORK), may(Role.APPRENTICE, Act.SIGN_OFF), may(Role.OWNER, Act.PEOPLE)
    (False, False, True)
    """
    return act in _MAY[role]


def acts_of(role: Role) -> tuple[Act, ...]:
    """
    Every act that a role covers, in one order.

    >>> acts_of(Role.APPRENTICE)
    (<Act.LOOK: 'look'>, <Act.WORK: 'work'>, <Act.CUSTOMERS: 'customers'>)
    """
    return tuple(act for act in Act if may(role, act))


def practises(role: Role) -> bool:
    """
    Whether a role keeps to practice jobs.

    >>> practises(Role.LEARNER), practises(Role.APPRENTICE)
    (True, False)
    """
    return role is Role.LEARNER
