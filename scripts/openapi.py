"""Writes the API's description to standard output; the console's types are made from it."""

from __future__ import annotations

import json
from typing import Any, cast

from yugum.api.app import create_app


def main() -> None:
    """Print the OpenAPI document; no database is needed for that."""
    app = create_app(cast("Any", None), cast("Any", None), "")
    print(json.dumps(app.openapi(), indent=1, sort_keys=True))


if __name__ == "__main__":
    main()
