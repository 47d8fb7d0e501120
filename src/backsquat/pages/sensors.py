"""The sensors this installation listens to, for whichever page asks."""

from typing import cast

from flask import current_app
from flask_login import current_user

from backsquat.core.roles import Role
from backsquat.devices.listener import Sensor, Watcher
from backsquat.pages.request import actor, membership


def watcher() -> Watcher:
    """Whoever asks, as a sensor knows them."""
    who, staff = actor(), membership().role is not Role.ATHLETE
    return Watcher(who.squad_id, who.user_id, current_user.name, staff=staff)


def sensor(kind: str) -> Sensor | None:
    """The sensor of a kind, plugged in or not; None where there is none of it here."""
    return cast("dict[str, Sensor]", current_app.extensions["sensors"]).get(kind)
