"""Making one person of two, over every table that names a person."""

from __future__ import annotations

from collections.abc import Iterator

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.approvals import ApprovalState
from yugum.core.decisions import DecisionKind
from yugum.storage import tables as t

INSIDE = (
    f"""UPDATE decisions SET payload = payload || jsonb_build_object('person', cast(:keep AS text))
    WHERE kind = '{DecisionKind.SUCCESSOR}' AND payload ->> 'person' = :gone""",
    "UPDATE approval_links SET who = 'person:' || :keep WHERE who = 'person:' || :gone",
    f"""UPDATE approvals SET asked = (
        SELECT jsonb_agg(CASE WHEN a ->> 'key' = 'person:' || :gone
            THEN a || jsonb_build_object('key', 'person:' || :keep) ELSE a END)
        FROM jsonb_array_elements(asked) a)
    WHERE state = '{ApprovalState.OPEN}'
      AND asked @> jsonb_build_array(jsonb_build_object('key', 'person:' || :gone))""",
)
"""Where a person stands inside a value. What has ended keeps the name it had then."""


def columns() -> Iterator[tuple[sa.Column[str], t.Merged]]:
    """Every column that names a person, those of tables that need others first."""
    for table in reversed(t.metadata.sorted_tables):
        for column in table.columns:
            if merged := column.info.get(t.Merged):
                yield column, merged


def statements(column: sa.Column[str], merged: t.Merged) -> Iterator[str]:
    """What is done with one of them."""
    table, name = column.table.name, column.name
    if merged is t.Merged.GOES:
        yield f"DELETE FROM {table} WHERE {name} = :gone"
        return
    if merged is t.Merged.ONCE:
        others = [c.name for c in column.table.primary_key if c.name != name]
        same = "".join(f" AND k.{other} = g.{other}" for other in others)
        yield (
            f"DELETE FROM {table} g USING {table} k"
            f" WHERE g.{name} = :gone AND k.{name} = :keep{same}"
        )
    # Nobody becomes their own manager.
    value = "nullif(:keep, id)" if column.table is t.people else ":keep"
    rev = ", rev = rev + 1" if "rev" in column.table.columns else ""
    yield f"UPDATE {table} SET {name} = {value}{rev} WHERE {name} = :gone"


async def merge(connection: AsyncConnection, keep: str, gone: str) -> int:
    """Everything of one person becomes another's; returns how many accounts came along."""
    values = {"keep": keep, "gone": gone}
    moved = 0
    for column, merged in columns():
        for statement in statements(column, merged):
            result = await connection.execute(sa.text(statement), values)
            moved = result.rowcount if column.table is t.accounts else moved
    for statement in INSIDE:
        await connection.execute(sa.text(statement), values)
    for table in (t.people, t.subjects):
        await connection.execute(sa.delete(table).where(table.c.id == gone))
    return moved
