"""Write the API's own description: ``python -m wolfsbane.server.openapi > web/openapi.json``. Needs no database."""

from __future__ import annotations

import json
from typing import Any

from wolfsbane.server.app import create_app
from wolfsbane.server.core.config import from_environment
from wolfsbane.server.core.db.database import Database


def description() -> dict[str, Any]:
    """The OpenAPI document as plain data."""
    return create_app(from_environment({}), Database("postgresql://127.0.0.1:1/none")).api_doc


if __name__ == "__main__":
    print(json.dumps(description(), indent=1, sort_keys=True, ensure_ascii=False))
