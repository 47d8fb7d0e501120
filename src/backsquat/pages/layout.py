"""What stands around every page: menu, week rail, filters for templates."""

import datetime as dt
from collections.abc import Callable
from json import dumps
from typing import Any
from uuid import uuid4

from flask import Flask, request, url_for
from flask_login import current_user
from markupsafe import Markup

from backsquat.core.errors import BackSquatError
from backsquat.core.movements.movement import TAGS, Region
from backsquat.core.pain import STOPPING, Character
from backsquat.core.progression.cell import ExerciseRole
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.roles import Role
from backsquat.core.season.calendar import WEEK
from backsquat.core.season.milestone import MilestoneKind
from backsquat.core.working import plain, signed
from backsquat.pages.request import context, membership, reader, settings, squad_library, trusted_with_health
from backsquat.pages.sensors import sensor
from backsquat.storage.cache import cached
from backsquat.storage.models import Block, Milestone
from backsquat.ui.drawing.kit import split_load
from backsquat.ui.drawing.rail import Rail, RailBlock, draw_rail
from backsquat.ui.phrases.days import day_words, daydate_words, long_day_words, moment_words
from backsquat.ui.phrases.decisions import MARKS, decision_mark
from backsquat.ui.phrases.estimates import doubt_word, newest_words
from backsquat.ui.phrases.flags import FLAGS
from backsquat.ui.phrases.milestones import milestone_words, reach_words, status_words
from backsquat.ui.phrases.names import in_text, unit_of
from backsquat.ui.phrases.pain import locked_words, pain_words
from backsquat.ui.phrases.readiness_checks import finding_words, line_fact_words, line_words
from backsquat.ui.phrases.sessions import side_words
from backsquat.ui.phrases.terms import TERMS
from backsquat.ui.phrases.verdicts import obstacle_words, short_obstacle
from backsquat.ui.phrases.working import said
from backsquat.version import PRODUCT
from backsquat.work.library.screens import screens_of
from backsquat.work.plan.progression_settings import setting_of
from backsquat.work.policy import Act, allowed, may
from backsquat.work.season.matches import match_days
from backsquat.work.sessions.blocks import published_blocks, squad_blocks
from backsquat.work.squad.context import SquadContext

MENU = (  # in the order of the work: name, page, pages that belong to it, what one must be allowed to do
    ("Squad", "squad.index", ("squad", "athlete", "imports", "exports"), Act.SEE),
    ("Screen", "screen.index", ("screen", "ladders"), Act.SCREEN),
    ("Movements", "movements.index", ("movements",), Act.SEE),
    ("Room", "room.index", ("room",), Act.CHECK_STATION),
    ("Block", "block.index", ("block",), Act.READ_PLAN),
    ("Session", "session.index", ("session",), Act.READ_PLAN),
    ("Floor", "floor.index", ("floor",), Act.LOG_OWN),
    ("Season", "season.whole", ("season",), Act.READ_PLAN),
    ("My numbers", "athlete.me", ("athlete",), Act.SEE_OWN),
    ("Review", "review.index", ("review",), Act.PLAN),
    ("Technique", "technique.index", ("technique",), Act.SEE),
    ("Health", "health.index", ("health",), Act.TREAT),
)
BESIDE_MENU = {"health.index"}  # a coach reaches it from the squad; only who has no review sees it in the menu
PHONE_WEEKS = 13
# In this order: a later piece may narrow what an earlier one says.
STYLESHEETS = (
    "tokens",
    "frame",
    "pieces",
    "sheet",
    "athlete",
    "floor",
    "movements",
    "readiness",
    "block",
    "session",
    "season",
    "technique",
)
HTMX_CONFIG = dumps(  # no evaluation, no other host, and a form with problems is shown as it comes
    {
        "includeIndicatorStyles": False,
        "allowEval": False,
        "allowScriptTags": False,
        "selfRequestsOnly": True,
        "defaultSettleDelay": 0,  # nothing here glides: what was answered is shown at once
        "historyCacheSize": 0,  # no page, with somebody's health on it, is kept in the browser
        "refreshOnHistoryMiss": True,
        "responseHandling": [
            {"code": "204", "swap": False},
            {"code": "[23]..", "swap": True},
            {"code": "422", "swap": True},
            {"code": "[45]..", "swap": True, "error": True},
        ],
    }
)


def register(app: Flask) -> None:
    """Give templates their filters and what stands around every page."""
    app.jinja_env.filters.update(
        unit_of=unit_of,
        plain=plain,
        signed=signed,
        day=day_words,
        daydate=daydate_words,
        long_day=long_day_words,
        moment=moment_words,
        finding=finding_words,
        milestone_status=status_words,
        milestone_reach=reach_words,
        obstacle=obstacle_words,
        short_obstacle=short_obstacle,
        said=said,
        split_load=split_load,
        in_text=in_text,
        pain_words=pain_words,
        locked_words=lambda stop: locked_words(stop, squad_library(), why=trusted_with_health()),
        side_words=side_words,
        doubt_word=doubt_word,
        newest_words=newest_words,
        line_words=line_words,
        line_fact=line_fact_words,
    )
    app.jinja_env.globals.update(
        product=PRODUCT,
        htmx_config=HTMX_CONFIG,
        stylesheets=STYLESHEETS,
        movements=lambda: squad_library().movements,
        milestone_name=milestone_name,
        rails=rails,
        shown_context=shown_context,
        pain_regions=[region.value for region in Region],
        pain_characters=[one.value for one in Character if one in STOPPING],
        new_id=lambda: str(uuid4()),
        mat_here=lambda: sensor("mat") is not None,
        decision_marks=MARKS,
        decision_mark=decision_mark,
        set_flags=FLAGS,
        terms=TERMS,
        week_length=WEEK,
        family_tags=TAGS,
    )

    @app.context_processor
    def around() -> dict[str, Any]:
        here = (request.endpoint or "").split(".")[0]
        role = shown_role()
        return {
            "menu": _menu(role, here),
            "demo": settings().demo,
            "here": here,
            "may": allowed(role),
            "sees_health": role is not None and trusted_with_health(),
        }


def milestone_name(milestone: Milestone) -> str:
    """What a milestone asks for, in the words of this squad's movements and screens."""
    code, unit = milestone.movement, ""
    if milestone.kind == MilestoneKind.SCREEN.value:
        screen = screens_of(reader(), membership().squad_id).get(code)
        name, unit = (screen.name, screen.unit or screen.kind.value) if screen else (code, "")
    else:
        movement = squad_library().movements.get(code)
        name = movement.name if movement else code
    return milestone_words(milestone.kind, milestone.amount, name, milestone.load_kg, unit)


def _menu(role: Role | None, here: str) -> list[tuple[str, str, bool]]:
    """Name, page, and whether it is the one that is open."""
    if not role:
        return []
    mine = membership().role
    return [
        (name, endpoint, here in pages)
        for name, endpoint, pages, act in MENU
        if may(mine, act) and not (endpoint in BESIDE_MENU and may(mine, Act.PLAN))
    ]


def shown_role() -> Role | None:
    """The signed-in person's role; None without one."""
    return membership().role if shown_context() else None


def shown_context() -> SquadContext | None:
    """The context of a signed-in member of a squad, or None: error pages work without one."""
    if not current_user or not current_user.is_authenticated:
        return None
    try:
        return context()
    except BackSquatError:  # somebody without a squad, a squad without a season
        return None


def rails() -> tuple[Markup, Markup, Rail, Callable[[dt.date], str]]:
    """The rail for wide screens, for narrow ones, its model, and the link to a week."""
    here = context()
    matches = tuple(match_days(reader(), here.season_id))
    rail = Rail(here.season, here.today, here.week, tuple(rail_blocks()), matches)
    keep = {name: value for name, value in request.args.items() if name in ("lift", "rack")}
    endpoint = request.endpoint if request.method == "GET" and request.endpoint else "squad.index"
    arguments = dict(request.view_args or {}) if request.method == "GET" else {}
    if endpoint.split(".")[0] == "block":  # the block that plans the week is found from the week
        endpoint, arguments = "block.index", {}
    address = url_for(endpoint, **{**arguments, **keep, "week": "WEEK"})

    def link(week: dt.date) -> str:
        return address.replace("WEEK", week.isoformat())

    narrow = draw_rail(rail.window(PHONE_WEEKS), address, 390.0, "rail is-narrow")
    return draw_rail(rail, address), narrow, rail, link


def rail_blocks() -> list[RailBlock]:
    """The squad's blocks as the rail draws them."""
    squad_id = membership().squad_id

    def read() -> list[RailBlock]:
        blocks = squad_blocks(reader(), squad_id)
        live = published_blocks(reader(), [block.id for block in blocks])
        return [RailBlock(one.name, one.first_week, one.weeks, one.id in live, deload_weeks(one)) for one in blocks]

    return cached(reader(), ("rail", squad_id), read, plan=True)


def deload_weeks(block: Block) -> frozenset[dt.date]:
    """The block's deload weeks: those every main lift plans easy, whatever was put in beside them later."""
    found: list[set[dt.date]] = []
    library = squad_library()
    main = [exercise for exercise in block.exercises if exercise.role is ExerciseRole.MAIN]
    for exercise in main or block.exercises:
        outline = setting_of(exercise).outline(block.weeks, library.get(exercise.movement))
        deload = (asked for asked in outline if asked.kind is ExposureKind.DELOAD)
        found.append({block.first_week + dt.timedelta(weeks=asked.week) for asked in deload})
    return frozenset(set.intersection(*found)) if found else frozenset()
