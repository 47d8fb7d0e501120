"""The Movements pages: map and list, a movement, its form, which variant for whom."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, Refused
from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.movements.choice import ChoiceGoal, unlikeness
from backsquat.core.movements.ladder import rigged
from backsquat.core.movements.movement import Family, Implement, Movement
from backsquat.core.readiness.verdict import Readiness
from backsquat.library import shelf
from backsquat.pages.drawing import ladder_picture
from backsquat.pages.movements.drawing import figure_picture, map_picture
from backsquat.pages.movements.forms import EntryForm, form_of, offered
from backsquat.pages.movements.phrases import BLOCKED, PLURAL, emphasis_words, reason_words
from backsquat.pages.request import (
    acting,
    allow,
    context,
    database,
    number,
    reader,
    said_with_undo,
    squad_library,
    wants_piece,
)
from backsquat.pages.seen import changed_since, seen_of
from backsquat.ui.phrases.days import SHORT_DAYS
from backsquat.ui.phrases.problems import PROBLEMS, refusal_words
from backsquat.ui.phrases.set_up import SETUP_WORDS
from backsquat.work.library.change_movements import restore_shipped, retire_movement, save_movement
from backsquat.work.library.movements import entry_of, history_of, search, use_of
from backsquat.work.library.pictures import pictures_of
from backsquat.work.policy import Act
from backsquat.work.readiness.load import readiness_one
from backsquat.work.readiness.variant import VariantQuestion, blocked, ranking
from backsquat.work.rooms.rooms import room_equipment
from backsquat.work.sessions.blocks import block_in_week, squad_blocks, week_of
from backsquat.work.squad.athletes import athlete_of, squad_athletes

RANKED_FIRST = 5  # the best; the others behind "all"
blueprint = Blueprint("movements", __name__, url_prefix="/movements", template_folder="templates")


@dataclass(frozen=True)
class Filter:
    """What the list and the map show; empty means all."""

    words: str
    family: str
    sides: str
    implement: str
    room: bool
    axis: str
    retired: bool

    def keeps(self, movement: Movement, equipment: frozenset[str]) -> bool:
        return (
            (not self.family or movement.family.value == self.family)
            and (not self.sides or str(movement.sides) == self.sides)
            and (not self.implement or movement.implement.value == self.implement)
            and (not self.room or not rigged(movement, equipment))
            and movement.retired == self.retired
        )


def _ready(athlete_id: int | None) -> Readiness | None:
    here = context()
    if not athlete_id:
        return None
    athlete = athlete_of(reader(), here.squad.id, athlete_id)
    return readiness_one(reader(), athlete, here.today, here.rules)


@blueprint.get("/")
@allow(Act.SEE)
def index() -> ResponseReturnValue:
    here, library, args = context(), squad_library(), request.args
    shown = Filter(
        args.get("q", "").strip()[:60],
        args.get("family", ""),
        args.get("sides", ""),
        args.get("implement", ""),
        "room" in args,
        "back" if args.get("axis") == "back" else "skill",
        "retired" in args,
    )
    equipment = room_equipment(reader(), here.squad.id)
    ready = _ready(args.get("athlete", type=number))
    only_now = "now" in args and ready is not None
    found = [m for m in search(library.movements.values(), shown.words) if shown.keeps(m, equipment)]
    if only_now and ready:
        found = [movement for movement in found if not blocked(ready, movement)]
    picture = map_picture(
        found,
        shown.axis,
        lambda m: bool(rigged(m, equipment) or (ready and blocked(ready, m))),
        lambda m: url_for("movements.show", code=m.code, athlete=ready.person.id if ready else None),
    )
    template = "movements/_found.html" if wants_piece() else "movements/movements.html"
    return render_template(
        template,
        context=here,
        shown=shown,
        found=found,
        picture=picture,
        ready=ready,
        only_now=only_now,
        athletes=squad_athletes(reader(), here.squad.id),
        families=PLURAL,
        implements=list(Implement),
        lacking=lambda m: rigged(m, equipment),
        equipment=shelf.equipment(),
        blocked=BLOCKED,
        hindrances=blocked,
        emphasis_words=emphasis_words,
        everything=len(library.in_use()),
    )


@blueprint.get("/<code>")
@allow(Act.SEE)
def show(code: str) -> ResponseReturnValue:
    here, library = context(), squad_library()
    movement, ready = library.get(code), _ready(request.args.get("athlete", type=number))
    equipment = room_equipment(reader(), here.squad.id)
    children = [m for m in library.in_use() if m.ratio and m.ratio.parent == code]
    on_ladders = [
        (ladder, level, ladder_picture(ladder, library, ready, level)) for ladder, level in library.ladders_of(code)
    ]
    return render_template(
        "movements/movement.html",
        context=here,
        movement=movement,
        figure=figure_picture(movement),
        pictures=pictures_of(reader(), here.squad.id, [code]).get(code, []),
        on_ladders=on_ladders,
        ready=ready,
        library=library,
        use=use_of(reader(), here.squad.id, code),
        children=children,
        lacking=rigged(movement, equipment),
        equipment=shelf.equipment(),
        convention=CONVENTIONS[movement.convention],
        history=history_of(reader(), here.squad.id, code),
        shipped=code in shelf.entries(),
        blocked=BLOCKED,
        hindrances=blocked,
        emphasis_words=emphasis_words,
        setup_words=SETUP_WORDS,
        families=PLURAL,
        alike=_alike(movement, equipment) if rigged(movement, equipment) else (),
    )


def _alike(movement: Movement, equipment: frozenset[str]) -> Sequence[Movement]:
    """Movements of the family this room can rig, the most alike first."""
    others = [
        m
        for m in squad_library().in_use()
        if m.family is movement.family and m.code != movement.code and not rigged(m, equipment)
    ]
    return sorted(others, key=lambda m: (unlikeness(movement, m), m.name))[:3]


@blueprint.get("/choose")
@allow(Act.CHOOSE_VARIANT)  # the reasons speak of health history
def choose() -> ResponseReturnValue:
    """Which variant for this athlete, with the reasons for and against each."""
    here = context()
    athletes = squad_athletes(reader(), here.squad.id)
    ready = _ready(request.args.get("athlete", type=number) or (athletes[0].id if athletes else None))
    family, goal = request.args.get("family", ""), request.args.get("goal", "")
    progression = request.args.get("progression", "")
    asked = VariantQuestion(
        Family(family) if family in {item.value for item in Family} else Family.SQUAT,
        ChoiceGoal(goal) if goal in {item.value for item in ChoiceGoal} else ChoiceGoal.BOTH,
        bool(here.rules.upright_first) if progression not in ("back", "upright") else progression == "upright",
    )
    ranked = ranking(reader(), ready, asked, here.rules) if ready else []
    return render_template(
        "movements/choose.html",
        context=here,
        athletes=athletes,
        ready=ready,
        asked=asked,
        ranked=ranked,
        shown=ranked if "all" in request.args else ranked[:RANKED_FIRST],
        goals=list(ChoiceGoal),
        families=PLURAL,
        reason_words=reason_words,
        blocked=BLOCKED,
        hindrances=blocked,
        equipment=shelf.equipment(),
        library=squad_library(),
        **_places(asked.family),
        short_days=SHORT_DAYS,
        on_ladders=[
            (ladder, ladder_picture(ladder, squad_library(), ready)) for ladder in _ladders_of(asked.family, ready)
        ],
    )


def _places(family: Family) -> dict[str, Any]:
    """The exercises of the family in the block of the chosen week, where a movement can be given to one athlete."""
    here, library = context(), squad_library()
    block = block_in_week(squad_blocks(reader(), here.squad.id), here.week)
    if block is None:
        return {"places": [], "place_week": 0}
    of_family = [one for one in block.exercises if not one.ladder and library.get(one.movement).family is family]
    return {"places": of_family, "place_week": week_of(block, max(here.week, here.today))}


def _ladders_of(family: Family, ready: Readiness | None) -> list[Any]:
    """The ladders on which the athlete stands that hold movements of the family."""
    if ready is None:
        return []
    library = squad_library()
    return [
        ladder
        for ladder in library.ladders.values()
        if ladder.code in ready.levels and any(library.movements[c].family is family for r in ladder.levels for c in r)
    ]


@blueprint.route("/new", methods=["GET", "POST"])
@allow(Act.PLAN)
def new() -> ResponseReturnValue:
    """A movement of the squad's own, from nothing or from a copy."""
    source = request.args.get("copy", "")
    if request.method == "POST":
        return _save(None)
    if not source:
        return _form_page(EntryForm(dict(START)), None)
    form = form_of(entry_of(reader(), context().squad.id, source))
    return _form_page(EntryForm(dict(form.typed) | {"name": f"{form.value('name')}, ours", "aliases": ""}), None)


START = {
    "family": "squat", "convention": "body", "side_mode": "both together", "implement": "body weight",
    "held": "nothing held", "length": "middle", "emphasis": "0", "back_index": "1", "knee_strain": "1",
    "groin_strain": "1", "trunk_lean": "1", "skill": "2", "balance": "0", "rig_s": "30", "work": "3x8-12", "rest_s": "90",
    "tempo": "2-0-1-0", "pose_start": "stand", "pose_end": "squat_level", "depth": "full | full range",
}  # fmt: skip


@blueprint.route("/<code>/edit", methods=["GET", "POST"])
@allow(Act.PLAN)
def edit(code: str) -> ResponseReturnValue:
    squad_library().get(code)
    if request.method == "POST":
        return _save(code)
    return _form_page(form_of(entry_of(reader(), context().squad.id, code)), code)


def _typed() -> EntryForm:
    many = ("prime", "helper", "regions", "remembered")
    typed: dict[str, Any] = {name: request.form.get(name, "")[:4000] for name in request.form if name not in many}
    return EntryForm(typed | {name: request.form.getlist(name) for name in many})


def _save(code: str | None) -> ResponseReturnValue:
    form = _typed()
    if changed_since(_known(code)):
        form.errors["form"] = PROBLEMS["meanwhile"]
        return _form_page(form, code, 422)
    try:
        with database().writing() as db:
            entry = save_movement(acting(db), form.values(), code)
    except ImpossibleInput as error:
        form.put(error)
        return _form_page(form, code, 422)
    except Refused as error:  # shown in the form, so that nothing typed is lost
        form.errors["form"] = ". ".join(refusal_words(error))
        return _form_page(form, code, 409)
    flash(f"{entry.name} kept for this squad.")
    return redirect(url_for("movements.show", code=entry.code))


def _known(code: str | None) -> dict[str, Any]:
    return {"entry": entry_of(reader(), context().squad.id, code)} if code else {}


def _form_page(form: EntryForm, code: str | None, status: int = 200) -> ResponseReturnValue:
    page = render_template(
        "movements/form.html",
        context=context(),
        form=form,
        code=code,
        seen=seen_of(_known(code)),
        library=squad_library(),
        **offered(),
    )
    return page, status


@blueprint.post("/<code>/retire")
@allow(Act.PLAN)
def retire(code: str) -> ResponseReturnValue:
    retired = request.form.get("retired") == "1"
    with database().writing() as db:
        change = retire_movement(acting(db), code, retired)
    name = squad_library().get(code).name
    said_with_undo(f"{name} {'retired: old logs keep it' if retired else 'back in use'}.", change.id)
    return redirect(url_for("movements.show", code=code))


@blueprint.post("/<code>/restore")
@allow(Act.PLAN)
def restore(code: str) -> ResponseReturnValue:
    with database().writing() as db:
        change = restore_shipped(acting(db), code)
    said_with_undo("The shipped entry is back.", change.id)
    return redirect(url_for("movements.show", code=code))
