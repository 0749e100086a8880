"""What a person's page tells beside what plans are made of, in one statement."""

from __future__ import annotations

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.dockets import DocketLine
from yugum.core.facts import Fact
from yugum.core.lifeline import HistoryEntry
from yugum.ports.decisions import DecisionLine
from yugum.ports.dockets import ChosenDockets
from yugum.ports.seats import SeatOf
from yugum.ports.views import PersonRows
from yugum.storage import tables as t
from yugum.storage.accounts import ENTRIES
from yugum.storage.decisions import OF_SUBJECT
from yugum.storage.listed import listing_of
from yugum.storage.people import FACTS
from yugum.storage.rows import as_json, decoded
from yugum.storage.seats import HELD

DECISIONS, DOCKETS, CHANGES = 50, 20, 50
"""So many of each are told; a list of its own has the rest."""
ROWS = sa.select(
    as_json(
        ENTRIES.join(t.accounts, t.accounts.c.id == t.history.c.account_id).where(
            t.accounts.c.person_id == sa.bindparam("subject", type_=sa.Text)
        ),
        "history",
    ),
    as_json(OF_SUBJECT.page("", None, DECISIONS, descending=True, count=False), "decisions"),
    as_json(
        listing_of(ChosenDockets(subject_id="said")).page(
            "", None, DOCKETS, descending=True, count=False
        ),
        "dockets",
    ),
    as_json(HELD, "seats"),
    as_json(FACTS, "facts"),
)


async def rows_of(connection: AsyncConnection, person_id: str) -> PersonRows:
    """The latest of each; pages of a list have one row more than they show."""
    values = {"subject": person_id, "ids": [person_id], "id": person_id, "limit": CHANGES}
    found = (await connection.execute(ROWS, values)).one()
    history, decisions, dockets, seats, facts = found
    mine = decoded(DocketLine, dockets)
    return PersonRows(
        history=decoded(HistoryEntry, history),
        decisions=decoded(DecisionLine, decisions)[:DECISIONS],
        dockets=mine[:DOCKETS],
        dockets_more=len(mine) > DOCKETS,
        seats=decoded(SeatOf, seats),
        facts=decoded(Fact, facts),
    )
