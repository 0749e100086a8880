"""Many rows as one JSON parameter, read back by ``jsonb_to_recordset``: one round trip for all."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any


def to_json(rows: Sequence[Mapping[str, Any]]) -> str:
    """Rows for ``jsonb_to_recordset``: one parameter for any number of rows."""
    return json.dumps(rows, default=_plain, separators=(",", ":"))


def _plain(value: Any) -> Any:
    if isinstance(value, datetime):
        return value.isoformat()
    if isinstance(value, bytes):
        return "\\x" + value.hex()
    if isinstance(value, (set, frozenset, tuple)):
        return sorted(value) if not isinstance(value, tuple) else list(value)
    return str(value)
