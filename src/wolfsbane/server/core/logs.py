"""Logs of every process: plain lines, or JSON where the settings ask for it; never the text of a request."""

from __future__ import annotations

import logging

from pythonjsonlogger.json import JsonFormatter

_PLAIN = "%(asctime)s %(levelname)s %(name)s: %(message)s"


def begin(*, as_json: bool, level: int = logging.WARNING) -> None:
    """Log to standard error from now on, also what the application server logs."""
    formatter = (
        JsonFormatter("%(asctime)s %(levelname)s %(name)s %(message)s", rename_fields={"asctime": "at"})
        if as_json
        else logging.Formatter(_PLAIN)
    )
    root = logging.getLogger()
    if not root.handlers:
        root.addHandler(logging.StreamHandler())
    root.setLevel(level)
    for name in ("", "gunicorn.error"):
        for handler in logging.getLogger(name).handlers:
            handler.setFormatter(formatter)
