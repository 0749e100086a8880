"""Cursor pages: a page is asked for by the sort key of the row before it."""

from __future__ import annotations

import base64
from collections.abc import Callable, Mapping, Sequence
from datetime import datetime
from typing import Any, TypeVar

import sqlakeyset.paging
import sqlalchemy as sa
from sqlakeyset import InvalidPage, serialize_bookmark, unserialize_bookmark
from sqlakeyset.asyncio import select_page
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.errors import InvalidInput
from yugum.ports.pages import ListPage

# It compares whole rows for drivers it knows only. For psycopg 3 it would write an OR for each key, which
# reads everything that has the same first key: 26 times as long 90,000 rows in (docs/decisions/0016).
sqlakeyset.paging.can_use_native_tuples = lambda dialect: dialect.name == "postgresql"

T = TypeVar("T")

Row = Mapping[Any, Any]
"""A row as it comes from the database, or as a plain mapping."""
REMEDY = "Start without a cursor."


async def fetch(  # noqa: PLR0913 - what a page is asked with
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

    Raises:
        InvalidInput: the cursor is not one of this list.
    """
    total = None
    if count:
        counted = sa.select(sa.func.count()).select_from(query.order_by(None).subquery())
        total = int(await connection.scalar(counted) or 0)
    # Selected under names of ours: sqlakeyset would number its own anew for every statement, and
    # neither SQLAlchemy nor PostgreSQL would know one again.
    # Those that may be null are not in a list sorted by them; it would warn of these columns.
    named = [sa.type_coerce(key, key.type).label(f"key{n}") for n, key in enumerate(keys)]
    order = [key.desc() if descending else key.asc() for key in named]
    query = query.add_columns(*named).order_by(*order)
    place = _place(cursor, keys) if cursor else None
    page = await select_page(connection, query, per_page=limit, after=place)
    following = None
    if page.paging.has_next:
        mark = serialize_bookmark(page.paging.next)
        following = base64.urlsafe_b64encode(mark.encode()).decode()
    return ListPage([make(dict(row._mapping)) for row in page], following, total)


def _place(cursor: str, keys: Sequence[sa.ColumnElement[Any]]) -> tuple[Any, ...]:
    """The sort key in a cursor, if its values are of the kinds that ``keys`` have."""
    try:
        mark = base64.urlsafe_b64decode(cursor.encode()).decode()
        place, backwards = unserialize_bookmark(mark)
    except (ValueError, InvalidPage, ArithmeticError) as error:
        raise InvalidInput(
            "The cursor is not one of ours.", place="cursor", remedy=REMEDY
        ) from error
    fits = place is not None and len(place) == len(keys) and not backwards
    if place is None or not fits or not all(map(_is_of, place, keys)):
        raise InvalidInput("The cursor belongs to another list.", place="cursor", remedy=REMEDY)
    return tuple(place)


def _is_of(value: object, key: sa.ColumnElement[Any]) -> bool:
    if isinstance(value, datetime) and value.tzinfo is None:
        return False
    return type(value) is key.type.python_type
