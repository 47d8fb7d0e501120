"""Publications side by side, and bringing one back."""

import re

from flask import flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.pages.block.head import block_head, blueprint
from backsquat.pages.request import acting, allow, context, database, number, reader
from backsquat.work.plan.versions import differences, restore_version, versions_of
from backsquat.work.policy import Act
from backsquat.work.sessions.blocks import block_of
from backsquat.work.squad.athletes import squad_athletes


def why_words(why: str) -> str:
    """Why a version went live; those of before 1.0 were written in older words."""
    return re.sub(r"^level: (\w+) level$", r"level: \1", why).replace("level moved", "level moved")


@blueprint.get("/<int:block_id>/versions")
@allow(Act.PLAN)
def versions(block_id: int) -> ResponseReturnValue:
    """All publications; two of them side by side."""
    here = context()
    block = block_of(reader(), here.squad.id, block_id)
    lines = versions_of(reader(), block)
    numbers = {line.number for line in lines}
    first, other = (request.args.get(name, type=number) for name in ("first", "other"))
    differing = differences(reader(), block, first, other) if first in numbers and other in numbers else None
    names = {a.id: a.name for a in squad_athletes(reader(), here.squad.id)}
    return render_template(
        "block/versions.html",
        lines=lines,
        why_words=why_words,
        first=first,
        other=other,
        differing=differing,
        names=names,
        exercises={exercise.id: exercise for exercise in block.exercises},
        **block_head(block),
    )


@blueprint.post("/<int:block_id>/versions/<int:number>/restore")
@allow(Act.PLAN)
def restore(block_id: int, number: int) -> ResponseReturnValue:
    with database().writing() as db:
        count = restore_version(acting(db), block_id, number)
    numbers = "1 number" if count == 1 else f"{count} numbers"
    flash(f"{numbers} as in version {number}, as a draft. The past stays. Publish to use them.")
    return redirect(url_for("block.show", block_id=block_id))
