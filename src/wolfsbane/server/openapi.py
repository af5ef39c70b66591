"""Write the API's own description: ``python -m wolfsbane.server.openapi > web/openapi.json``. Needs no database."""

import json

from wolfsbane.server.app import create_app
from wolfsbane.server.core.config import from_environment
from wolfsbane.server.core.db.database import Database


def description():
    """The OpenAPI document as plain data."""
    return create_app(from_environment({}), Database("postgresql://127.0.0.1:1/none")).api_doc


if __name__ == "__main__":
    print(json.dumps(description(), indent=1, sort_keys=True, ensure_ascii=False))
