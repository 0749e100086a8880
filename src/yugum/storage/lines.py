"""The standing difference as rows: lines, what is accepted of it, and what asks somebody."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from datetime import UTC, datetime, timedelta
from functools import lru_cache
from typing import Any

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.dockets import DocketState, OpenStep
from yugum.core.lines import (
    KEY,
    Acceptance,
    AskedDocket,
    Hand,
    Key,
    Line,
    LineKind,
    LineStatus,
    Side,
)
from yugum.errors import NotFound
from yugum.ports.pages import ListPage
from yugum.ports.standing import Chosen, StandingLine
from yugum.storage import tables as t
from yugum.storage.beside import BEGUN
from yugum.storage.everybody import NOW
from yugum.storage.pages import Listing, listed
from yugum.storage.rows import (
    IDS,
    among_ids,
    as_json,
    decoded,
    one_of,
    read,
    read_all,
    reader,
    statement,
    to_copy,
    to_json,
)

ASKED_SQL = """
SELECT d.id, d.number, d.subject_id, d.verb, d.state, d.state = 'cancelled' AS expired,
  coalesce(a.at, d.made_at) AS made
FROM unnest(cast(:ids AS text[])) AS x(id)
CROSS JOIN LATERAL (SELECT * FROM dockets WHERE subject_id = x.id
  AND state IN ('awaiting', 'cancelled', 'scheduled') OFFSET 0) d
LEFT JOIN LATERAL (SELECT min(coalesce(ended_at, made_at)) AS at, bool_or(state = 'expired') AS ran_out
  FROM approvals WHERE docket_id = d.id) a ON true
WHERE d.state = 'awaiting' OR d.state = 'scheduled' AND d.due_at <= :now OR a.ran_out AND NOT EXISTS (
  SELECT 1 FROM dockets l WHERE l.subject_id = d.subject_id AND l.number > d.number
  AND coalesce(l.cause->>'basis', '') = ''
  AND (l.verb = d.verb OR d.verb = 'leaver' AND l.verb IN ('returner', 'extension')))
"""
"""What ran out is asked about again once somebody plans it again, or brings the leaver back."""

LINES_SQL = """
SELECT s.subject_id, s.application_id, s.account_id, s.kind, s.item, s.side, s.want, s.held,
  s.reason, s.status, s.code, s.ref, s.step_id, s.since_at AS since
FROM unnest(cast(:ids AS text[])) AS x(id)
CROSS JOIN LATERAL (SELECT * FROM standing WHERE subject_id = x.id OFFSET 0) s
"""

COLUMNS = (
    "subject_id",
    *KEY,
    *("want", "held", "reason", "status", "code", "ref", "step_id", "since_at"),
)
COPY_LINES_SQL = f"COPY standing ({', '.join(COLUMNS)}) FROM STDIN"
"""Nobody else writes lines of subjects whose heads are locked: what is new is new."""

CHANGE_LINES_SQL = """
UPDATE standing s SET want = r.want, held = r.held, reason = r.reason, status = r.status,
  code = r.code, ref = r.ref, step_id = r.step_id
FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(subject_id text, application_id text,
  account_id text, kind text, item text, side text, want text, held text, reason text, status text,
  code text, ref text, step_id text)
WHERE (s.subject_id, s.application_id, s.account_id, s.kind, s.item, s.side)
  = (r.subject_id, r.application_id, r.account_id, r.kind, r.item, r.side)
"""

DROP_LINES_SQL = """
DELETE FROM standing s USING jsonb_to_recordset(cast(:rows AS jsonb)) AS r(subject_id text,
  application_id text, account_id text, kind text, item text, side text)
WHERE (s.subject_id, s.application_id, s.account_id, s.kind, s.item, s.side)
  = (r.subject_id, r.application_id, r.account_id, r.kind, r.item, r.side)
"""

ACCEPTED = sa.select(
    t.accepted, t.accepted.c.made_at.label("made"), t.accepted.c.ends_at.label("ends")
).where(among_ids(t.accepted.c.subject_id))
HANDS = sa.select(
    as_json(sa.text(ASKED_SQL).bindparams(IDS, NOW).columns(), "asked"),
    as_json(ACCEPTED, "settled"),
    as_json(BEGUN, "begun"),
)
"""What is in hand of some subjects, at the moment ``now``."""
STOOD = HANDS.add_columns(as_json(sa.text(LINES_SQL).bindparams(IDS).columns(), "stored"))
"""That, and their lines as last worked out."""

CUT_OFF_LATE = timedelta(minutes=15)
"""Access of somebody who has left is told after so long, anything else after a day."""
DAY_ROWS = 100


@dataclass(frozen=True, slots=True, kw_only=True)
class _Asked(AskedDocket):
    state: DocketState


@dataclass(frozen=True, slots=True)
class _Whose:
    subject_id: str


def _hands(asked: str, accepted: str, begun: str) -> Mapping[str, Hand]:
    steps: dict[str, list[OpenStep]] = defaultdict(list)
    dockets: dict[str, list[AskedDocket]] = defaultdict(list)
    settled: dict[str, list[Acceptance]] = defaultdict(list)
    due: set[str] = set()
    for docket in decoded(_Asked, asked):
        if docket.state == DocketState.SCHEDULED:
            due.add(docket.subject_id)
        else:
            dockets[docket.subject_id].append(docket)
    for acceptance in decoded(Acceptance, accepted):
        settled[acceptance.subject_id].append(acceptance)
    for step in decoded(OpenStep, begun):
        steps[step.subject_id].append(step)
    return {
        i: Hand(
            steps=steps.get(i, ()),
            asked=dockets.get(i, ()),
            accepted=settled.get(i, ()),
            due=i in due,
        )
        for i in due | dockets.keys() | settled.keys() | steps.keys()
    }


class Lines:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def hands(self, subject_ids: Collection[str], now: datetime) -> Mapping[str, Hand]:
        values = {"ids": list(subject_ids), "now": now}
        return _hands(*(await self.connection.execute(HANDS, values)).one())

    async def stood(
        self, subject_ids: Collection[str], now: datetime
    ) -> tuple[Mapping[str, Hand], Mapping[str, Mapping[Key, Line]]]:
        values = {"ids": list(subject_ids), "now": now}
        *in_hand, stored = (await self.connection.execute(STOOD, values)).one()
        found: dict[str, dict[Key, Line]] = {}
        for whose, line in zip(decoded(_Whose, stored), decoded(Line, stored), strict=True):
            found.setdefault(whose.subject_id, {})[line.key] = line
        return _hands(*in_hand), found

    async def put_lines(
        self,
        new: Iterable[tuple[str, Line]],
        changed: Iterable[tuple[str, Line]],
        gone: Iterable[tuple[str, Key]],
    ) -> None:
        run = self.connection.execute
        if old := [{"subject_id": i, **dict(zip(KEY, k, strict=True))} for i, k in gone]:
            await run(statement(DROP_LINES_SQL), {"rows": to_json(old)})
        if rows := [_line_row(i, line) for i, line in changed]:
            documents = [dict(zip(COLUMNS, r, strict=True)) for r in rows]
            await run(statement(CHANGE_LINES_SQL), {"rows": to_json(documents)})
        if fresh := [_line_row(i, line) for i, line in new]:
            await self.copy(to_copy(fresh))

    async def copy(self, rows: str) -> None:
        """New lines, in the text format of COPY and the order of ``COLUMNS``."""
        raw = await self.connection.get_raw_connection()
        driver = raw.driver_connection
        assert driver is not None
        async with driver.cursor() as cursor, cursor.copy(COPY_LINES_SQL) as copy:
            await copy.write(rows)

    async def page(
        self,
        chosen: Chosen,
        cursor: str | None,
        limit: int,
    ) -> ListPage[StandingLine]:
        return await listed(
            self.connection,
            _listing(replace(chosen, subject_id="said" if chosen.subject_id else "")),
            reader(StandingLine),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
            values={"subject": chosen.subject_id},
        )

    async def day(self, now: datetime, soon: datetime) -> Sequence[StandingLine]:
        values = {
            "now": now,
            "soon": soon,
            "today": now.astimezone(UTC).date(),
            "then": soon.astimezone(UTC).date(),
            "yesterday": now - timedelta(days=1),
            "cut_off": now - CUT_OFF_LATE,
        }
        rows = await self.connection.execute(OF_THE_DAY, values)
        return read_all(StandingLine, rows)

    async def accept(self, acceptance: Acceptance) -> None:
        made = asdict(acceptance)
        made |= {"made_at": made.pop("made"), "ends_at": made.pop("ends")}
        await self.connection.execute(sa.insert(t.accepted).values(made))

    async def end_acceptance(self, acceptance_id: str, at: datetime) -> Acceptance:
        a = t.accepted
        row = (
            await self.connection.execute(
                sa.update(a)
                .where(a.c.id == acceptance_id, sa.or_(a.c.ends_at.is_(None), a.c.ends_at > at))
                .values(ends_at=at)
                .returning(a)
            )
        ).mappings()
        found = row.first()
        if found is None:
            raise NotFound(
                f"Nothing accepted as {acceptance_id} is in force.",
                remedy="List it: yugum standing list --status accepted.",
            )
        return _acceptance(found)


@lru_cache(maxsize=256)
def _listing(chosen: Chosen) -> Listing:
    """The list of what is chosen; the parameter ``subject`` is whose, where that is said."""
    s, where = t.standing.c, []
    for name, value in asdict(chosen).items():
        if name == "before" and value is not None:
            where.append(s.since_at <= value)
        elif name == "subject_id" and value:
            where.append(s.subject_id == sa.bindparam("subject", type_=sa.Text))
        elif value:
            where.append(s[name] == str(value))
    key = [s[name] for name in ("subject_id", *KEY)]
    return Listing(LINES, [s.since_at, *key], chosen=sa.select(*key).where(*where))


def _line_row(subject_id: str, line: Line) -> tuple[str | None, ...]:
    """A line in the order of ``COLUMNS``."""
    return (
        subject_id,
        line.application_id,
        line.account_id,
        line.kind,
        line.item,
        line.side,
        line.want,
        line.held,
        line.reason,
        line.status,
        line.code,
        line.ref,
        line.step_id,
        line.since.isoformat() if line.since else None,
    )


def _acceptance(row: Mapping[Any, Any]) -> Acceptance:
    return read(Acceptance, {**row, "made": row["made_at"], "ends": row["ends_at"]})


def _shown() -> sa.Select[Any]:
    """Lines with the names people read.

    What is one column of one row is looked up beside it: with all of them joined, trying out every order
    takes five times as long as the rows.
    """
    s, k = t.standing.c, t.accepted.c
    accounts, dockets, steps = t.accounts.c, t.dockets.c, t.steps.c
    login = sa.select(accounts.login).where(accounts.id == s.account_id).scalar_subquery()
    number = sa.select(dockets.number).where(dockets.id == s.ref).scalar_subquery()
    waits = sa.select(steps.held_at).where(steps.id == s.step_id).scalar_subquery()
    return (
        sa.select(
            t.standing,
            s.since_at.label("since"),
            t.faces.c.display_name,
            t.faces.c.user_name,
            sa.func.coalesce(t.applications.c.name, "").label("application_name"),
            sa.func.coalesce(t.applications.c.contact, "").label("contact"),
            sa.func.coalesce(login, "").label("login"),
            number.label("number"),
            waits.label("waits_since"),
            sa.func.coalesce(k.author, "").label("accepted_by"),
            sa.func.coalesce(k.reason, "").label("accepted_why"),
            k.ends_at.label("accepted_until"),
            k.id.label("acceptance_id"),
        )
        .join(t.faces, t.faces.c.id == s.subject_id)
        .outerjoin(t.applications, t.applications.c.id == s.application_id)
        .outerjoin(t.accepted, k.id == s.ref)
    )


LINES = _shown()


def _of_the_day() -> sa.Select[Any]:
    """The first lines that ask somebody today; moments and days are its parameters."""
    s, p, d = t.standing.c, t.people.c, t.dockets.c
    now, soon, yesterday, cut_off = (
        sa.bindparam(n, type_=t.Moment) for n in ("now", "soon", "yesterday", "cut_off")
    )
    today, then = (sa.bindparam(n, type_=sa.Date) for n in ("today", "then"))
    # Whose line it is, is looked up for the few whose line could be one of these at all.
    gone = sa.exists().where(p.id == s.subject_id, p.access_ends <= now)
    due = sa.exists().where(d.id == s.ref, d.due_at <= soon)
    begin_soon = sa.select(p.id).where(p.starts > today, p.starts <= then)
    too_much = one_of(s.side, [Side.TOO_MUCH, Side.BOTH])
    late = sa.or_(
        s.since_at <= yesterday,
        sa.and_(too_much, s.since_at <= cut_off, gone),
        sa.and_(s.side == Side.MISSING.value, s.subject_id.in_(begin_soon)),
        sa.and_(s.kind == LineKind.DOCKET.value, due),
    )
    order = [s[name] for name in ("since_at", "subject_id", *KEY)]
    first = (
        sa.select(*(s[name] for name in ("subject_id", *KEY)))
        .where(one_of(s.status, [LineStatus.WAITING, LineStatus.FINDING]), late)
        .order_by(*order)
        .limit(DAY_ROWS)
        .subquery("first")
    )
    same = sa.and_(*(s[name] == first.c[name] for name in ("subject_id", *KEY)))
    return LINES.join(first, same).order_by(*order)


OF_THE_DAY = _of_the_day()
