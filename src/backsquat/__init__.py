"""Back Squat: plans lower-body strength blocks for a squad and explains every number."""

import hashlib
from pathlib import Path
from typing import Any

from flask import Flask, Response, g, request
from flask_login import LoginManager
from flask_wtf.csrf import CSRFProtect
from werkzeug.middleware.proxy_fix import ProxyFix

from backsquat.clock import Clock
from backsquat.config import CONTENT_POLICY, UPLOAD_MOST_BYTES, Config
from backsquat.devices.listener import Sensor
from backsquat.storage.database import Database
from backsquat.work.accounts.slow import Slow

PACKAGE = Path(__file__).parent
SHELL = (".css", ".js", ".woff2", ".svg", ".png")  # what a device without a line needs of what is shipped


def create_app(config: Config) -> Flask:
    """The application on one database file, which must be at the newest schema."""
    from backsquat.pages import errors, layout
    from backsquat.pages.accounts import first, own, passes, people, squads  # noqa: F401 - they put their pages on the one below
    from backsquat.pages.accounts.person import load_user
    from backsquat.pages.accounts.routes import blueprint as accounts
    from backsquat.pages.accounts.signed_out import signed_out
    from backsquat.pages.athlete import own as own_page  # noqa: F401
    from backsquat.pages.athlete import phone, season  # noqa: F401
    from backsquat.pages.athlete.routes import blueprint as athlete
    from backsquat.pages.audit.routes import blueprint as audit
    from backsquat.pages.block import (  # noqa: F401
        check,
        compare,
        exercises,
        missing,
        new_block,
        outcome,
        own_work,
        quick_edit,
        routes,
        span,
        typed,
        versions,
        what_if,
    )
    from backsquat.pages.block.head import blueprint as block  # the modules above put their pages on it
    from backsquat.pages.exports.routes import blueprint as exports
    from backsquat.pages.floor import acts, pain, paper, pocket, send, speed  # noqa: F401
    from backsquat.pages.floor.routes import blueprint as floor
    from backsquat.pages.health.routes import blueprint as health
    from backsquat.pages.imports.routes import blueprint as imports
    from backsquat.pages.ladders.routes import blueprint as ladders
    from backsquat.pages.movements import pictures  # noqa: F401
    from backsquat.pages.movements.routes import blueprint as movements
    from backsquat.pages.outside import Application
    from backsquat.pages.request import RowNumber, allow_anyone, chosen_week, guard, widen
    from backsquat.pages.review.routes import blueprint as review
    from backsquat.pages.room.routes import blueprint as room
    from backsquat.pages.screen import many, mat  # noqa: F401
    from backsquat.pages.screen.routes import blueprint as screen
    from backsquat.pages.season import minutes, trained, whole  # noqa: F401
    from backsquat.pages.season.routes import blueprint as season_pages
    from backsquat.pages.session.routes import blueprint as session
    from backsquat.pages.squad.routes import blueprint as squad
    from backsquat.pages.technique import stills, then  # noqa: F401
    from backsquat.pages.technique.routes import blueprint as technique

    pages = (
        *(
            accounts,
            squad,
            athlete,
            health,
            screen,
            season_pages,
            ladders,
            movements,
            room,
            block,
            session,
            floor,
            review,
            technique,
        ),
        audit,
        exports,
        imports,
    )

    app = Application(
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
        SESSION_COOKIE_SECURE=config.https,
        PREFERRED_URL_SCHEME="https" if config.https else "http",
        SEND_FILE_MAX_AGE_DEFAULT=3600,
    )
    app.extensions["settings"] = config
    app.extensions["database"] = Database(config.database)
    app.extensions["slow"] = Slow(config.data)
    app.extensions["sensors"] = {kind: Sensor(host, port) for kind, host, port in config.sensors}
    app.extensions["clock"] = Clock(config.fixed_day)
    app.url_map.converters["int"] = RowNumber
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True

    if config.proxied:
        app.wsgi_app = ProxyFix(app.wsgi_app, x_for=1, x_proto=1, x_host=1)  # type: ignore[method-assign]
    app.before_request(widen)  # first: the next one reads the form
    CSRFProtect(app)
    login = LoginManager(app)
    login.user_loader(load_user)

    app.before_request(guard)
    allow_anyone(app.view_functions["static"])
    for blueprint in pages:
        app.register_blueprint(blueprint)
    errors.register(app, signed_out)
    layout.register(app)

    # The chosen week travels in every link, so that the rail moves all pages and a link says what it shows.
    @app.url_defaults
    def keep_week(endpoint: str, values: dict[str, Any]) -> None:
        if endpoint != "static" and "week" not in values and request and (week := chosen_week()):
            values["week"] = week.isoformat()

    # A changed file has another address, so that browsers may keep it for long.
    prints = {
        path.relative_to(PACKAGE / "ui/static").as_posix(): hashlib.sha256(path.read_bytes()).hexdigest()[:12]
        for path in (PACKAGE / "ui/static").rglob("*")
        if path.is_file()
    }

    app.extensions["shell"] = sorted(name for name in prints if name.endswith(SHELL))

    @app.url_defaults
    def fingerprint(endpoint: str, values: dict[str, Any]) -> None:
        if endpoint == "static" and values.get("filename") in prints:
            values["v"] = prints[values["filename"]]

    @app.after_request
    def harden(response: Response) -> Response:
        response.headers["Content-Security-Policy"] = CONTENT_POLICY
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "same-origin"
        response.headers["X-Frame-Options"] = "DENY"
        response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
        response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
        response.headers["Permissions-Policy"] = "camera=(), geolocation=(), microphone=()"
        if config.https:
            response.headers["Strict-Transport-Security"] = "max-age=31536000"
        if request.endpoint == "static" and request.args.get("v") == prints.get((request.view_args or {})["filename"]):
            response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        if request.endpoint != "static":
            response.headers["Cache-Control"] = "no-store"
            response.vary.update(("HX-Request", "HX-Target"))  # a piece of a page is not the page
        return response

    @app.teardown_appcontext
    def close(_error: BaseException | None) -> None:
        db = g.pop("reader", None)
        if db is not None:
            db.close()

    return app
