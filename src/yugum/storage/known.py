"""The values people have in a field, each once: the index is jumped through, not read."""

from __future__ import annotations

from typing import Any

import sqlalchemy as sa

from yugum.core.conditions import fold
from yugum.core.lists import KnownValue
from yugum.storage import tables as t


def values_of(field: KnownValue, query: str, limit: int) -> sa.Select[Any]:
    """Those that begin with ``query``, sorted, as somebody has written them."""
    column = t.people.c[field.value]
    folded = sa.func.lower(column)
    begins = fold(query)
    first = sa.select(sa.func.min(folded).label("value")).where(folded >= begins)
    found = first.cte("found", recursive=True)
    following = sa.select(sa.func.min(folded)).where(folded > found.c.value).scalar_subquery()
    found = found.union_all(sa.select(following).where(found.c.value.is_not(None)))
    written = sa.select(column).where(folded == found.c.value).limit(1).scalar_subquery()
    return (
        sa.select(written)
        .where(found.c.value.startswith(begins, autoescape=True), found.c.value != "")
        .order_by(found.c.value)
        .limit(limit)
    )
