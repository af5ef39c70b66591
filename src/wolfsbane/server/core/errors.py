"""Errors of the API: one shape for all, and the translation of core errors into it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from flask import jsonify
from werkzeug.exceptions import HTTPException

from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.exercise.draw.variant import NoVariantError
from wolfsbane.server.core.db.database import ConflictError, DatabaseDownError

if TYPE_CHECKING:
    from flask_openapi3.openapi import OpenAPI


class ApiError(Exception):
    """An answer other than success: HTTP status, code, message and, for bad input, the field; ``retry_after`` the
    seconds after which it may be tried again.
    """

    def __init__(
        self, status: int, code: str, message: str, field: str | None = None, retry_after: int | None = None
    ) -> None:
        super().__init__(message)
        self.status, self.code, self.message, self.field = status, code, message, field
        self.retry_after = retry_after


def body(code: str, message: str, field: str | None = None) -> dict[str, dict[str, str | None]]:
    """The one shape every error has."""
    return {"error": {"code": code, "message": message, "field": field}}


def not_found(what: str) -> ApiError:
    """404 for a thing that is not there or belongs to another school."""
    return ApiError(404, "not_found", f"{what} was not found; it may have been removed")


def register(app: OpenAPI) -> None:
    """Translate every expected error; anything else is a 500 without details."""

    @app.errorhandler(ApiError)
    def _api(error: Any) -> Any:
        headers = {} if error.retry_after is None else {"Retry-After": str(error.retry_after)}
        return jsonify(body(error.code, error.message, error.field)), error.status, headers

    @app.errorhandler(BadInputError)
    def _bad(error: Any) -> Any:
        return jsonify(body("bad_input", str(error), error.field)), 422

    @app.errorhandler(NoVariantError)
    def _variant(error: Any) -> Any:
        return jsonify(body("no_variant", str(error))), 422

    @app.errorhandler(NoConvergenceError)
    def _solver(error: Any) -> Any:
        return jsonify(body("no_balance", str(error))), 422

    @app.errorhandler(DatabaseDownError)
    def _down(error: Any) -> Any:
        return jsonify(body("database_down", str(error))), 503

    @app.errorhandler(ConflictError)
    def _conflict(error: Any) -> Any:
        words = {
            "class_name_taken": "a class with this name already exists; choose another name",
            "cylinder_name_taken": "a cylinder with this name already exists; choose another name",
            "users_login_key": "this log-in is already taken; choose another one",
        }
        return jsonify(body("taken", words.get(str(error), "this exists already"))), 409

    @app.errorhandler(RecursionError)
    def _deep(_error: Any) -> Any:
        return jsonify(body("bad_input", "the request is nested too deeply")), 422

    @app.errorhandler(HTTPException)
    def _http(error: Any) -> Any:
        """What the server itself refuses: a host it does not answer to, a body that is too large."""
        code = {400: "bad_request", 404: "not_found", 405: "method", 413: "too_large", 415: "media"}.get(error.code)
        said = {
            413: "this is more than the page takes at once",
            404: "page not found",
            405: "method not allowed",
            415: "send JSON with content type application/json",
        }.get(error.code, str(error.description or error.name))
        reply = jsonify(body(code or "refused", said))
        reply.status_code = error.code or 500
        return reply

    @app.errorhandler(500)
    def _crash(_error: Any) -> Any:
        return jsonify(body("crash", "something went wrong on our side; what you typed is still here")), 500
