"""Everybody as lists show and choose them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from datetime import date, datetime, timedelta
from functools import lru_cache
from typing import Any

import sqlalchemy as sa

from yugum.core.conditions import fold
from yugum.core.decisions import DecisionKind
from yugum.core.lists import PersonSort
from yugum.core.people import FIELDS, PersonState
from yugum.core.roles import Role
from yugum.ports.people import ChosenPeople
from yugum.storage import tables as t
from yugum.storage.filters import to_sql
from yugum.storage.pages import Listing
from yugum.storage.rows import among, has_in_it

COLUMNS = [t.people.c[name] for name in FIELDS]
NOW, YESTERDAY = sa.bindparam("now", type_=t.Moment), sa.bindparam("yesterday", type_=sa.Date)


def _state() -> sa.ColumnElement[str]:
    """The twin of ``core.people.state_at``, at the moment of the parameter ``now``."""
    p = t.people.c
    begins = sa.func.timezone(p.time_zone, sa.cast(p.starts, sa.DateTime()))
    return sa.case(
        (p.access_ends <= NOW, "left"),
        (begins > NOW, "expected"),
        (
            sa.and_(
                p.absent_from <= NOW,
                sa.or_(p.absent_until.is_(None), p.absent_until > NOW),
            ),
            "absent",
        ),
        else_="active",
    )


NAMES = [t.people.c.family_name, t.people.c.given_name, t.people.c.id]
SORTS: Mapping[PersonSort, Sequence[sa.ColumnElement[Any]]] = {
    PersonSort.NAME: NAMES,
    PersonSort.LOGIN: [t.people.c.user_name],
    PersonSort.NUMBER: [t.people.c.employee_number, t.people.c.id],
    PersonSort.DEPARTMENT: [sa.func.lower(t.people.c.department), *NAMES],
    PersonSort.SITE: [sa.func.lower(t.people.c.site), *NAMES],
    PersonSort.BEGINS: [sa.literal_column(t.BEGINS, sa.Date), t.people.c.id],
    PersonSort.LEAVES: [sa.literal_column(t.LEAVES, t.Moment), t.people.c.id],
}
"""Each has its index (``tables.people``)."""
REMEDY = "Narrow it down beside the filter: --state, --department, --site, --kind, --manager or --search."


def moment(now: datetime) -> Mapping[str, date]:
    """The values of the parameters for a moment.

    Wherever somebody begins after it, they do on the day before it or later.
    """
    return {"now": now, "yesterday": (now - timedelta(days=1)).date()}


def _is(state: PersonState) -> Iterable[sa.ColumnElement[bool]]:
    """What holds of everybody in a state, said so that an index has it."""
    p = t.people.c
    begins = sa.func.timezone(p.time_zone, sa.cast(p.starts, sa.DateTime()))
    stays = sa.literal_column(t.LEAVES, t.Moment) > NOW
    begun = sa.or_(p.starts.is_(None), begins <= NOW)
    absent = sa.and_(
        p.absent_from.isnot(None),
        p.absent_from <= NOW,
        sa.or_(p.absent_until.is_(None), p.absent_until > NOW),
    )
    match state:
        case PersonState.LEFT:
            return (p.access_ends <= NOW,)
        case PersonState.EXPECTED:
            return (stays, p.starts >= YESTERDAY, begins > NOW)
        case PersonState.ABSENT:
            return (stays, begun, absent)
        case PersonState.ACTIVE:
            return (stays, begun, sa.not_(absent))


def _lines() -> sa.Select[Any]:
    p = t.people.c
    manager = t.people.alias("manager")
    accounts = sa.select(sa.func.count()).where(
        t.accounts.c.person_id == p.id, t.accounts.c.state == "active"
    )
    return sa.select(
        *COLUMNS,
        p.rev,
        STATE.label("state"),
        manager.c.display_name.label("manager_name"),
        accounts.scalar_subquery().label("open_accounts"),
    ).select_from(t.people.outerjoin(manager, manager.c.id == p.manager_id))


STATE = _state()
LINES = _lines()
"""Everybody; made once, since putting it together takes as long as it takes to be answered."""


def in_state(state: PersonState) -> sa.Select[Any]:
    """The ids of everybody in a state, at a ``moment``."""
    return sa.select(t.people.c.id).where(*_is(state))


def with_role(role: Role, departments: Sequence[str], limit: int) -> sa.Select[Any]:
    """Everybody who is there at a ``moment`` and has a role; of some departments first."""
    p, d = t.people.c, t.decisions.c
    given = sa.select(d.subject_id).where(
        d.kind == DecisionKind.ROLE.value,
        d.payload["role"].astext == role.name,
        sa.or_(d.starts_at.is_(None), d.starts_at <= NOW),
        sa.or_(d.ends_at.is_(None), d.ends_at > NOW),
    )
    has = sa.or_(to_sql(role.when, p.folded, {"state": STATE}), p.id.in_(given))
    return (
        sa.select(*COLUMNS)
        .where(has, *_is(PersonState.ACTIVE))
        .order_by(sa.not_(among(p.department, departments)), p.user_name)
        .limit(limit)
    )


@lru_cache(maxsize=256)
def listing_of(chosen: ChosenPeople) -> Listing:
    """The list of whom is chosen, at the moment of the parameters ``now`` and ``yesterday``."""
    ids = sa.select(t.people.c.id).where(*_chosen_by(chosen))
    return Listing(LINES, SORTS[chosen.sort], chosen=ids)


def _chosen_by(chosen: ChosenPeople) -> list[sa.ColumnElement[bool]]:
    """What holds of everybody who is chosen."""
    p = t.people.c
    where: list[sa.ColumnElement[bool]] = []
    if chosen.condition is not None:
        where.append(to_sql(chosen.condition, p.folded, {"state": STATE}))
    for word in fold(chosen.query).split():
        where.append(has_in_it(p.search, word))
    if chosen.state:
        where += _is(chosen.state)
    for column in (p.department, p.site, p.user_type):
        if value := getattr(chosen, column.name):
            where.append(sa.func.lower(column) == fold(value))
    if chosen.manager_id:
        where.append(p.manager_id == chosen.manager_id)
    return where
