"""Why accounts hold what they hold, what was decided about whose they are, and what is disputed: one statement."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

import msgspec
import orjson
import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.accounts import HoldingKind
from yugum.core.decisions import (
    Decision,
    DecisionKind,
    LedgerKey,
    Origin,
    OriginKind,
    payload_from,
)
from yugum.storage import tables as t
from yugum.storage.deviations import OPEN_ATTRIBUTES
from yugum.storage.pages import Row
from yugum.storage.rows import IDS, among_ids, as_json, decoded, texts

ACCOUNTS = texts("account_ids")
LEDGER_SQL = """
SELECT g.account_id, g.kind, g.item, g.origin_kind, g.origin_name
FROM unnest(cast(:account_ids AS text[])) AS x(id)
CROSS JOIN LATERAL (SELECT * FROM ledger WHERE account_id = x.id OFFSET 0) g
"""
"""Each by its key: without statistics the planner would read the whole table for some hundred accounts."""

MADE = (
    sa.select(t.decisions)
    .where(among_ids(t.decisions.c.subject_id))
    .order_by(t.decisions.c.made_at, t.decisions.c.id)
)
BESIDE = sa.select(
    as_json(sa.text(LEDGER_SQL).bindparams(ACCOUNTS).columns(), "given"),
    as_json(MADE, "made"),
    as_json(OPEN_ATTRIBUTES.where(among_ids(t.deviations.c.account_id, ACCOUNTS)), "disputed"),
)
MOMENTS = ("starts_at", "ends_at", "made_at")


@dataclass(frozen=True, slots=True)
class _Given:
    account_id: str
    kind: HoldingKind
    item: str
    origin_kind: OriginKind
    origin_name: str


@dataclass(frozen=True, slots=True)
class Beside:
    """Of some accounts where each thing is from, and which attributes nobody has decided about yet.

    ``decisions`` are about people, or about accounts that are nobody's, the earliest first.
    """

    ledger: dict[LedgerKey, Origin]
    decisions: Sequence[Decision]
    disputed: frozenset[tuple[str, str]]


async def beside(
    connection: AsyncConnection, subject_ids: Sequence[str], account_ids: Sequence[str]
) -> Beside:
    values = {IDS.key: list(subject_ids), ACCOUNTS.key: list(account_ids)}
    given, made, disputed = (await connection.execute(BESIDE, values)).one()
    origins: dict[tuple[OriginKind, str], Origin] = {}
    ledger: dict[LedgerKey, Origin] = {}
    for g in decoded(_Given, given):
        origin = origins.get((g.origin_kind, g.origin_name))
        if origin is None:
            origin = origins[g.origin_kind, g.origin_name] = Origin(g.origin_kind, g.origin_name)
        ledger[g.account_id, g.kind, g.item] = origin
    open_ones = frozenset((d["account_id"], d["item"]) for d in orjson.loads(disputed))
    return Beside(ledger, decisions_of(made), open_ones)


def decisions_of(found: str) -> list[Decision]:
    """Decisions from rows that `as_json` made a text of."""
    return [
        decision_from({**row, **{n: msgspec.convert(row[n], datetime | None) for n in MOMENTS}})
        for row in orjson.loads(found)
    ]


def decision_from(row: Row) -> Decision:
    return Decision(
        id=row["id"],
        subject_id=row["subject_id"],
        kind=DecisionKind(row["kind"]),
        payload=payload_from(row["payload"]),
        author=row["author"],
        reason=row["reason"],
        starts=row["starts_at"],
        ends=row["ends_at"],
        made=row["made_at"],
    )
