"""Who may do what: one table, asked by the routes and again by the operations themselves."""

from enum import StrEnum

from backsquat.core.errors import NotAllowed
from backsquat.core.roles import STAFF, Role
from backsquat.work.actor import Actor

COACH, ASSISTANT, PHYSIO, ATHLETE = Role.COACH, Role.ASSISTANT, Role.PHYSIO, Role.ATHLETE


class Act(StrEnum):
    """What somebody does, as far as roles tell it apart."""

    SEE = "see"  # the squad, its athletes, movements, limits
    READ_PLAN = "read_plan"  # the sheet as it stands
    PLAN = "plan"  # blocks, exercises, loads, decisions, rules, milestones, library
    DESCRIBE_ROOM = "describe_room"
    CHECK_STATION = "check_station"
    KEEP_ATHLETES = "keep_athletes"  # facts, consent, depth standards, overrides of readiness checks
    SCREEN = "screen"  # results of screens, levels
    LOG = "log"  # sets, tests, check-ins, set-up notes
    LOG_OWN = "log_own"  # what is done on the floor: an athlete's own work, for staff everybody's
    SEE_OWN = "see_own"  # an athlete's own numbers, where an athlete looks
    HAVE_ACCOUNT = "have_account"  # a password and a second factor of one's own
    LEAVE = "leave"  # sign out
    HEAR = "hear"  # that something has changed, nothing of what
    TREAT = "treat"  # stops, limits, absences, pain lines, health notes
    SAY_INJURED = "say_injured"  # that somebody is away, ill, injured: written down by who may not read why
    EXPORT = "export"  # everything about one person: exported, erased
    AUDIT = "audit"  # who did what
    KEEP_PEOPLE = "keep_people"  # accounts and roles
    CHOOSE_VARIANT = "choose_variant"  # reads health history
    LOOK = "look"  # pictures of athletes from the side
    SEND = "send"  # cards to athletes, lists to staff


MAY: dict[Act, tuple[Role, ...]] = {
    Act.SEE: STAFF,
    Act.READ_PLAN: (COACH, ASSISTANT),
    Act.PLAN: (COACH,),
    Act.DESCRIBE_ROOM: (COACH,),
    Act.CHECK_STATION: (COACH, ASSISTANT),
    Act.KEEP_ATHLETES: (COACH,),
    Act.SCREEN: (COACH, ASSISTANT),
    Act.LOG: (COACH, ASSISTANT),
    Act.LOG_OWN: (COACH, ASSISTANT, ATHLETE),
    Act.SEE_OWN: (ATHLETE,),
    Act.HAVE_ACCOUNT: STAFF,
    Act.LEAVE: (*STAFF, ATHLETE),
    Act.HEAR: (*STAFF, ATHLETE),
    Act.TREAT: (COACH, PHYSIO),
    Act.SAY_INJURED: (COACH, PHYSIO),
    Act.EXPORT: (COACH,),
    Act.AUDIT: (COACH,),
    Act.KEEP_PEOPLE: (COACH,),
    Act.CHOOSE_VARIANT: (COACH, PHYSIO),
    Act.LOOK: STAFF,
    Act.SEND: (COACH,),
}


def may(role: Role, act: Act) -> bool:
    """Whether a role may do something."""
    return role in MAY[act]


def allowed(role: Role | None) -> dict[str, bool]:
    """For every act whether a role may do it, by the act's name; nobody signed in may do nothing."""
    return {act.value: role is not None and may(role, act) for act in Act}


def require(actor: Actor, *acts: Act) -> None:
    """NotAllowed where the actor's role may do none of these."""
    if not any(may(actor.role, act) for act in acts):
        raise NotAllowed("role")


def only_own(actor: Actor, athlete_id: int, place: tuple[int, int] | None = None) -> None:
    """NotAllowed where an athlete acts for somebody else, or with a session's code outside it.

    `place`: the session and its week, where what is done belongs to one.
    """
    if actor.role is not ATHLETE:
        return
    elsewhere = actor.only_session is not None and place not in (None, actor.only_session)
    if actor.athlete_id != athlete_id or elsewhere:
        raise NotAllowed("role")
