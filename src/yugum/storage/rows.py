"""Many rows as one JSON parameter, read back by ``jsonb_to_recordset``: one round trip for all."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import orjson
import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import ARRAY


def to_json(rows: Sequence[Mapping[str, Any]]) -> str:
    """Rows as a JSON array; bytes in PostgreSQL's hex form, moments as ISO 8601."""
    return orjson.dumps(rows, default=_plain).decode()


def to_array(values: Iterable[str]) -> str:
    """Texts as an array literal, to be cast to ``text[]``: the driver takes ten times as long."""
    quoted = (v.replace("\\", r"\\").replace('"', r"\"") for v in values)
    return "{" + ",".join(f'"{v}"' for v in quoted) + "}"


def among(column: sa.ColumnElement[Any], values: Iterable[str]) -> sa.ColumnElement[bool]:
    """``column`` is one of ``values``: one array parameter, so that the statement stays the same."""
    return column == sa.any_(sa.cast(sa.literal(to_array(values), sa.Text), ARRAY(sa.Text)))


def _plain(value: Any) -> Any:
    if isinstance(value, bytes):
        return "\\x" + value.hex()
    if isinstance(value, (set, frozenset)):
        return sorted(value)
    return str(value)
