"""Cursor pages: a page is asked for by the sort key of the row before it."""

from __future__ import annotations

import base64
import zlib
from collections.abc import AsyncIterator, Callable, Mapping, Sequence
from contextlib import asynccontextmanager
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, TypeVar
from weakref import WeakKeyDictionary

import sqlalchemy as sa
from psycopg.errors import QueryCanceled
from sqlakeyset import InvalidPage, serialize_bookmark, unserialize_bookmark
from sqlalchemy.exc import OperationalError
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.errors import InvalidInput, TooSlow
from yugum.ports.pages import ListPage
from yugum.storage.rows import named

T = TypeVar("T")

Row = Mapping[Any, Any]
"""A row as it comes from the database, or as a plain mapping."""
REMEDY = "Start without a cursor."
COUNTED = 10_000
"""Rows are counted that far: who has more needs a filter, not a figure."""
FIRSTS = 8
"""So many first pages of a listing are kept: consoles, files and command lines ask for as many rows each."""
MARK = 8
"""A cursor begins with so many characters that tell its list and order."""
PATIENCE = 2000
"""Milliseconds for a filter that no index answers."""


@dataclass(frozen=True, slots=True, eq=False)
class Listing:
    """What a list is made of: all rows of ``query`` in the order of ``keys``, unique together.

    Where ``chosen`` selects keys, a page is chosen from it, and ``query`` only tells of its rows.
    ``counted`` has as many rows, where neither is to be counted. ``firsts`` are the statements of first
    pages: who keeps the listing of a choice asks again without putting one together, which takes as
    long as its answer.
    """

    query: sa.Select[Any]
    keys: Sequence[sa.ColumnElement[Any]]
    chosen: sa.Select[Any] | None = None
    counted: sa.Select[Any] | None = None
    firsts: dict[tuple[int, bool, bool], sa.Select[Any]] = field(default_factory=dict)

    def page(
        self, mine: str, cursor: str | None, limit: int, *, descending: bool, count: bool
    ) -> sa.Select[Any]:
        """The statement of a page, whose rows have their sort keys in ``key0`` and following."""
        said = (limit, descending, count)
        if not cursor and said in self.firsts:
            return self.firsts[said]
        made = self._page(mine, cursor, limit, descending=descending, count=count)
        if not cursor and len(self.firsts) < FIRSTS:
            self.firsts[said] = made
        return made

    def _page(
        self, mine: str, cursor: str | None, limit: int, *, descending: bool, count: bool
    ) -> sa.Select[Any]:
        keys, query, chosen = self.keys, self.query, self.chosen
        # Selected under names of ours; those that may be null are not in a list sorted by them.
        marks = [sa.type_coerce(key, key.type).label(f"key{n}") for n, key in enumerate(keys)]
        order = [key.desc() if descending else key for key in keys]
        following: list[sa.ColumnElement[bool]] = []
        if after := place(cursor, keys, mine):
            # Whole rows are compared: an OR for each key would read everything that has the same first
            # key, 26 times as long 90,000 rows in (docs/decisions/0016).
            here, there = sa.tuple_(*keys), sa.tuple_(*after)
            following.append(here < there if descending else here > there)
        some: sa.ColumnElement[int] = sa.literal_column(str(limit + 1))
        page = query.where(*following)
        if chosen is not None:
            first = chosen.where(*following).order_by(*order).limit(some)
            page = query.where(sa.tuple_(*chosen.selected_columns).in_(first.correlate(None)))
        page = page.add_columns(*marks).order_by(*order).limit(some)
        if count:
            rows = next(q for q in (self.counted, chosen, query) if q is not None)
            page = page.add_columns(_total(rows))
        return page


async def listed(  # noqa: PLR0913 - what a page is asked with
    connection: AsyncConnection,
    listing: Listing,
    make: Callable[[Mapping[str, Any]], T],
    *,
    cursor: str | None,
    limit: int,
    descending: bool = False,
    count: bool = False,
    narrow: str = "",
    values: Mapping[str, Any] | None = None,
) -> ListPage[T]:
    """One page of a listing.

    ``make`` is given each row by its columns' names. With ``narrow``, what to do then, it ends after two
    seconds. ``values`` are those of the listing's own parameters. Limits are written out: a plan for any
    number of rows would be one for a tenth of the table.

    Raises:
        TooSlow: it took longer.
        InvalidInput: the cursor is not one of this list, or of another order.
    """
    said = " ".join(f"{_said(key)} {'DESC' if descending else 'ASC'}" for key in listing.keys)
    mine = f"{zlib.crc32(said.encode()):0{MARK}x}"
    page = listing.page(mine, cursor, limit, descending=descending, count=count)
    async with patient(connection, narrow):
        rows = named(await connection.execute(page, values))
    mark_after = None
    if len(rows) > limit:
        last = rows[limit - 1]
        mark = mine + serialize_bookmark(
            (tuple(last[f"key{n}"] for n in range(len(listing.keys))), False)
        )
        mark_after = base64.urlsafe_b64encode(mark.encode()).decode()
    total = (rows[0]["key_total"] if rows else 0) if count else None
    over = total is not None and total > COUNTED
    items = [make(row) for row in rows[:limit]]
    return ListPage(items, mark_after, COUNTED if over else total, over)


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
    values: Mapping[str, Any] | None = None,
) -> ListPage[T]:
    """`listed` of a listing that is made for this once."""
    return await listed(
        connection,
        Listing(query, keys),
        make,
        cursor=cursor,
        limit=limit,
        descending=descending,
        count=count,
        values=values,
    )


def _total(rows: sa.Select[Any]) -> sa.ColumnElement[int]:
    most: sa.ColumnElement[int] = sa.literal_column(str(COUNTED + 1))
    some = rows.order_by(None).limit(most).subquery()
    return sa.select(sa.func.count()).select_from(some).scalar_subquery().label("key_total")


_texts: WeakKeyDictionary[sa.ColumnElement[Any], str] = WeakKeyDictionary()


def _said(key: sa.ColumnElement[Any]) -> str:
    """A sort key in SQL; keys are the same objects again and again, and each takes half a millisecond."""
    text = _texts.get(key)
    if text is None:
        text = _texts[key] = str(key)
    return text


def place(
    cursor: str | None, keys: Sequence[sa.ColumnElement[Any]], mine: str = ""
) -> tuple[sa.BindParameter[Any], ...] | None:
    """Where a page begins, also for what is chosen from within a query: ``fetch`` sees whose cursor it is."""
    if not cursor:
        return None
    found = _place(cursor, keys, mine)
    return tuple(sa.bindparam(None, v, k.type) for v, k in zip(found, keys, strict=True))


LIMIT = sa.text("SELECT set_config('statement_timeout', :limit, true)")


@asynccontextmanager
async def patient(connection: AsyncConnection, remedy: str) -> AsyncIterator[None]:
    """What is asked meanwhile ends after two seconds; without a remedy it has no end."""
    if not remedy:
        yield
        return
    await connection.execute(LIMIT, {"limit": str(PATIENCE)})
    try:
        yield
    except OperationalError as error:
        if not isinstance(error.orig, QueryCanceled):
            raise
        text = "This filter would read too much: it was stopped after 2 seconds."
        raise TooSlow(text, place="filter", remedy=remedy) from error
    await connection.execute(LIMIT, {"limit": "0"})


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
