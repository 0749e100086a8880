"""The steps of dockets and their receipts."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence, Set
from datetime import datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import JSONB, JSONPATH, distinct_on
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.accounts import AccountState, Asset
from yugum.core.actions import Action, Phase, arguments_from
from yugum.core.decisions import Origin
from yugum.core.dockets import (
    ASKING,
    FINISHED,
    DoneStep,
    Outcome,
    Receipt,
    Settlement,
    Step,
    StepDetail,
    StepState,
)
from yugum.errors import Conflict, NotFound
from yugum.ports.dockets import SettledStep
from yugum.storage import tables as t
from yugum.storage.pages import Row
from yugum.storage.rows import among, one_of, read, statement

STEP = (
    "id",
    "docket_id",
    "subject_id",
    "position",
    "application_id",
    "account_id",
    "phase",
    "action",
    "item",
    "arguments",
    "origin",
    "state",
    "attempts",
    "moving",
)
SHOWN = 20
"""Things of a handover that a docket shows; the list of handovers has every one."""
OF = sa.func.coalesce(
    sa.func.jsonb_array_length(t.steps.c.moving),
    sa.func.jsonb_array_length(t.receipts.c.did["assets"]),
    0,
)
DID = sa.case(
    (
        sa.func.jsonb_array_length(t.receipts.c.did["assets"]) > SHOWN,
        t.receipts.c.did.op("||")(
            sa.func.jsonb_build_object(
                "assets",
                sa.func.jsonb_path_query_array(
                    t.receipts.c.did,
                    sa.cast(f"$.assets[0 to {SHOWN - 1}]", JSONPATH),
                ),
                "copied",
                sa.cast([], JSONB),
            )
        ),
    ),
    else_=t.receipts.c.did,
)
"""How many things a step moves, while it is at it."""
OPEN = ~one_of(t.steps.c.state, sorted(FINISHED))
STUCK = sa.or_(
    one_of(t.steps.c.state, sorted(ASKING)),
    sa.and_(OPEN, t.steps.c.problem.isnot(None)),
)
"""The twin of ``core.dockets.is_stuck``."""

REBORN_SQL = """
SELECT DISTINCT s.account_id FROM steps s JOIN receipts r ON r.step_id = s.id
WHERE s.docket_id = :docket AND s.action IN ('create', 'restore') AND EXISTS (
  SELECT 1 FROM dockets d JOIN steps o ON o.docket_id = d.id JOIN receipts q ON q.step_id = o.id
  WHERE d.subject_id = s.subject_id AND o.account_id = s.account_id AND o.action IN ('delete', 'park')
    AND q.outcome = 'done' AND q.machine_at > r.machine_at)
"""
"""By the machine's time: the business clock may stand still."""

LEAVING_SQL = """
WITH mine AS (
  SELECT id, number, verb FROM dockets d
  WHERE subject_id = :subject AND state IN ('running', 'done', 'superseded') AND id <> :but
    AND number > coalesce((SELECT max(b.number) FROM dockets b
      WHERE b.subject_id = :subject AND b.id <> :but AND b.state IN ('running', 'done', 'superseded')
        AND (b.verb IN ('joiner', 'returner', 'extension') OR b.verb = 'undo' AND EXISTS (
          SELECT 1 FROM dockets u WHERE u.id = b.cause->>'undoes' AND u.verb = 'leaver'))), 0)
)
SELECT s.*, r.outcome, r.found AS receipt_found, r.did, r.at
FROM mine d JOIN steps s ON s.docket_id = d.id JOIN receipts r ON r.step_id = s.id
WHERE d.verb IN ('leaver', 'recheck', 'close')
  AND d.number >= (SELECT min(number) FROM mine WHERE verb = 'leaver')
  AND NOT EXISTS (SELECT 1 FROM dockets u WHERE u.subject_id = :subject AND u.id <> :but
    AND u.cause->>'undoes' = d.id AND u.state IN ('running', 'done', 'superseded'))
ORDER BY d.number, s.position
"""

LATER = sa.text("""
SELECT d.id FROM dockets me JOIN dockets d ON d.subject_id = me.subject_id AND d.number > me.number
WHERE me.id = :docket AND d.verb IN ('recheck', 'close') AND d.state IN ('running', 'done', 'superseded')
  AND NOT EXISTS (SELECT 1 FROM dockets b WHERE b.subject_id = me.subject_id AND b.id <> :undo
    AND b.state IN ('running', 'done', 'superseded') AND (b.cause->>'undoes' = d.id
      OR b.number BETWEEN me.number AND d.number AND (b.verb IN ('joiner', 'returner', 'extension')
        OR b.cause->>'undoes' = me.id)))
""")

MOVED = sa.text("""
UPDATE steps SET moved = greatest(jsonb_array_length(moving) - :left, 0)
WHERE id = :step AND state = 'intent' AND moving IS NOT NULL
""")


class Steps:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def trials(self, subject_ids: Sequence[str]) -> Mapping[str, StepState]:
        """How the last trial sign-in of each account stands that one was planned for."""
        s, d = t.steps.c, t.dockets.c
        query = (
            sa.select(s.account_id, s.state)
            .join(t.dockets, d.id == s.docket_id)
            .where(among(d.subject_id, subject_ids), s.action == Action.TRY_SIGN_IN.value)
            .order_by(d.number)
        )
        return {r.account_id: StepState(r.state) for r in await self.connection.execute(query)}

    async def open_steps(
        self, subject_ids: Sequence[str], heads: Phase | None = None
    ) -> Sequence[Step]:
        """The unfinished steps of dockets that have begun, cut-offs first, then in lane order.

        With ``heads`` only the first of each account, and only where it is of that phase.
        """
        s, d = t.steps.c, t.dockets.c
        query = (
            sa.select(*(s[name] for name in STEP), d.cause["urgent"].as_boolean().label("urgent"))
            .join(t.dockets, d.id == s.docket_id)
            .where(among(d.subject_id, subject_ids), d.state == "running")
            .where(OPEN)
        )
        # Of several dockets of an account one that begins with a cut-off goes first.
        head = sa.func.first_value(s.phase).over(
            partition_by=(s.account_id, s.docket_id), order_by=s.position
        )
        order = (head != Phase.SECURE.value, d.number, s.position)
        if heads is None:
            query = query.order_by(s.subject_id, *order)
        else:
            first = (
                query.ext(distinct_on(s.subject_id, s.account_id))
                .order_by(s.subject_id, s.account_id, *order)
                .subquery()
            )
            query = sa.select(first).where(first.c.phase == heads.value)
        return [step_from(r) for r in await self.connection.execute(query)]

    async def done_steps(self, docket_id: str) -> Sequence[DoneStep]:
        return await self._done(t.steps.c.docket_id == docket_id, [t.steps.c.position])

    async def given_later(self, docket_id: str, undo: str) -> Sequence[DoneStep]:
        s = t.steps.c
        ids = list(await self.connection.scalars(LATER, {"docket": docket_id, "undo": undo}))
        given = s.action.in_([Action.TRANSFER.value, Action.REDIRECT.value])
        return await self._done(sa.and_(s.docket_id.in_(ids), given), [s.docket_id, s.position])

    async def _done(
        self, which: sa.ColumnElement[bool], order: Sequence[sa.ColumnElement[Any]]
    ) -> Sequence[DoneStep]:
        s, r = t.steps.c, t.receipts.c
        # What a handover that was interrupted has moved is as good as done.
        moved = sa.func.jsonb_build_object(
            "assets", s.moving, "to", s.arguments["to_name"], type_=JSONB
        )
        query = (
            sa.select(
                t.steps,
                sa.func.coalesce(r.outcome, "done").label("outcome"),
                sa.func.coalesce(r.found, sa.cast({}, JSONB)).label("receipt_found"),
                sa.func.coalesce(r.did, moved).label("did"),
                r.at,
            )
            .outerjoin(t.receipts, r.step_id == s.id)
            .where(which, r.step_id.is_not(None) | s.moving.is_not(None))
            .order_by(*order)
        )
        rows = (await self.connection.execute(query)).mappings()
        return [read(DoneStep, {**row, "found": row["receipt_found"]}) for row in rows]

    async def receivers(self, docket_ids: Collection[str]) -> Sequence[tuple[str, str, bool]]:
        s, a = t.steps.c, t.accounts.c
        query = (
            sa.select(s.docket_id, a.person_id, a.state == AccountState.ACTIVE.value)
            .join(t.accounts, a.id == s.arguments["to_account"].astext)
            .where(
                among(s.docket_id, docket_ids),
                s.action.in_([Action.TRANSFER.value, Action.REDIRECT.value]),
            )
            .where(a.person_id.is_not(None))
            .distinct()
        )
        return [(d, p, is_open) for d, p, is_open in await self.connection.execute(query)]

    async def reborn(self, docket_id: str) -> Set[str]:
        rows = await self.connection.scalars(statement(REBORN_SQL), {"docket": docket_id})
        return set(rows)

    async def leaving_steps(self, subject_id: str, but: str) -> Sequence[DoneStep]:
        values = {"subject": subject_id, "but": but}
        rows = (await self.connection.execute(statement(LEAVING_SQL), values)).mappings()
        return [
            read(DoneStep, {**row, "found": row["receipt_found"], "position": n})
            for n, row in enumerate(rows, 1)
        ]

    async def moved(self, step_id: str, left: int) -> None:
        await self.connection.execute(MOVED, {"step": step_id, "left": left})

    async def settle_step(
        self, step_id: str, how: Settlement, note: str, at: datetime
    ) -> SettledStep:
        s = t.steps
        values: dict[str, Any] = {"retry_at": None}
        if how is Settlement.RETRY:
            values |= {"state": "due", "problem": None}
        else:
            values |= {
                "state": "left_out",
                "done_at": at,
                "problem": {"code": how.value, "text": note},
            }
        running = sa.select(t.dockets.c.id).where(t.dockets.c.state == "running")
        query = (
            sa.update(s)
            .where(s.c.id == step_id, s.c.docket_id.in_(running))
            .where(s.c.state.in_(["due", "waiting", "attention", "settling"]))
            .values(**values)
            .returning(s.c.id, s.c.docket_id, s.c.subject_id)
        )
        row = (await self.connection.execute(query)).mappings().first()
        if row is None:
            if await self.connection.scalar(sa.select(s.c.id).where(s.c.id == step_id)) is None:
                raise NotFound("There is no such step.", place="step_id")
            raise Conflict(
                "This step is not one that waits for anybody.",
                remedy="Look at the docket again; it may be done or running.",
            )
        if how is Settlement.BY_HAND:
            await self.connection.execute(
                sa.insert(t.receipts).values(
                    step_id=step_id,
                    docket_id=row["docket_id"],
                    outcome=Outcome.BY_HAND.value,
                    found={},
                    did={"note": note},
                    seen={},
                    at=at,
                    took_ms=0,
                )
            )
        return read(SettledStep, row)


async def details_of(connection: AsyncConnection, docket_id: str) -> tuple[StepDetail, ...]:
    """The steps of a docket with everything people read of them, in order."""
    s, r = t.steps.c, t.receipts.c
    query = (
        sa.select(
            *(c for c in s if c.name not in ("moving", "moved")),
            OF.label("of"),
            sa.case(
                (s.moving.is_(None), OF), else_=sa.func.least(sa.func.coalesce(s.moved, 0), OF)
            ).label("moved"),
            t.applications.c.name.label("application_name"),
            t.applications.c.contact,
            r.outcome,
            r.found.label("receipt_found"),
            DID.label("did"),
            r.seen,
            r.at.label("receipt_at"),
            r.took_ms,
            r.machine_at.label("receipt_machine_at"),
        )
        .join(t.applications, t.applications.c.id == s.application_id)
        .outerjoin(t.receipts, r.step_id == s.id)
        .where(s.docket_id == docket_id)
        .order_by(s.position)
    )
    rows = (await connection.execute(query)).mappings()
    return tuple(read(StepDetail, {**row, "receipt": _receipt(row)}) for row in rows)


def _receipt(row: Mapping[Any, Any]) -> Receipt | None:
    if row["outcome"] is None:
        return None
    theirs = ("found", "at", "machine_at")  # columns of the step are called so too
    return read(Receipt, {**row, **{name: row[f"receipt_{name}"] for name in theirs}})


def origin_from(document: Row | None) -> Origin | None:
    return read(Origin, document) if document else None


def step_from(row: Sequence[Any]) -> Step:
    """A step from the columns of ``STEP`` and whether its docket is urgent, in their order."""
    id_, docket, subject, place, application, account, phase, action, item, *rest = row
    arguments, origin, state, attempts, moving, urgent = rest
    return Step(
        id=id_,
        docket_id=docket,
        subject_id=subject,
        position=place,
        application_id=application,
        account_id=account,
        phase=Phase(phase),
        action=Action(action),
        item=item,
        arguments=arguments_from(arguments),
        origin=origin_from(origin),
        state=StepState(state),
        attempts=attempts,
        urgent=bool(urgent),
        moving=tuple(Asset(**a) for a in moving or ()),
    )
