"""What stands around every page: menu, week rail, words and filters for templates."""

import datetime as dt
from collections.abc import Callable
from typing import Any

from flask import Flask, request, url_for
from flask_login import current_user
from markupsafe import Markup
from sqlalchemy import select

from backsquat.core.movements.movement import TAGS
from backsquat.core.season.calendar import WEEK
from backsquat.core.working import plain, signed
from backsquat.features.blocks.courses import course_of
from backsquat.features.blocks.queries import squad_blocks
from backsquat.features.desk import (
    ASSISTANT,
    COACH,
    PHYSIO,
    STAFF,
    desk,
    membership,
    reader,
    settings,
    squad_library,
)
from backsquat.features.phrases import finding_words
from backsquat.features.review.phrases import MARKS
from backsquat.storage.models import Block, Match, PlanVersion
from backsquat.ui.drawing.kit import split_load
from backsquat.ui.drawing.rail import Rail, RailBlock, draw_rail

MENU = (  # in the order of the work
    ("Squad", "squad.index", ("squad", "athletes", "season"), STAFF),
    ("Screen", "screening.index", ("screening", "ladders"), (COACH, ASSISTANT)),
    ("Movements", "movements.index", ("movements",), STAFF),
    ("Room", "room.index", ("room",), (COACH, ASSISTANT)),
    ("Block", "blocks.index", ("blocks",), (COACH, ASSISTANT)),
    ("Floor", "floor.index", ("floor",), (COACH, ASSISTANT)),
    ("Review", "review.index", ("review",), (COACH,)),
    ("Health", "health.index", ("health",), (PHYSIO,)),
)
PHONE_WEEKS = 13


def register(app: Flask) -> None:
    app.jinja_env.filters.update(
        plain=plain,
        signed=signed,
        day=day_words,
        daydate=daydate_words,
        finding=finding_words,
        split_load=split_load,
    )
    app.jinja_env.globals.update(
        movements=lambda: squad_library().movements,
        rails=rails,
        shown_desk=shown_desk,
        decision_marks=MARKS,
        week_length=WEEK,
        family_tags=TAGS,
    )

    @app.context_processor
    def around() -> dict[str, Any]:
        here = (request.endpoint or "").split(".")[0]
        role = shown_role()
        menu = [
            (name, endpoint, here in features) for name, endpoint, features, roles in MENU if role in roles
        ]
        return {"menu": menu, "demo": settings().demo, "here": here, "membership_role": role}


def shown_role() -> str:
    """The signed-in person's role; empty without one."""
    return membership().role if shown_desk() else ""


def shown_desk() -> Any:
    """The desk of a signed-in member of a squad, or None: error pages work without one."""
    if not current_user or not current_user.is_authenticated:
        return None
    try:
        return desk()
    except Exception:  # the frame must never turn a small error into a large one
        return None


def day_words(day: dt.date | str) -> str:
    """23 Nov"""
    day = dt.date.fromisoformat(day) if isinstance(day, str) else day
    return f"{day.day} {day:%b}"


def daydate_words(day: dt.date) -> str:
    """Mon 23 Nov"""
    return f"{day:%a} {day.day} {day:%b}"


def rails() -> tuple[Markup, Markup, Rail, Callable[[dt.date], str]]:
    """The rail for wide screens, for narrow ones, its model, and the link to a week."""
    here = desk()
    rail = Rail(here.season, here.today, here.week, tuple(rail_blocks()), tuple(rail_matches()))
    keep = {name: value for name, value in request.args.items() if name in ("lift", "rack")}
    endpoint = request.endpoint if request.method == "GET" and request.endpoint else "squad.index"
    arguments = dict(request.view_args or {}) if request.method == "GET" else {}
    if endpoint.split(".")[0] == "blocks":  # the block that plans the week is found from the week
        endpoint, arguments = "blocks.index", {}

    address = url_for(endpoint, **{**arguments, **keep, "week": "WEEK"})

    def link(week: dt.date) -> str:
        return address.replace("WEEK", week.isoformat())

    return (
        draw_rail(rail, address),
        draw_rail(rail.window(PHONE_WEEKS), address, 390.0, "rail is-narrow"),
        rail,
        link,
    )


def rail_blocks() -> list[RailBlock]:
    squad_id = membership().squad_id
    blocks = squad_blocks(reader(), squad_id)
    live = set(
        reader().scalars(
            select(PlanVersion.block_id)
            .where(PlanVersion.block_id.in_([block.id for block in blocks]))
            .distinct()
        )
    )
    return [
        RailBlock(block.name, block.first_week, block.weeks, block.id in live, easy_weeks(block))
        for block in blocks
    ]


def easy_weeks(block: Block) -> frozenset[dt.date]:
    """The block's weeks that every slot plans easy."""
    found: list[set[dt.date]] = []
    for slot in block.slots:
        outline = course_of(slot).outline(block.weeks, False)
        found.append({block.first_week + dt.timedelta(weeks=p.week) for p in outline if p.kind == "easy"})
    return frozenset(set.intersection(*found)) if found else frozenset()


def rail_matches() -> list[tuple[dt.date, bool]]:
    rows = reader().execute(
        select(Match.played_on, Match.important)
        .where(Match.season_id == desk().season_id)
        .order_by(Match.played_on)
    )
    return [(played_on, important) for played_on, important in rows]
