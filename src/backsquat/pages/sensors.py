"""The sensors this installation listens to, for whichever page asks."""

from typing import cast

from flask import current_app

from backsquat.devices.listener import Sensor


def sensor(kind: str) -> Sensor | None:
    """The sensor of a kind, plugged in or not; None where there is none of it here."""
    return cast("dict[str, Sensor]", current_app.extensions["sensors"]).get(kind)
