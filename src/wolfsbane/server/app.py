"""The Flask application."""

from __future__ import annotations

import gzip
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

from flask import Response, abort, jsonify, make_response, request, send_from_directory
from flask_openapi3 import Info, OpenAPI
from pydantic import ValidationError
from werkzeug.middleware.proxy_fix import ProxyFix

from wolfsbane import __version__
from wolfsbane.server.api import (
    accounts,
    acting,
    bench,
    briefs,
    classes,
    courses,
    health,
    lab,
    lab_sessions,
    lessons,
    machines,
    papers,
    platforms,
    practices,
    projections,
    provider,
    reference,
    refrigerant,
    rig_calibration,
    rig_data,
    rigs,
    scenarios,
    school,
    screen,
    session,
    sheets,
    today,
)
from wolfsbane.server.api.models import ErrorBody
from wolfsbane.server.core import errors, logs, metrics, security
from wolfsbane.server.core.config import Config, SettingError, from_environment
from wolfsbane.server.core.current import equip
from wolfsbane.server.core.db.database import Database
from wolfsbane.server.core.slow_work import SlowWork
from wolfsbane.server.run.warm import warm

if TYPE_CHECKING:
    from flask import Response
    from flask_openapi3.openapi import OpenAPI

WEB = Path(__file__).resolve().parents[3] / "web" / "dist"


def _bad_request(error: ValidationError) -> Response:
    """One clear line for the first thing wrong with a request."""
    first = error.errors()[0]
    field = ".".join(str(part) for part in first["loc"]) or None
    value = first.get("input")
    said = f" {value!r}" if isinstance(value, (str, int, float, bool)) else ""
    message = f"{field or 'the request'}{said[:60]} is not accepted; {first['msg']}"
    return make_response(jsonify(errors.body("bad_input", message, field)), 422)


def create_app(config: Config | None = None, database: Database | None = None) -> OpenAPI:
    """Build the application.

    ``config`` defaults to the environment, ``database`` to an opened pool on its address. Raises SettingError.
    """
    config = config or from_environment()
    app = OpenAPI(
        "wolfsbane",
        info=Info(title="Wolfsbane", version=__version__),
        doc_prefix="/api/v1",
        doc_ui=False,
        security_schemes={"session": {"type": "apiKey", "in": "cookie", "name": security.SESSION_COOKIE}},
        responses={"default": ErrorBody},
        validation_error_status=422,
        validation_error_model=ErrorBody,
        validation_error_callback=_bad_request,
        static_folder=None,
    )
    app.config["MAX_CONTENT_LENGTH"] = 1_000_000
    if config.behind_front:
        app.wsgi_app = ProxyFix(app.wsgi_app, x_for=1, x_proto=1)  # type: ignore[method-assign]
    app.config["TRUSTED_HOSTS"] = [h.strip() for h in config.trusted_hosts.split(",") if h.strip()] or None
    if database is None:
        if config.database_url is None:
            raise SettingError("WOLFSBANE_DATABASE_URL is not set; the application needs the address of a database")
        database = Database(config.database_url).open()
    slow_work = SlowWork(config.slow_processes, ready=warm)
    equip(app, database, config, slow_work)
    slow_work.start()
    metrics.register(app)
    security.register(app)
    errors.register(app)
    for module in (
        session,
        provider,
        platforms,
        accounts,
        bench,
        acting,
        machines,
        practices,
        scenarios,
        projections,
        reference,
        rigs,
        rig_calibration,
        rig_data,
        lab,
        lab_sessions,
        refrigerant,
        classes,
        sheets,
        briefs,
        courses,
        today,
        papers,
        screen,
        lessons,
        school,
        health,
    ):
        app.register_api(module.api)
    app.register_api(health.figures)
    _pages(app)
    app.after_request(_packed_reply)
    return app


#: what is sent packed; fonts and pictures are packed already
_PACKED = (".js", ".css", ".svg")


@lru_cache(maxsize=256)
def _packed(name: str) -> bytes:
    """A file of the pages, gzipped; its name changes with what is in it."""
    return gzip.compress((WEB / "assets" / name).read_bytes(), 6, mtime=0)


#: replies to reading shorter than this are sent as they are; they hold no secret that a guess could be held beside
_SHORT_REPLY = 2_000


def _packed_reply(reply: Response) -> Response:
    """What is read from the API, gzipped where the browser takes it: lists are ten times as long as they need be."""
    if (
        request.method == "GET"
        and request.path.startswith("/api/")
        and reply.status_code == 200
        and reply.mimetype == "application/json"
        and not reply.is_streamed
        and not reply.content_encoding
        and len(reply.data) >= _SHORT_REPLY
    ):
        reply.vary.add("Accept-Encoding")
        if request.accept_encodings["gzip"]:
            reply.data = gzip.compress(reply.data, 5, mtime=0)
            reply.content_encoding = "gzip"
    return reply


def _pages(app: OpenAPI) -> None:
    @security.roles(security.ANYONE)
    def index() -> Any:
        return _index()

    @security.roles(security.ANYONE)
    def asset(name: str) -> Any:
        reply = send_from_directory(WEB / "assets", name, max_age=31_536_000)
        if reply.status_code == 200 and name.endswith(_PACKED) and request.accept_encodings["gzip"]:
            reply.direct_passthrough = False
            reply.data = _packed(name)
            reply.content_encoding = "gzip"
            reply.vary.add("Accept-Encoding")
        return reply

    @security.roles(security.ANYONE)
    def icon() -> Any:
        return send_from_directory(WEB, request.path[1:], max_age=86_400)

    @security.roles(security.ANYONE)
    def manifest() -> Any:
        return send_from_directory(WEB, "app.webmanifest", max_age=86_400, mimetype="application/manifest+json")

    @security.roles(security.ANYONE)
    def page_keeper() -> Any:
        return send_from_directory(WEB, "sw.js", max_age=0)

    app.add_url_rule("/", "index", index)
    app.add_url_rule("/sw.js", "page_keeper", page_keeper)
    app.add_url_rule("/assets/<path:name>", "asset", asset)
    app.add_url_rule("/app.webmanifest", "manifest", manifest)
    for name in ("icon.svg", "icon-192.png", "icon-512.png"):
        app.add_url_rule(f"/{name}", f"icon_{name}", icon)

    @app.errorhandler(404)
    def _page_of_the_client(_error: Any) -> Any:
        if request.path.startswith(("/api/", "/assets/")) or request.method != "GET":
            return jsonify(errors.body("not_found", "page not found")), 404
        return _index()


def _index() -> Any:
    if not (WEB / "index.html").is_file():
        abort(503, "the front end is not built; run make demo")
    return send_from_directory(WEB, "index.html", max_age=0)


def wsgi() -> Any:
    """For gunicorn: ``wolfsbane.server.app:wsgi()``. Compiles the solver before the first request."""
    warm()
    config = from_environment()
    logs.begin(as_json=config.log_json)
    return create_app(config)
