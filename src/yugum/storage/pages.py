"""Cursor pages: a page is asked for by the sort key of the row before it."""

from __future__ import annotations

import base64
import time
import zlib
from collections.abc import AsyncIterator, Callable, Mapping, Sequence
from contextlib import asynccontextmanager
from datetime import datetime
from typing import Any, TypeVar
from weakref import WeakKeyDictionary

import sqlakeyset.paging
import sqlalchemy as sa
from psycopg.errors import QueryCanceled
from sqlakeyset import InvalidPage, serialize_bookmark, unserialize_bookmark
from sqlakeyset.asyncio import select_page
from sqlalchemy.exc import OperationalError
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.errors import InvalidInput, TooSlow
from yugum.ports.pages import ListPage

# It compares whole rows for drivers it knows only. For psycopg 3 it would write an OR for each key, which
# reads everything that has the same first key: 26 times as long 90,000 rows in (docs/decisions/0016).
sqlakeyset.paging.can_use_native_tuples = lambda dialect: dialect.name == "postgresql"

T = TypeVar("T")

Row = Mapping[Any, Any]
"""A row as it comes from the database, or as a plain mapping."""
REMEDY = "Start without a cursor."
COUNTED = 10_000
"""Rows are counted that far: who has more needs a filter, not a figure."""
MARK = 8
"""A cursor begins with so many characters that tell its list and order."""
PATIENCE = 2000
"""Milliseconds for a filter that no index answers."""


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
    counted: sa.Select[Any] | None = None,
    narrow: str = "",
) -> ListPage[T]:
    """One page of ``query`` in the order of ``keys``, which must be unique together.

    ``make`` is given each row by its columns' names; ``counted`` has the same rows without what only
    tells of them. With ``narrow``, what to do then, it ends after two seconds.

    Raises:
        TooSlow: it took longer.
        InvalidInput: the cursor is not one of this list, or of another order.
    """
    total = None
    patience = _Patience(connection, narrow)
    if count:
        plain = query if counted is None else counted
        some = plain.order_by(None).limit(COUNTED + 1).subquery()
        async with patience.within():
            total = int(await connection.scalar(sa.select(sa.func.count()).select_from(some)) or 0)
    # Selected under names of ours: sqlakeyset would number its own anew for every statement, and
    # neither SQLAlchemy nor PostgreSQL would know one again.
    # Those that may be null are not in a list sorted by them; it would warn of these columns.
    named = [sa.type_coerce(key, key.type).label(f"key{n}") for n, key in enumerate(keys)]
    order = [key.desc() if descending else key.asc() for key in named]
    query = query.add_columns(*named).order_by(*order)
    said = " ".join(f"{_said(key)} {'DESC' if descending else 'ASC'}" for key in keys)
    mine = f"{zlib.crc32(said.encode()):0{MARK}x}"
    after = _place(cursor, keys, mine) if cursor else None
    async with patience.within():
        page = await select_page(connection, query, per_page=limit, after=after)
    following = None
    if page.paging.has_next:
        mark = mine + serialize_bookmark(page.paging.next)
        following = base64.urlsafe_b64encode(mark.encode()).decode()
    over = total is not None and total > COUNTED
    items = [make(dict(row._mapping)) for row in page]
    return ListPage(items, following, COUNTED if over else total, over)


_texts: WeakKeyDictionary[sa.ColumnElement[Any], str] = WeakKeyDictionary()


def _said(key: sa.ColumnElement[Any]) -> str:
    """A sort key in SQL; keys are the same objects again and again, and each takes half a millisecond."""
    text = _texts.get(key)
    if text is None:
        text = _texts[key] = str(key)
    return text


def given(query: sa.Select[Any]) -> list[sa.ColumnElement[bool]]:
    """The conditions of a query, for one that counts its rows without its joins."""
    return [] if query.whereclause is None else [query.whereclause]


def place(
    cursor: str | None, keys: Sequence[sa.ColumnElement[Any]]
) -> tuple[sa.BindParameter[Any], ...] | None:
    """Where a page begins, for what is chosen from within a query; ``fetch`` sees whose cursor it is."""
    if not cursor:
        return None
    found = _place(cursor, keys, "")
    return tuple(sa.bindparam(None, v, k.type) for v, k in zip(found, keys, strict=True))


class _Patience:
    """Lets the statements of one page take two seconds together."""

    LIMIT = sa.text("SELECT set_config('statement_timeout', :limit, true)")

    def __init__(self, connection: AsyncConnection, remedy: str) -> None:
        self._connection, self._remedy = connection, remedy
        self._ends = time.monotonic() + PATIENCE / 1000

    @asynccontextmanager
    async def within(self) -> AsyncIterator[None]:
        """What is asked meanwhile ends when the time is over; without a remedy it has no end."""
        if not self._remedy:
            yield
            return
        left = max(1, int(1000 * (self._ends - time.monotonic())))
        await self._connection.execute(self.LIMIT, {"limit": str(left)})
        try:
            yield
        except OperationalError as error:
            if not isinstance(error.orig, QueryCanceled):
                raise
            text = "This filter would read too much: it was stopped after 2 seconds."
            raise TooSlow(text, place="filter", remedy=self._remedy) from error
        await self._connection.execute(self.LIMIT, {"limit": "0"})


def _place(cursor: str, keys: Sequence[sa.ColumnElement[Any]], mine: str) -> tuple[Any, ...]:
    """The sort key in a cursor, if it is of this order and its values of the kinds that ``keys`` have."""
    try:
        mark = base64.urlsafe_b64decode(cursor.encode()).decode()
        found, backwards = unserialize_bookmark(mark[MARK:])
    except (ValueError, InvalidPage, ArithmeticError) as error:
        raise InvalidInput(
            "The cursor is not one of ours.", place="cursor", remedy=REMEDY
        ) from error
    fits = mark.startswith(mine) and found is not None and len(found) == len(keys)
    fits = fits and not backwards
    if found is None or not fits or not all(map(_is_of, found, keys)):
        raise InvalidInput("The cursor belongs to another list.", place="cursor", remedy=REMEDY)
    return tuple(found)


def _is_of(value: object, key: sa.ColumnElement[Any]) -> bool:
    if isinstance(value, datetime) and value.tzinfo is None:
        return False
    return type(value) is key.type.python_type
