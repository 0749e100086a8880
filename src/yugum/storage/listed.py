"""Dockets as their list has them: the rows, and the conditions of what they can be filtered by."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache
from typing import Any

import sqlalchemy as sa

from yugum.core.conditions import fold
from yugum.core.dockets import Outcome
from yugum.core.lists import DocketSort
from yugum.ports.dockets import ChosenDockets
from yugum.storage import tables as t
from yugum.storage.pages import Listing
from yugum.storage.rows import one_of
from yugum.storage.steps import STUCK


def listing_of(chosen: ChosenDockets) -> Listing:
    """The list of what is chosen; the parameter ``subject`` is whose, where that is said."""
    return _listing(replace(chosen, subject_id="said" if chosen.subject_id else ""))


@lru_cache(maxsize=256)
def _listing(chosen: ChosenDockets) -> Listing:
    d = t.dockets.c
    keys = [d.number] if chosen.sort is DocketSort.NUMBER else [d.due_at, d.number]
    return Listing(LINES, keys, chosen=sa.select(d.id).where(*_conditions(chosen)))


def _conditions(chosen: ChosenDockets) -> list[sa.ColumnElement[bool]]:
    d, s = t.dockets.c, t.steps.c
    whole = (
        (d.state, chosen.state),
        (d.verb, chosen.verb),
        (d.batch_id, chosen.batch_id),
        (d.author, chosen.author),
    )
    found: list[sa.ColumnElement[bool]] = [c == str(value) for c, value in whole if value]
    if chosen.subject_id:
        found.append(d.subject_id == sa.bindparam("subject", type_=sa.Text))
    if chosen.reference:
        found += [sa.func.lower(d.reference) == fold(chosen.reference), d.reference != ""]
    if chosen.since:
        found.append(d.due_at >= chosen.since)
    if chosen.before:
        found.append(d.due_at < chosen.before)
    if chosen.stuck:
        found.append(d.state == "running")
        found.append(sa.exists(sa.select(s.id).where(s.docket_id == d.id, STUCK)))
    return found


def _lines() -> sa.Select[Any]:
    d, s, r = t.dockets.c, t.steps.c, t.receipts.c
    count = sa.func.count()
    steps = (
        sa.select(
            count.label("steps_total"),
            count.filter(one_of(s.state, ["done", "left_out"])).label("steps_done"),
            count.filter(STUCK).label("steps_stuck"),
            count.filter(s.state == "left_out").label("steps_left_out"),
        )
        .where(s.docket_id == d.id)
        .lateral()
    )
    so_already = sa.select(sa.func.count()).where(
        r.docket_id == d.id, r.outcome == Outcome.ALREADY.value
    )
    restored = sa.exists(
        sa.select(s.id).where(s.docket_id == d.id, s.action == "restore", s.state == "done")
    )
    lines = sa.select(
        d.id,
        d.number,
        d.subject_id,
        d.verb,
        d.state,
        d.reference,
        d.reason,
        d.author,
        d.due_at,
        d.made_at,
        d.started_at,
        d.ended_at,
        d.machine_started,
        d.machine_ended,
        t.faces.c.display_name.label("subject_name"),
        t.faces.c.user_name.label("subject_login"),
        *steps.c,
        so_already.scalar_subquery().label("steps_so_already"),
        sa.and_(d.verb == "purge", restored).label("brought_back"),
        d.cause["action"].astext.label("action"),
        d.cause["measure"].astext.label("measure"),
        d.cause["basis"].astext.label("basis"),
    )
    return lines.join_from(t.dockets, t.faces, t.faces.c.id == d.subject_id).join(steps, sa.true())


LINES = _lines()
"""All dockets; made once, since putting it together takes as long as it takes to be answered."""

AHEAD = (
    LINES.where(t.dockets.c.subject_id == sa.bindparam("subject"))
    .where(one_of(t.dockets.c.state, ["scheduled", "awaiting"]))
    .order_by(t.dockets.c.number)
    .limit(100)
)
"""What has not begun of a subject's, as far as anybody looks at it."""
