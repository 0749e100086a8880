"""Plans kept until they are confirmed, and the one transaction that makes dockets of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from datetime import datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.causes import cause_document, cause_from
from yugum.core.plans import NO_NOTES, Caution, PlannedStep, notes_from, step_document, step_from
from yugum.core.verbs import Verb
from yugum.ports.plans import ConfirmedDocket, KeptPlan, NewPlan, PreparedBatch
from yugum.storage import tables as t
from yugum.storage.rows import among, read, read_all

STALE = """
  p.rev <> (x.inputs->>'person')::int
  OR (SELECT coalesce(max(version), 0) FROM rules) <> (x.inputs->>'rules')::int
  OR (SELECT coalesce(jsonb_object_agg(a.id, a.rev), '{}') FROM accounts a
      WHERE a.person_id = p.id) IS DISTINCT FROM (x.inputs->'accounts')
"""
"""Whether what a plan or docket ``x`` was made from has changed since; ``p`` is its person."""

GONE = """
  OR EXISTS (SELECT FROM applications g WHERE g.disconnected_at IS NOT NULL
    AND x.steps @> jsonb_build_array(jsonb_build_object('application_id', g.id)))
"""
"""So has a plan for an application that is not connected any more; of a docket its steps were left out."""

REFERRING = "btrim(regexp_replace(replace({}, '{{reference}}', d.reference), '\\s+', ' ', 'g'))"
"""A value with the docket's reference in it; without one nothing stands there."""

STEP_SQL = (
    """
INSERT INTO steps (id, docket_id, subject_id, position, application_id, account_id, phase, action,
  item, arguments, before, after, reason, origin, state)
SELECT gen_random_uuid()::text, d.id, d.subject_id, r.n, r.application_id, r.account_id, r.phase,
  r.action, r.item, CASE WHEN r.arguments->>'value' LIKE '%{reference}%'
    THEN jsonb_set(r.arguments, '{value}', to_jsonb("""
    + REFERRING.format("r.arguments->>'value'")
    + """))
    ELSE r.arguments END, r.before,
  CASE WHEN r.after LIKE '%{reference}%' THEN """
    + REFERRING.format("r.after")
    + """ ELSE r.after END,
  r.reason, nullif(r.origin, 'null'), 'due'
"""
)
STEPS_OF = """
CROSS JOIN LATERAL ROWS FROM (jsonb_to_recordset({steps}) AS (application_id text,
  account_id text, phase text, action text, item text, arguments jsonb, before text, after text,
  reason text, origin jsonb)) WITH ORDINALITY AS r(application_id, account_id, phase, action, item,
  arguments, before, after, reason, origin, n)
"""


class Plans:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def keep(self, plans: Sequence[NewPlan]) -> None:
        if plans:
            await self.connection.execute(sa.insert(t.plans), [_row(p) for p in plans])

    async def forget(self, batch_id: str) -> None:
        """A plan that another one has taken the place of."""
        p = t.plans
        await self.connection.execute(sa.delete(p).where(p.c.batch_id == batch_id))

    async def leave_out(self, batch_id: str, subject_ids: Sequence[str]) -> None:
        p = t.plans
        mine = (p.c.batch_id == batch_id, p.c.confirmed.is_(None))
        await self.connection.execute(sa.delete(p).where(*mine, among(p.c.subject_id, subject_ids)))

    async def prepared(self, author: str) -> Sequence[PreparedBatch]:
        """Plans an operator keeps in confidence and has not carried out, the newest first."""
        query = sa.text(
            """SELECT x.batch_id, min(x.verb) AS verb, min(x.made_at) AS made_at,
                 min(x.due_at) AS due_at, array_agg(p.display_name ORDER BY p.display_name) AS names
               FROM plans x JOIN faces p ON p.id = x.subject_id
               WHERE x.author = :author AND x.confirmed IS NULL
                 AND (x.cause->>'confidential')::bool
               GROUP BY x.batch_id ORDER BY max(x.created) DESC LIMIT 50"""
        )
        rows = await self.connection.execute(query, {"author": author})
        return read_all(PreparedBatch, rows)

    async def lock(self, batch_id: str) -> None:
        """Lock the subjects of a batch, in the order of their ids.

        Of two confirmations about the same subject the second then sees what the first has changed.
        """
        await self.connection.execute(
            sa.text(
                """SELECT s.id FROM subjects s JOIN plans x ON x.subject_id = s.id
                   WHERE x.batch_id = :batch ORDER BY s.id FOR UPDATE OF s"""
            ),
            {"batch": batch_id},
        )

    async def batch(self, batch_id: str, *, whole: bool = True) -> Sequence[KeptPlan]:
        """The batch's plans, locked; ``stale`` says whether its inputs have changed.

        Without the ``whole`` the steps stay in the database, which is all a confirmation needs.
        """
        more = ", x.steps, x.document" if whole else ""
        query = sa.text(
            f"""SELECT x.id, x.batch_id, x.subject_id, x.verb, x.cause, x.digest, x.due_at,
              x.confirmed, x.author{more}, p.display_name, p.user_name, p.employee_number, ({STALE}{GONE}) AS stale
            FROM plans x JOIN faces p ON p.id = x.subject_id
            WHERE x.batch_id = :batch ORDER BY x.id FOR UPDATE OF x"""
        )
        rows = (await self.connection.execute(query, {"batch": batch_id})).mappings()
        return [_kept(r) for r in rows]

    async def blocked_by(self, batch_id: str) -> Sequence[Caution]:
        """The cautions of a batch that forbid it, or must be overridden; no step is loaded."""
        query = sa.text(
            """SELECT c->>'code' AS code, c->>'text' AS text, c->>'blocks' AS blocks
               FROM plans x, jsonb_array_elements(x.document->'cautions') c
               WHERE x.batch_id = :batch AND c->>'blocks' IN ('block', 'override')"""
        )
        rows = await self.connection.execute(query, {"batch": batch_id})
        return [Caution(**r) for r in rows.mappings()]

    async def steps_of(self, plan_id: str) -> Sequence[PlannedStep]:
        """The steps of one plan, as documents."""
        query = sa.select(t.plans.c.steps).where(t.plans.c.id == plan_id)
        return [step_from(s) for s in await self.connection.scalar(query) or ()]

    async def keep_steps(self, plan_id: str, steps: Sequence[PlannedStep], digest: str) -> None:
        """The steps of a plan that was made again, for whoever is asked about it."""
        p = t.plans
        await self.connection.execute(
            sa.update(p)
            .where(p.c.id == plan_id)
            .values(steps=[step_document(s) for s in steps], digest=digest)
        )

    async def confirmed(self, batch_id: str) -> Sequence[ConfirmedDocket]:
        """The dockets that a batch has become, as they are now, in the order of its plans."""
        d = t.dockets.c
        query = sa.select(t.dockets).join(t.plans, t.plans.c.id == d.id)
        query = query.where(t.plans.c.batch_id == batch_id).order_by(d.id)
        rows = (await self.connection.execute(query)).mappings()
        return [read(ConfirmedDocket, r) for r in rows]

    async def confirm(
        self, batch_id: str, *, now: datetime, reference: str, reason: str, undoes: str | None
    ) -> Sequence[ConfirmedDocket]:
        """Dockets for all plans of a batch, with their steps where they are due now.

        A docket has its plan's id. The person's revision in its inputs is the one after the
        cause was recorded, so that our own change does not make it stale.
        """
        values = {
            "batch": batch_id,
            "now": now,
            "reference": reference,
            "reason": reason,
            "undoes": undoes,
        }
        run = self.connection.execute
        rows = (
            (
                await run(
                    sa.text(
                        """INSERT INTO dockets (id, subject_id, verb, state, cause, reference, reason,
                         author, batch_id, digest, document, inputs, undoes, due_at, made_at)
                       SELECT x.id, x.subject_id, x.verb, 'scheduled', x.cause,
                         coalesce(nullif(x.cause->>'reference', ''), :reference),
                         coalesce(nullif(x.cause->>'reason', ''), :reason),
                         x.author, x.batch_id, x.digest, x.document,
                         x.inputs || jsonb_build_object('person', p.rev), :undoes, x.due_at, :now
                       FROM plans x JOIN faces p ON p.id = x.subject_id
                       WHERE x.batch_id = :batch ORDER BY x.id
                       RETURNING id, number, subject_id, verb, due_at, state"""
                    ),
                    values,
                )
            )
            .mappings()
            .all()
        )
        await run(
            sa.text(
                f"""{STEP_SQL} FROM plans x JOIN dockets d ON d.id = x.id
                {STEPS_OF.format(steps="x.steps")}
                WHERE x.batch_id = :batch AND x.due_at <= :now"""
            ),
            values,
        )
        await run(sa.text("UPDATE plans SET confirmed = now() WHERE batch_id = :batch"), values)
        return [read(ConfirmedDocket, r) for r in rows]


def _row(plan: NewPlan) -> dict[str, Any]:
    return {
        "id": plan.id,
        "batch_id": plan.batch_id,
        "subject_id": plan.subject_id,
        "verb": plan.verb.value,
        "cause": cause_document(plan.cause),
        "steps": plan.steps,
        "document": asdict(plan.notes),
        "inputs": asdict(plan.inputs),
        "digest": plan.digest,
        "due_at": plan.due_at,
        "made_at": plan.made_at,
        "author": plan.author,
    }


def _kept(row: Mapping[Any, Any]) -> KeptPlan:
    values = dict(row)
    verb = Verb(values.pop("verb"))
    cause = cause_from(verb, values.pop("cause"))
    if "steps" in values:
        values["steps"] = tuple(step_from(s) for s in values["steps"])
        document = values.pop("document")
        values["notes"] = notes_from(document) if document else NO_NOTES
    return KeptPlan(verb=verb, cause=cause, **values)
