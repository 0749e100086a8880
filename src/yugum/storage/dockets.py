"""Dockets: kept, begun, looked at and ended; their steps are in ``storage.steps``."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, replace
from datetime import datetime

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import JSONB

from yugum.core.causes import NO_CAUSE, Cause, cause_document, cause_from
from yugum.core.dockets import (
    Docket,
    DocketDetail,
    DocketLine,
    Inputs,
)
from yugum.core.documents import Document
from yugum.core.facts import Fact
from yugum.core.lists import Order
from yugum.core.obligations import ObligationKind
from yugum.core.plans import PlannedStep, PlanNotes, notes_from, step_document
from yugum.core.verbs import Verb
from yugum.errors import Conflict, NotFound
from yugum.ports.dockets import ChosenDockets, DueDocket
from yugum.ports.obligations import Obligation
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.beside import Beside
from yugum.storage.listed import AHEAD, LINES, listing_of
from yugum.storage.pages import Row, listed
from yugum.storage.plans import STALE, STEP_SQL, STEPS_OF
from yugum.storage.rows import among, read, read_all, reader, statement, to_array, to_json
from yugum.storage.steps import details_of

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


def docket_from(row: Row) -> Docket:
    verb = Verb(row["verb"])
    inputs = read(Inputs, row["inputs"]) if row["inputs"] else None
    cause = cause_from(verb, row["cause"])
    return replace(read(Docket, {**row, "inputs": inputs, "cause": NO_CAUSE}), cause=cause)


def _cause_of(obligation: Obligation) -> Document:
    """Why a docket exists that an obligation started."""
    of_account = obligation.kind in (ObligationKind.CLOSE, ObligationKind.PURGE)
    about = {"account": obligation.account_id} if of_account else {}
    return {**about, "basis": obligation.basis}


INHERIT_SQL = """
UPDATE dockets d SET reference = coalesce(nullif(d.reference, ''), r.reference),
  reason = coalesce(nullif(d.reason, ''), r.reason)
FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(id text, reference text, reason text)
WHERE d.id = r.id
"""

VERSIONS_SQL = """
SELECT d.id, md5(concat_ws(' ', d.xmin, d.due_at <= :now, s.versions)) AS version
FROM dockets d LEFT JOIN LATERAL (
  SELECT string_agg(xmin::text, ' ' ORDER BY position) AS versions FROM steps WHERE docket_id = d.id
) s ON true WHERE d.id = ANY(cast(:ids AS text[]))
"""
"""``xmin`` is the transaction that wrote a row as it is."""


SUBJECTS_OWN = sa.exists().where(
    t.dockets.c.id == t.facts.c.docket_id, t.dockets.c.subject_id == t.facts.c.person_id
)
UPDATES_SQL = sa.text("""
INSERT INTO dockets (id, subject_id, verb, state, cause, author, reason, due_at, made_at, inputs)
SELECT gen_random_uuid(), i, 'update', 'scheduled',
  jsonb_build_object('basis', cast(:basis AS text), 'changes', '{}'::jsonb, 'applied', true),
  :author, :basis, :at, :at, '{}'
FROM unnest(cast(:ids AS text[])) AS i
WHERE NOT EXISTS (SELECT 1 FROM dockets d WHERE d.subject_id = i AND d.verb = 'update'
  AND d.state = 'scheduled' AND d.inputs = '{}')
""")
"""One that has not been planned yet will see what differs by then."""


class Dockets(Beside):
    async def schedule(self, obligations: Sequence[Obligation], now: datetime, author: str) -> None:
        """Dockets without steps yet: they are planned when a worker takes them up."""
        rows = [
            {
                "id": o.docket_id,
                "subject_id": o.subject_id,
                "verb": o.kind.value,
                "state": "scheduled",
                "cause": _cause_of(o),
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

    async def schedule_updates(
        self, subject_ids: Sequence[str], now: datetime, author: str, basis: str
    ) -> None:
        await self.connection.execute(
            UPDATES_SQL, {"ids": list(subject_ids), "at": now, "author": author, "basis": basis}
        )

    async def due(self, subject_ids: Sequence[str], now: datetime) -> Sequence[DueDocket]:
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
        return [DueDocket(docket=docket_from(r), stale=bool(r["stale"])) for r in rows]

    async def begin(self, docket_ids: Sequence[str], now: datetime) -> None:
        d = t.dockets
        await self.connection.execute(
            sa.update(d)
            .where(among(d.c.id, docket_ids), d.c.state == "scheduled")
            .values(state="running", started_at=now, machine_started=sa.func.clock_timestamp())
        )

    async def replace_steps(
        self,
        docket_id: str,
        steps: Sequence[PlannedStep],
        notes: PlanNotes,
        inputs: Inputs,
        digest: str,
    ) -> None:
        await self.connection.execute(sa.delete(t.steps).where(t.steps.c.docket_id == docket_id))
        await self.connection.execute(
            sa.text(
                f"""{STEP_SQL} FROM dockets d {STEPS_OF.format(steps="cast(:steps AS jsonb)")}
                WHERE d.id = :id"""
            ),
            {"steps": to_json([step_document(s) for s in steps]), "id": docket_id},
        )
        d = t.dockets
        await self.connection.execute(
            sa.update(d)
            .where(d.c.id == docket_id)
            .values(document=asdict(notes), inputs=asdict(inputs), digest=digest)
        )

    async def finish(self, subject_ids: Sequence[str], now: datetime) -> Sequence[Docket]:
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

    async def by_name(self, name: str) -> Docket:
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
        chosen: ChosenDockets,
        cursor: str | None = None,
        limit: int = 50,
    ) -> ListPage[DocketLine]:
        return await listed(
            self.connection,
            listing_of(chosen),
            reader(DocketLine),
            cursor=cursor,
            limit=limit,
            descending=chosen.order is Order.DESCENDING,
            count=cursor is None,
            values={"subject": chosen.subject_id},
        )

    async def ahead(self, subject_id: str) -> Sequence[DocketLine]:
        result = await self.connection.execute(AHEAD, {"subject": subject_id})
        return read_all(DocketLine, result)

    async def versions(self, docket_ids: Sequence[str], now: datetime) -> Mapping[str, str]:
        values = {"ids": to_array(docket_ids), "now": now}
        rows = await self.connection.execute(statement(VERSIONS_SQL), values)
        return {r.id: r.version for r in rows}

    async def one(self, docket_id: str) -> DocketDetail:
        d = t.dockets.c
        withheld = sa.func.coalesce(d.cause["confidential"].as_boolean(), sa.false())
        query = LINES.add_columns(
            d.document, d.batch_id, d.undoes, d.digest, withheld.label("withheld")
        ).where(d.id == docket_id)
        row = (await self.connection.execute(query)).mappings().first()
        if row is None:
            raise NotFound(f"There is no docket {docket_id}.")
        steps = await details_of(self.connection, docket_id)
        notes = notes_from(row["document"] or {})
        return read(DocketDetail, {**row, "notes": notes, "steps": steps})

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

    async def put_off(self, docket_id: str, verb: Verb, *, applied: bool) -> None:
        """Nothing of a docket has happened yet: it is planned when it may begin."""
        d, s = t.dockets, t.steps
        await self.connection.execute(sa.delete(s).where(s.c.docket_id == docket_id))
        await self.connection.execute(
            sa.update(d)
            .where(d.c.id == docket_id)
            .values(
                cause=d.c.cause.op("||")(sa.cast({"applied": applied, "approval": True}, JSONB)),
                verb=verb.value,
            )
        )

    async def cancel_all(self, subject_id: str, now: datetime) -> Sequence[str]:
        d = t.dockets
        query = (
            sa.update(d)
            .where(d.c.subject_id == subject_id, d.c.state.in_(["scheduled", "awaiting"]))
            .values(state="cancelled", ended_at=now)
            .returning(d.c.id)
        )
        return (await self.connection.scalars(query)).all()

    async def not_begun(self, subject_ids: Sequence[str], verb: Verb) -> Mapping[str, Docket]:
        d = t.dockets
        query = (
            sa.select(d)
            .where(among(d.c.subject_id, subject_ids), d.c.verb == verb.value)
            .where(d.c.state.in_(["scheduled", "awaiting"]))
            .order_by(d.c.number)
        )
        rows = (await self.connection.execute(query)).mappings()
        return {r["subject_id"]: docket_from(r) for r in rows}

    async def inherit(self, said: Mapping[str, tuple[str, str]]) -> None:
        rows = [{"id": i, "reference": r, "reason": why} for i, (r, why) in said.items()]
        if rows:
            await self.connection.execute(statement(INHERIT_SQL), {"rows": to_json(rows)})

    async def drop(self, docket_ids: Sequence[str], now: datetime) -> None:
        """Cancel dockets that turned out to have nothing to do."""
        d = t.dockets
        await self.connection.execute(
            sa.update(d).where(among(d.c.id, docket_ids)).values(state="cancelled", ended_at=now)
        )
        o = t.obligations
        await self.connection.execute(
            sa.update(o)
            .where(among(o.c.docket_id, docket_ids), o.c.state == "taken")
            .values(state="due", docket_id=None)
        )

    async def note_cause(self, docket_id: str, cause: Cause, verb: Verb) -> None:
        d = t.dockets
        await self.connection.execute(
            sa.update(d)
            .where(d.c.id == docket_id)
            .values(cause=cause_document(cause), verb=verb.value)
        )

    async def facts(self, docket_id: str) -> Sequence[Fact]:
        """The changes of its person that came with a docket, last first."""
        f = t.facts
        query = sa.select(f).where(f.c.docket_id == docket_id, SUBJECTS_OWN)
        query = query.order_by(f.c.known_at.desc())
        return read_all(Fact, await self.connection.execute(query))

    async def facts_of_others(self, docket_id: str) -> Sequence[Fact]:
        query = sa.select(t.facts).where(t.facts.c.docket_id == docket_id, ~SUBJECTS_OWN)
        return read_all(Fact, await self.connection.execute(query))
