"""Settings: every one from the environment, with a default, a help line and a clear error."""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any


class SettingError(ValueError):
    """A setting from the environment that cannot be used; names the variable, its value and what is allowed."""


def _whole(low: int, high: int) -> Callable[..., Any]:
    def read(name: str, text: str) -> Any:
        try:
            value = int(text)
        except ValueError:
            value = None
        if value is None or not low <= value <= high:
            raise SettingError(f"{name}={text!r} is not accepted; allowed: a whole number from {low} to {high}")
        return value

    return read


def _seconds(name: str, text: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = -1.0
    if not 0.05 <= value <= 60.0:
        raise SettingError(f"{name}={text!r} is not accepted; allowed: a number from 0.05 to 60")
    return value


def _flag(name: str, text: str) -> bool:
    if text.lower() not in ("0", "1", "true", "false"):
        raise SettingError(f"{name}={text!r} is not accepted; allowed: 0 or 1")
    return text.lower() in ("1", "true")


def _database(name: str, text: str) -> str | None:
    if text and not text.startswith(("postgresql://", "postgres://")):
        raise SettingError(f"{name} is not accepted; allowed: an address starting with postgresql://")
    return text or None


#: what a host of several may do
PARTS = ("web", "worker", "logger")


def _parts(name: str, text: str) -> tuple[str, ...]:
    found = tuple(part.strip() for part in text.split(",") if part.strip())
    if not found or not set(found) <= set(PARTS):
        raise SettingError(f"{name}={text!r} is not accepted; allowed: some of {', '.join(PARTS)}, by comma")
    return found


def _text(_name: str, text: str) -> str:
    return text


#: variable -> (field, default, reader, help line)
SETTINGS: dict[str, tuple[str, str, Callable[[str, str], Any], str]] = {
    "WOLFSBANE_DATABASE_URL": (
        "database_url",
        "",
        _database,
        "an existing PostgreSQL to use; empty: start a private one on loopback",
    ),
    "WOLFSBANE_DATA_DIR": ("data_dir", "var", _text, "folder for the private database and its logs"),
    "WOLFSBANE_BACKUP_DIR": ("backup_dir", "", _text, "folder for backups; empty: backups in the data folder"),
    "WOLFSBANE_BACKUP_HOUR": (
        "backup_hour",
        "2",
        _whole(0, 24),
        "hour (UTC) after which a night's backup is made, 0 to 23; 24: none",
    ),
    "WOLFSBANE_HOST": ("host", "127.0.0.1", _text, "address the application listens on"),
    "WOLFSBANE_PORT": ("port", "8040", _whole(1, 65535), "port to listen on; another free one if it is taken"),
    "WOLFSBANE_PARTS": (
        "parts",
        ",".join(PARTS),
        _parts,
        "what this host does of several on one database: pages, jobs, reading rigs",
    ),
    "WOLFSBANE_WORKERS": ("workers", "2", _whole(1, 32), "application processes"),
    "WOLFSBANE_SLOW_PROCESSES": (
        "slow_processes",
        "1",
        _whole(0, 8),
        "processes beside each application process for proofs and plans; 0: none of their own",
    ),
    "WOLFSBANE_SESSION_HOURS": ("session_hours", "12", _whole(1, 720), "hours until a log-in expires"),
    "WOLFSBANE_IDLE_MINUTES": (
        "idle_minutes",
        "240",
        _whole(5, 43_200),
        "minutes until a log-in that nobody uses expires",
    ),
    "WOLFSBANE_LOGIN_LIMIT": (
        "login_limit",
        "8",
        _whole(1, 1000),
        "failed log-ins of a name from one address before it has to wait",
    ),
    "WOLFSBANE_RIG_PERIOD": ("rig_period", "1", _seconds, "seconds between two readings of a rig, 0.05 to 60"),
    "WOLFSBANE_SECURE_COOKIES": ("secure_cookies", "0", _flag, "1 when served over TLS: cookies only travel encrypted"),
    "WOLFSBANE_TLS_CERTIFICATE": (
        "tls_certificate",
        "",
        _text,
        "file with the certificate chain: the front serves TLS",
    ),
    "WOLFSBANE_TLS_KEY": ("tls_key", "", _text, "file with its private key"),
    "WOLFSBANE_BEHIND_FRONT": (
        "behind_front",
        "0",
        _flag,
        "1 where a front of your own stands before it and sets X-Forwarded-For; ours is not started then",
    ),
    "WOLFSBANE_OIDC_ISSUER": ("oidc_issuer", "", _text, "address of an OpenID Connect provider people may log in by"),
    "WOLFSBANE_OIDC_CLIENT": ("oidc_client", "", _text, "what the provider knows this server as"),
    "WOLFSBANE_OIDC_SECRET": ("oidc_secret", "", _text, "the secret it was given"),
    "WOLFSBANE_OIDC_NAME": ("oidc_name", "the school's log-in", _text, "what the log-in page calls it"),
    "WOLFSBANE_LOG_JSON": ("log_json", "0", _flag, "1: logs are JSON, a line each"),
    "WOLFSBANE_TRUSTED_HOSTS": ("trusted_hosts", "127.0.0.1,localhost", _text, "host names answered to, by comma"),
}


@dataclass(frozen=True, kw_only=True)
class Config:
    """All settings, read once."""

    database_url: str | None
    data_dir: str
    backup_dir: str
    backup_hour: int
    host: str
    port: int
    parts: tuple[str, ...]
    workers: int
    slow_processes: int
    session_hours: int
    idle_minutes: int
    login_limit: int
    rig_period: float
    secure_cookies: bool
    tls_certificate: str
    tls_key: str
    behind_front: bool
    oidc_issuer: str
    oidc_client: str
    oidc_secret: str
    oidc_name: str
    log_json: bool
    trusted_hosts: str


def from_environment(environ: Mapping[str, str] | None = None) -> Config:
    """A Config from ``environ`` (default: the process's); raises SettingError."""
    found = os.environ if environ is None else environ
    values: dict[str, Any] = {
        field: reader(name, found.get(name, default)) for name, (field, default, reader, _) in SETTINGS.items()
    }
    if bool(values["tls_certificate"]) != bool(values["tls_key"]):
        raise SettingError("WOLFSBANE_TLS_CERTIFICATE and WOLFSBANE_TLS_KEY are given together or not at all")
    if values["oidc_issuer"] and not (values["oidc_client"] and values["oidc_secret"]):
        raise SettingError("WOLFSBANE_OIDC_ISSUER is given with WOLFSBANE_OIDC_CLIENT and WOLFSBANE_OIDC_SECRET")
    return Config(**values)


def help_text() -> str:
    """One line for each setting."""
    return "\n".join(
        f"{name:28} {text} (default: {default or 'empty'})" for name, (_, default, _, text) in SETTINGS.items()
    )
