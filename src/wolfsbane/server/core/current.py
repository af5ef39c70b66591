"""What the application of this request stands on: its database, its settings, and its processes for slow work."""

from __future__ import annotations

from typing import TYPE_CHECKING, TypeVar, cast

from flask import current_app, g

if TYPE_CHECKING:
    from collections.abc import Callable

    from flask import Flask

    from wolfsbane.server.core.config import Config
    from wolfsbane.server.core.db.database import Database
    from wolfsbane.server.core.slow_work import SlowWork

Answer = TypeVar("Answer")

_DATABASE, _SETTINGS, _SLOW_WORK = "wolfsbane.database", "wolfsbane.settings", "wolfsbane.slow_work"


def equip(app: Flask, database: Database, settings: Config, slow_work: SlowWork) -> None:
    """Give an application its database, its settings and its processes for slow work."""
    app.extensions[_DATABASE], app.extensions[_SETTINGS], app.extensions[_SLOW_WORK] = database, settings, slow_work


def database_of(app: Flask) -> Database:
    """The database an application was given."""
    return cast("Database", app.extensions[_DATABASE])


def database() -> Database:
    """The database of the application that answers this request."""
    return database_of(current_app)


def settings() -> Config:
    """The settings of the application that answers this request."""
    return cast("Config", current_app.extensions[_SETTINGS])


def slow_work() -> SlowWork:
    """The processes for slow work of the application that answers this request."""
    return cast("SlowWork", current_app.extensions[_SLOW_WORK])


def for_account(work: Callable[..., Answer], *given: object) -> Answer:
    """Slow work for whoever is logged in, within what an account has at a time. Raises ApiError 429 and 503."""
    return slow_work().run(work, *given, whose=(g.user["school_id"], g.user["id"]))
