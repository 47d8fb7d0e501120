"""Who may do what: one table, asked by the routes and again by the operations themselves."""

from enum import StrEnum

from backsquat.core.errors import NotAllowed
from backsquat.core.roles import Role
from backsquat.work.actor import Actor

COACH, ASSISTANT, PHYSIO = Role.COACH, Role.ASSISTANT, Role.PHYSIO
STAFF = (COACH, ASSISTANT, PHYSIO)


class Act(StrEnum):
    """What somebody does, as far as roles tell it apart."""

    SEE = "see"  # the squad, its athletes, movements, limits
    READ_PLAN = "read_plan"  # the sheet as it stands
    PLAN = "plan"  # blocks, slots, loads, decisions, rules, milestones, library
    DESCRIBE_ROOM = "describe_room"
    CHECK_STATION = "check_station"
    KEEP_ATHLETES = "keep_athletes"  # facts, consent, depth standards, overrides of gates
    SCREEN = "screen"  # results of screens, rungs
    LOG = "log"  # sets, tests, check-ins, set-up notes
    TREAT = "treat"  # stops, limits, absences, pain lines, health notes
    HAND_OUT = "hand_out"  # everything about one person: exported, erased
    AUDIT = "audit"  # who did what
    KEEP_PEOPLE = "keep_people"  # accounts and roles
    CHOOSE_VARIANT = "choose_variant"  # reads health history


MAY: dict[Act, tuple[Role, ...]] = {
    Act.SEE: STAFF,
    Act.READ_PLAN: (COACH, ASSISTANT),
    Act.PLAN: (COACH,),
    Act.DESCRIBE_ROOM: (COACH,),
    Act.CHECK_STATION: (COACH, ASSISTANT),
    Act.KEEP_ATHLETES: (COACH,),
    Act.SCREEN: (COACH, ASSISTANT),
    Act.LOG: (COACH, ASSISTANT),
    Act.TREAT: (COACH, PHYSIO),
    Act.HAND_OUT: (COACH,),
    Act.AUDIT: (COACH,),
    Act.KEEP_PEOPLE: (COACH,),
    Act.CHOOSE_VARIANT: (COACH, PHYSIO),
}


def may(role: Role, act: Act) -> bool:
    """Whether a role may do something."""
    return role in MAY[act]


def require(actor: Actor, *acts: Act) -> None:
    """NotAllowed where the actor's role may do none of these."""
    if not any(may(actor.role, act) for act in acts):
        raise NotAllowed("role")
