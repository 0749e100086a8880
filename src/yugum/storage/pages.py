"""Cursor pages: a page is asked for by the sort key of the row before it."""

from __future__ import annotations

import base64
import json
from collections.abc import Callable, Mapping, Sequence
from typing import Any, TypeVar

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.errors import InvalidInput
from yugum.ports.pages import ListPage

T = TypeVar("T")

Row = Mapping[Any, Any]
"""A row as it comes from the database, or as a plain mapping."""


def encode(values: Sequence[Any]) -> str:
    return base64.urlsafe_b64encode(json.dumps(list(values), default=str).encode()).decode()


def decode(cursor: str, width: int) -> list[Any]:
    """The sort key in a cursor.

    Raises:
        InvalidInput: it was not made by `encode` for this list.
    """
    try:
        values = json.loads(base64.urlsafe_b64decode(cursor.encode()))
    except ValueError as error:
        raise InvalidInput(
            "The cursor is not one of ours.", place="cursor", remedy="Start without a cursor."
        ) from error
    if not isinstance(values, list) or len(values) != width:
        raise InvalidInput(
            "The cursor belongs to another list.", place="cursor", remedy="Start without a cursor."
        )
    return values


async def fetch(
    connection: AsyncConnection,
    query: sa.Select[Any],
    keys: Sequence[sa.ColumnElement[Any]],
    make: Callable[[Mapping[str, Any]], T],
    *,
    cursor: str | None,
    limit: int,
    descending: bool = False,
    count: bool = False,
) -> ListPage[T]:
    """One page of ``query`` in the order of ``keys``, which must be unique together.

    ``make`` is given each row by its columns' names.
    """
    total = None
    if count:
        counted = sa.select(sa.func.count()).select_from(query.order_by(None).subquery())
        total = int(await connection.scalar(counted) or 0)
    names = [f"key{i}" for i in range(len(keys))]
    query = query.add_columns(*(key.label(name) for key, name in zip(keys, names, strict=True)))
    if cursor:
        mine = sa.tuple_(*keys)
        place = sa.tuple_(
            *(
                sa.cast(sa.literal(value), key.type)
                for value, key in zip(decode(cursor, len(keys)), keys, strict=True)
            )
        )
        query = query.where(mine < place if descending else mine > place)
    order = [key.desc() if descending else key.asc() for key in keys]
    result = await connection.execute(query.order_by(*order).limit(limit + 1))
    rows = result.mappings().all()
    more = len(rows) > limit
    rows = rows[:limit]
    following = encode([rows[-1][name] for name in names]) if more else None
    return ListPage([make(dict(row)) for row in rows], following, total)
