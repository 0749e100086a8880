"""Dockets, their steps and receipts."""

from __future__ import annotations

import json
import uuid
from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import JSONB, distinct_on
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.actions import Action, Phase
from yugum.core.decisions import Origin, OriginKind
from yugum.core.dockets import DoneStep, Step, StepState
from yugum.errors import Conflict, NotFound
from yugum.ports import DocketRow, Obligation
from yugum.storage import tables as t
from yugum.storage.pages import Page, Row, fetch
from yugum.storage.plans import STALE, STEP_SQL, STEPS_OF
from yugum.storage.rows import among

ROW = (
    "id",
    "number",
    "subject_id",
    "verb",
    "state",
    "cause",
    "reference",
    "reason",
    "author",
    "inputs",
    "undoes",
    "due_at",
)
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
)
OPEN = sa.text("state NOT IN ('done', 'left_out')")


def docket_from(row: Row) -> DocketRow:
    return DocketRow(**{name: row[name] for name in ROW})


def origin_from(document: Row | None) -> Origin | None:
    return Origin(OriginKind(document["kind"]), document["name"]) if document else None


class Dockets:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def schedule(self, obligations: Sequence[Obligation], now: datetime, author: str) -> None:
        """Dockets without steps yet: they are planned when a worker takes them up."""
        rows = [
            {
                "id": o.id or str(uuid.uuid4()),
                "subject_id": o.subject_id,
                "verb": o.kind,
                "state": "scheduled",
                "cause": {"account": o.account_id, "basis": o.basis},
                "author": author,
                "reason": o.basis,
                "due_at": now,
                "made_at": now,
                "inputs": {},
            }
            for o in obligations
        ]
        if rows:
            await self.connection.execute(sa.insert(t.dockets), rows)

    async def due(
        self, subject_ids: Sequence[str], now: datetime
    ) -> Sequence[tuple[DocketRow, bool]]:
        """The earliest due docket of each subject, and whether it must be planned (again)."""
        query = sa.text(
            f"""SELECT DISTINCT ON (x.subject_id) {", ".join(f"x.{name}" for name in ROW)},
                  (x.inputs = '{{}}' OR {STALE}
                   OR NOT EXISTS (SELECT 1 FROM steps s WHERE s.docket_id = x.id)) AS stale
                FROM dockets x JOIN faces p ON p.id = x.subject_id
                WHERE x.subject_id = ANY(:ids) AND x.state = 'scheduled' AND x.due_at <= :now
                ORDER BY x.subject_id, x.due_at, x.number"""
        )
        rows = (
            await self.connection.execute(query, {"ids": list(subject_ids), "now": now})
        ).mappings()
        return [(docket_from(r), bool(r["stale"])) for r in rows]

    async def begin(self, docket_ids: Sequence[str], now: datetime) -> None:
        d = t.dockets
        await self.connection.execute(
            sa.update(d)
            .where(among(d.c.id, docket_ids), d.c.state == "scheduled")
            .values(state="running", started_at=now, machine_started=sa.func.clock_timestamp())
        )

    async def replace_steps(
        self, docket_id: str, steps: Sequence[Row], document: Row, inputs: Row, digest: str
    ) -> None:
        await self.connection.execute(sa.delete(t.steps).where(t.steps.c.docket_id == docket_id))
        await self.connection.execute(
            sa.text(
                f"""{STEP_SQL} FROM dockets d {STEPS_OF.format(steps="cast(:steps AS jsonb)")}
                WHERE d.id = :id"""
            ),
            {"steps": json.dumps(list(steps), default=str), "id": docket_id},
        )
        d = t.dockets
        await self.connection.execute(
            sa.update(d)
            .where(d.c.id == docket_id)
            .values(document=dict(document), inputs=dict(inputs), digest=digest)
        )

    async def supersede(self, subject_ids: Sequence[str], now: datetime) -> None:
        """End the running dockets of subjects for which a later one begins.

        Steps that were started keep what they did; those not started are left out.
        """
        d, s = t.dockets, t.steps
        gone = (
            await self.connection.scalars(
                sa.update(d)
                .where(among(d.c.subject_id, subject_ids), d.c.state == "running")
                .values(state="superseded", ended_at=now, machine_ended=sa.func.clock_timestamp())
                .returning(d.c.id)
            )
        ).all()
        if gone:
            await self.connection.execute(
                sa.update(s)
                .where(among(s.c.docket_id, gone), OPEN)
                .values(
                    state="left_out",
                    problem={"code": "superseded", "text": "A later docket took over."},
                )
            )

    async def open_steps(
        self, subject_ids: Sequence[str], heads: Phase | None = None
    ) -> Sequence[Step]:
        """The unfinished steps of running dockets, in lane order.

        With ``heads`` only the first of each account, and only where it is of that phase.
        """
        s, d = t.steps.c, t.dockets.c
        query = (
            sa.select(*(s[name] for name in STEP), d.cause["urgent"].as_boolean().label("urgent"))
            .join(t.dockets, d.id == s.docket_id)
            .where(among(d.subject_id, subject_ids), d.state == "running")
            .where(sa.text("steps.state NOT IN ('done', 'left_out')"))
        )
        if heads is None:
            query = query.order_by(s.docket_id, s.position)
        else:
            first = (
                query.ext(distinct_on(s.subject_id, s.account_id))
                .order_by(s.subject_id, s.account_id, s.docket_id, s.position)
                .subquery()
            )
            query = sa.select(first).where(first.c.phase == heads.value)
        return [step_from(r) for r in await self.connection.execute(query)]

    async def finish(self, subject_ids: Sequence[str], now: datetime) -> Sequence[DocketRow]:
        """End the running dockets that have no open step left, and return them."""
        rows = (
            await self.connection.execute(
                sa.text(
                    """UPDATE dockets d SET state = 'done', ended_at = :now,
                         machine_ended = clock_timestamp()
                       WHERE d.subject_id = ANY(:ids) AND d.state = 'running' AND NOT EXISTS (
                         SELECT 1 FROM steps s WHERE s.docket_id = d.id
                         AND s.state NOT IN ('done', 'left_out'))
                       RETURNING d.*"""
                ),
                {"ids": list(subject_ids), "now": now},
            )
        ).mappings()
        return [docket_from(r) for r in rows]

    async def done_steps(self, docket_id: str) -> Sequence[DoneStep]:
        s, r = t.steps.c, t.receipts.c
        query = (
            sa.select(t.steps, r.outcome, r.found.label("was"), r.did, r.at)
            .join(t.receipts, r.step_id == s.id)
            .where(s.docket_id == docket_id)
            .order_by(s.position)
        )
        return [
            DoneStep(
                position=row["position"],
                application_id=row["application_id"],
                account_id=row["account_id"],
                action=Action(row["action"]),
                item=row["item"],
                arguments=row["arguments"],
                origin=origin_from(row["origin"]),
                outcome=row["outcome"],
                found=row["was"],
                did=row["did"],
                at=row["at"],
            )
            for row in (await self.connection.execute(query)).mappings()
        ]

    async def latest(self, subject_id: str, verb: str) -> DocketRow | None:
        d = t.dockets
        query = (
            sa.select(d)
            .where(d.c.subject_id == subject_id, d.c.verb == verb)
            .where(d.c.state.in_(["running", "done", "superseded"]))
            .order_by(d.c.number.desc())
            .limit(1)
        )
        row = (await self.connection.execute(query)).mappings().first()
        return docket_from(row) if row else None

    async def by_name(self, name: str) -> DocketRow:
        """The docket of an id, or of a number as it is shown (MS-0321, 321)."""
        d = t.dockets
        digits = name.rsplit("-", 1)[-1]
        number = int(digits) if digits.isdigit() and len(digits) < 15 else -1
        query = sa.select(d).where(sa.or_(d.c.id == name, d.c.number == number)).limit(1)
        row = (await self.connection.execute(query)).mappings().first()
        if row is None:
            raise NotFound(f"There is no docket {name}.", remedy="List them: yugum dockets list.")
        return docket_from(row)

    async def page(
        self,
        *,
        state: str = "",
        verb: str = "",
        subject_id: str = "",
        batch_id: str = "",
        stuck: bool = False,
        cursor: str | None = None,
        limit: int = 50,
    ) -> Page:
        d, s = t.dockets.c, t.steps.c
        select = sa.select(*_listed()).join(t.faces, t.faces.c.id == d.subject_id)
        for column, value in (
            (d.state, state),
            (d.verb, verb),
            (d.subject_id, subject_id),
            (d.batch_id, batch_id),
        ):
            if value:
                select = select.where(column == value)
        if stuck:
            select = select.where(
                sa.exists(
                    sa.select(s.id).where(
                        s.docket_id == d.id,
                        sa.or_(
                            s.state.in_(["attention", "waiting"]),
                            sa.and_(s.state == "due", s.problem.isnot(None)),
                        ),
                    )
                ),
                d.state == "running",
            )
        return await fetch(
            self.connection,
            select,
            [d.number],
            cursor=cursor,
            limit=limit,
            descending=True,
            count=cursor is None,
        )

    async def one(self, docket_id: str) -> Mapping[str, Any]:
        """A docket with its steps and receipts."""
        d, s, r = t.dockets.c, t.steps.c, t.receipts.c
        query = (
            sa.select(*_listed(), d.document, d.batch_id, d.cause, d.undoes, d.digest)
            .join(t.faces, t.faces.c.id == d.subject_id)
            .where(d.id == docket_id)
        )
        row = (await self.connection.execute(query)).mappings().first()
        if row is None:
            raise NotFound(f"There is no docket {docket_id}.")
        steps = (
            (
                await self.connection.execute(
                    sa.select(
                        t.steps,
                        t.applications.c.name.label("application_name"),
                        t.applications.c.contact,
                        r.outcome,
                        r.found.label("receipt_found"),
                        r.did,
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
            )
            .mappings()
            .all()
        )
        return {**row, "steps": [dict(x) for x in steps]}

    async def settle_step(
        self, step_id: str, how: str, note: str, at: datetime
    ) -> Mapping[str, Any]:
        """Retry a step, leave it out, or note that it was done by hand."""
        s = t.steps
        values: dict[str, Any] = {"retry_at": None}
        if how == "retry":
            values |= {"state": "due", "problem": None}
        else:
            values |= {"state": "left_out", "done_at": at, "problem": {"code": how, "text": note}}
        row = (
            (
                await self.connection.execute(
                    sa.update(s)
                    .where(
                        s.c.id == step_id,
                        s.c.state.in_(["due", "waiting", "attention", "settling"]),
                    )
                    .where(
                        s.c.docket_id.in_(
                            sa.select(t.dockets.c.id).where(t.dockets.c.state == "running")
                        )
                    )
                    .values(**values)
                    .returning(s)
                )
            )
            .mappings()
            .first()
        )
        if row is None:
            raise Conflict(
                "This step is not one that waits for anybody.",
                remedy="Look at the docket again; it may be done or running.",
            )
        if how == "by_hand":
            await self.connection.execute(
                sa.insert(t.receipts).values(
                    step_id=step_id,
                    docket_id=row["docket_id"],
                    outcome="by_hand",
                    found={},
                    did={"note": note},
                    seen={},
                    at=at,
                    took_ms=0,
                )
            )
        return dict(row)

    async def cancel(self, docket_id: str, now: datetime) -> None:
        d = t.dockets
        changed = await self.connection.execute(
            sa.update(d)
            .where(d.c.id == docket_id, d.c.state.in_(["scheduled", "awaiting"]))
            .values(state="cancelled", ended_at=now)
        )
        if changed.rowcount == 0:
            raise Conflict(
                "Only a docket that has not begun can be cancelled.",
                remedy="Undo it instead: yugum dockets undo NUMBER.",
            )

    async def put_off(self, docket_id: str, verb: str) -> None:
        """Nothing of a docket has happened yet: it is planned when it may begin."""
        d, s = t.dockets, t.steps
        await self.connection.execute(sa.delete(s).where(s.c.docket_id == docket_id))
        await self.connection.execute(
            sa.update(d)
            .where(d.c.id == docket_id)
            .values(
                cause=d.c.cause.op("||")(sa.cast({"applied": False, "approval": True}, JSONB)),
                verb=verb,
            )
        )

    async def cancel_scheduled(self, subject_ids: Sequence[str], verb: str, now: datetime) -> None:
        """Cancel dockets that a new one of the same kind replaces."""
        d = t.dockets
        await self.connection.execute(
            sa.update(d)
            .where(among(d.c.subject_id, subject_ids), d.c.verb == verb)
            .where(d.c.state.in_(["scheduled", "awaiting"]))
            .values(state="cancelled", ended_at=now)
        )

    async def drop(self, docket_ids: Sequence[str], now: datetime) -> None:
        """Cancel dockets that turned out to have nothing to do."""
        d = t.dockets
        await self.connection.execute(
            sa.update(d).where(among(d.c.id, docket_ids)).values(state="cancelled", ended_at=now)
        )

    async def note_cause(self, docket_id: str, cause: Row, verb: str) -> None:
        d = t.dockets
        await self.connection.execute(
            sa.update(d).where(d.c.id == docket_id).values(cause=dict(cause), verb=verb)
        )

    async def facts(self, docket_id: str) -> Sequence[Mapping[str, Any]]:
        """The changes of people that came with a docket, last first."""
        f = t.facts
        query = sa.select(f).where(f.c.docket_id == docket_id).order_by(f.c.known_at.desc())
        return [dict(r) for r in (await self.connection.execute(query)).mappings()]


def step_from(row: Sequence[Any]) -> Step:
    """A step from the columns of ``STEP`` and whether its docket is urgent, in their order."""
    id_, docket, subject, place, application, account, phase, action, item, *rest = row
    arguments, origin, state, attempts, urgent = rest
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
        arguments=arguments,
        origin=origin_from(origin),
        state=StepState(state),
        attempts=attempts,
        urgent=bool(urgent),
    )


def _listed() -> list[sa.ColumnElement[Any]]:
    d, s = t.dockets.c, t.steps.c
    counted = sa.select(sa.func.count()).where(s.docket_id == d.id)
    stuck = sa.or_(
        s.state.in_(["attention", "waiting"]), sa.and_(s.state == "due", s.problem.isnot(None))
    )
    return [
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
        counted.scalar_subquery().label("steps_total"),
        counted.where(s.state.in_(["done", "left_out"])).scalar_subquery().label("steps_done"),
        counted.where(stuck).scalar_subquery().label("steps_stuck"),
    ]
