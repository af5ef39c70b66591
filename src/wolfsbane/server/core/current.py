"""What the application of this request stands on: its database and its settings."""

from __future__ import annotations

from typing import TYPE_CHECKING, cast

from flask import current_app

if TYPE_CHECKING:
    from flask import Flask

    from wolfsbane.server.core.config import Config
    from wolfsbane.server.core.db.database import Database

_DATABASE, _SETTINGS = "wolfsbane.database", "wolfsbane.settings"


def equip(app: Flask, database: Database, settings: Config) -> None:
    """Give an application its database and its settings."""
    app.extensions[_DATABASE], app.extensions[_SETTINGS] = database, settings


def database_of(app: Flask) -> Database:
    """The database an application was given."""
    return cast("Database", app.extensions[_DATABASE])


def database() -> Database:
    """The database of the application that answers this request."""
    return database_of(current_app)


def settings() -> Config:
    """The settings of the application that answers this request."""
    return cast("Config", current_app.extensions[_SETTINGS])
