"""Back Squat: plans lower-body strength blocks for a squad and explains every number."""

from pathlib import Path
from typing import Any

from flask import Flask, Response, g, request
from flask_limiter import Limiter
from flask_limiter.util import get_remote_address
from flask_login import LoginManager
from flask_wtf.csrf import CSRFProtect

from backsquat.clock import Clock
from backsquat.config import CONTENT_POLICY, UPLOAD_MOST_BYTES, Config
from backsquat.storage.database import Database

PACKAGE = Path(__file__).parent


def create_app(config: Config) -> Flask:
    """The application on one database file, which must be at the newest schema."""
    from backsquat.features import errors, frame
    from backsquat.features.accounts.operations import load_user
    from backsquat.features.accounts.routes import blueprint as accounts
    from backsquat.features.athletes.routes import blueprint as athletes
    from backsquat.features.blocks import making, weighing  # noqa: F401  (they put their pages on the blueprint)
    from backsquat.features.blocks.routes import blueprint as blocks
    from backsquat.features.desk import ANYONE, allow, chosen_week, guard
    from backsquat.features.floor.routes import blueprint as floor
    from backsquat.features.health.routes import blueprint as health
    from backsquat.features.ladders.routes import blueprint as ladders
    from backsquat.features.movements.routes import blueprint as movements
    from backsquat.features.review.routes import blueprint as review
    from backsquat.features.room.routes import blueprint as room
    from backsquat.features.screening.routes import blueprint as screening
    from backsquat.features.season.routes import blueprint as season
    from backsquat.features.squad.routes import blueprint as squad

    app = Flask(
        "backsquat", static_folder=str(PACKAGE / "ui/static"), template_folder=str(PACKAGE / "ui/templates")
    )
    app.config.update(
        SECRET_KEY=config.secret,
        TESTING=config.testing,
        MAX_CONTENT_LENGTH=UPLOAD_MOST_BYTES,
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SAMESITE="Lax",
        SESSION_COOKIE_NAME="backsquat",
        WTF_CSRF_TIME_LIMIT=None,  # a sheet may stay open all evening; the session bounds it
        RATELIMIT_ENABLED=not config.testing,
        SEND_FILE_MAX_AGE_DEFAULT=3600,
    )
    app.extensions["settings"] = config
    app.extensions["database"] = Database(config.database)
    app.extensions["clock"] = Clock(config.fixed_day)
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True

    CSRFProtect(app)
    limiter = Limiter(get_remote_address, app=app, storage_uri="memory://")
    login = LoginManager(app)
    login.user_loader(load_user)

    app.before_request(guard)
    allow(ANYONE)(app.view_functions["static"])
    for feature in (
        accounts,
        squad,
        athletes,
        health,
        screening,
        season,
        ladders,
        movements,
        room,
        blocks,
        floor,
        review,
    ):
        app.register_blueprint(feature)
    app.extensions["slow_down"] = limiter  # held here: the wrapper below only has a weak reference
    slowed: Any = limiter.limit("10 per minute", methods=["POST"])(app.view_functions["accounts.sign_in"])
    app.view_functions["accounts.sign_in"] = slowed
    errors.register(app)
    frame.register(app)

    # The chosen week travels in every link, so that the rail moves all pages and a link says what it shows.
    @app.url_defaults
    def keep_week(endpoint: str, values: dict[str, Any]) -> None:
        if endpoint != "static" and "week" not in values and request and (week := chosen_week()):
            values["week"] = week.isoformat()

    @app.after_request
    def harden(response: Response) -> Response:
        response.headers["Content-Security-Policy"] = CONTENT_POLICY
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "same-origin"
        if request.endpoint != "static":
            response.headers["Cache-Control"] = "no-store"
        return response

    @app.teardown_appcontext
    def close(_error: BaseException | None) -> None:
        session = g.pop("reader", None)
        if session is not None:
            session.close()

    return app
