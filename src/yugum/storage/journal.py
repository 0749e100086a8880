"""The journal: intents and receipts of many steps in one transaction, with what follows from them.

Receipts, account projections, the ledger and the audit events commit together. Entries whose
lease epoch is no longer the subject's are refused; the share lock makes a concurrent claim wait.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, replace
from datetime import datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.accounts import Asset
from yugum.core.actions import Action, Done
from yugum.core.dockets import StepProblem, StepState
from yugum.core.documents import Document
from yugum.core.groups import OWNED_GROUP
from yugum.ports.audit import Event
from yugum.ports.journal import Entry
from yugum.storage import tables as t
from yugum.storage.accounts import HISTORY_SQL, UPSERT_SQL, account_row
from yugum.storage.audit import Audit
from yugum.storage.rows import among, statement, to_json
from yugum.storage.seats import Seats

STEPS_SQL = sa.text("""
WITH held AS MATERIALIZED (
  SELECT id, epoch FROM subjects WHERE id = ANY(:subjects) ORDER BY id FOR SHARE
)
UPDATE steps s SET state = r.state, attempts = r.attempts, problem = r.problem,
  retry_at = CASE WHEN r.retry_seconds IS NULL THEN NULL
    ELSE clock_timestamp() + make_interval(secs => r.retry_seconds) END,
  held_at = CASE WHEN r.problem IS NULL THEN NULL
    WHEN r.problem->>'code' = s.problem->>'code' THEN coalesce(s.held_at, r.at) ELSE r.at END,
  found = coalesce(r.found, s.found),
  moving = CASE WHEN r.state <> 'done' THEN coalesce(r.moving, s.moving) END,
  intent_at = CASE WHEN r.state = 'intent' THEN r.at ELSE s.intent_at END,
  done_at = CASE WHEN r.state = 'done' THEN r.at ELSE s.done_at END,
  machine_at = clock_timestamp()
FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(id text, subject_id text, epoch bigint,
  state text, attempts int, problem jsonb, retry_seconds float8, found jsonb, moving jsonb, at timestamptz)
JOIN held h ON h.id = r.subject_id AND h.epoch = r.epoch
WHERE s.id = r.id AND s.state NOT IN ('done', 'left_out')
RETURNING s.id
""")
"""Takes what is written under the lease that holds now; one statement, for cut-offs wait for it."""

RECEIPTS_SQL = sa.text("""
INSERT INTO receipts (step_id, docket_id, outcome, found, did, seen, at, took_ms, machine_at)
SELECT r.step_id, r.docket_id, r.outcome, r.found, r.did, r.seen, r.at, r.took_ms,
  clock_timestamp()
FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(step_id text, docket_id text, outcome text,
  found jsonb, did jsonb, seen jsonb, at timestamptz, took_ms float8)
ON CONFLICT (step_id) DO NOTHING
""")

FREE_SQL = sa.text("""
UPDATE seat_claims c SET until_at = r.at
FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(application_id text, license text,
  account_id text, at timestamptz)
JOIN pools p ON p.application_id = r.application_id AND p.license = r.license
WHERE c.pool_id = p.id AND c.account_id = r.account_id AND c.until_at IS NULL
""")

LEDGER_SQL = sa.text("""
WITH r AS (
  SELECT * FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(account_id text, kind text,
    item text, origin_kind text, origin_name text, at timestamptz)
), gone AS (
  DELETE FROM ledger l USING r WHERE r.origin_kind IS NULL AND l.account_id = r.account_id
    AND l.kind = r.kind AND l.item = r.item
  RETURNING 1
)
INSERT INTO ledger AS l (account_id, kind, item, origin_kind, origin_name, since_at)
SELECT account_id, kind, item, origin_kind, origin_name, at FROM r WHERE origin_kind IS NOT NULL
ON CONFLICT (account_id, kind, item) DO UPDATE
SET origin_kind = excluded.origin_kind, origin_name = excluded.origin_name
""")


AT_ONCE = 5_000
"""Things of one handover that are written down by one statement."""
HANDED_SQL = """
INSERT INTO handovers (step_id, asset_id, docket_id, application_id, kind, name, from_account, to_account, at, copy_of)
SELECT step_id, asset_id, docket_id, application_id, kind, name, from_account, to_account, at, copy_of
FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(step_id text, asset_id text, docket_id text, application_id text,
  kind text, name text, from_account text, to_account text, at timestamptz, copy_of text)
ON CONFLICT DO NOTHING
"""
FOLLOW_SQL = """
UPDATE assets a SET account_id = r.to_account
FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(asset_id text, application_id text,
  to_account text), accounts acc
WHERE a.external_id = r.asset_id AND acc.id = a.account_id
  AND acc.application_id = r.application_id
"""


GROUPS_SQL = """
UPDATE accounts g SET rev = g.rev + 1, digest = NULL, settings = g.settings
  || CASE WHEN a.groups ? 'owner_id' THEN jsonb_build_object('owner_id', o.external_id)
     ELSE jsonb_build_object('owner_login', o.login) END
FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(asset_id text, application_id text,
  to_account text), accounts o, applications a
WHERE g.kind = 'group' AND g.application_id = r.application_id AND g.external_id = r.asset_id
  AND o.id = r.to_account AND a.id = r.application_id
"""
"""A group that was handed over is its receiver's from then on."""


def _did(did: Done) -> Document:
    """What was done as JSON carries it; its things, which may be many, are written by the encoder as they are."""
    if not did.assets:
        return did.document()
    return {**replace(did, assets=()).document(), "assets": did.assets}  # type: ignore[dict-item]


def _problem(problem: StepProblem | None) -> dict[str, str] | None:
    return None if problem is None else asdict(problem)


class Journal:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def write(
        self, entries: Sequence[Entry], events: Sequence[Event], at: datetime
    ) -> set[str]:
        """Write entries (at most one a step); returns the ids of the steps that were taken.

        ``at`` is the business time of all of them.
        A step is not taken when another worker has claimed its subject since, or when it is
        finished already.
        """
        taken = await self._steps(entries, at)
        done = [e for e in entries if e.step.id in taken and e.state is StepState.DONE]
        if done:
            await self._receipts(done, at)
            await self._accounts(done, at)
            await self._ledger(done, at)
            await self._seats(done, at)
            await self._handovers(done, at)
            await self._credentials(done, at)
        ended = [e for e in entries if e.state is StepState.DONE]
        kept = [x for e, x in zip(ended, events, strict=bool(events)) if e.step.id in taken]
        await Audit(self.connection).add(kept)
        return taken

    async def _steps(self, entries: Sequence[Entry], at: datetime) -> set[str]:
        rows = [
            {
                "id": e.step.id,
                "subject_id": e.step.subject_id,
                "epoch": e.epoch,
                "state": e.state.value,
                "attempts": e.attempts,
                "problem": _problem(e.problem),
                "retry_seconds": e.retry_seconds,
                "found": e.found.document() if e.found is not None else None,
                "moving": list(e.moving) or None,
                "at": at,
            }
            for e in entries
        ]
        subjects = list({e.step.subject_id for e in entries})
        values = {"rows": to_json(rows), "subjects": subjects}
        result = await self.connection.execute(STEPS_SQL, values)
        return {row.id for row in result}

    async def _receipts(self, done: Sequence[Entry], at: datetime) -> None:
        rows = [
            {
                "step_id": e.step.id,
                "docket_id": e.step.docket_id,
                "outcome": e.outcome,
                "found": e.found.document() if e.found is not None else {},
                "did": _did(e.did),
                "seen": e.seen.document(),
                "at": at,
                "took_ms": e.took_ms,
            }
            for e in done
        ]
        await self.connection.execute(RECEIPTS_SQL, {"rows": to_json(rows)})

    async def _accounts(self, done: Sequence[Entry], at: datetime) -> None:
        latest = {e.account.id: e for e in done if e.account is not None}
        if not latest:
            return
        rows = [account_row(e.account) for e in latest.values() if e.account is not None]
        await self.connection.execute(UPSERT_SQL, {"rows": to_json(rows), "at": at})
        await self.connection.execute(HISTORY_SQL, {"ids": list(latest), "at": at})

    async def _ledger(self, done: Sequence[Entry], at: datetime) -> None:
        rows = [
            {
                "account_id": account,
                "kind": kind,
                "item": item,
                "origin_kind": origin.kind.value if origin else None,
                "origin_name": origin.name if origin else None,
                "at": at,
            }
            for e in done
            for (account, kind, item), origin in e.origins
        ]
        if rows:
            await self.connection.execute(LEDGER_SQL, {"rows": to_json(rows)})

    async def _seats(self, done: Sequence[Entry], at: datetime) -> None:
        rows = [
            {
                "application_id": e.step.application_id,
                "license": license,
                "account_id": e.step.account_id,
                "at": at,
            }
            for e in done
            for license in e.freed_licenses
        ]
        if rows:
            await self.connection.execute(FREE_SQL, {"rows": to_json(rows)})
            await Seats(self.connection).serve()

    async def _handovers(self, done: Sequence[Entry], at: datetime) -> None:
        for e in done:
            if e.step.action not in (Action.TRANSFER, Action.COPY):
                continue
            things, copied = e.did.assets, e.did.copied
            for begin in range(0, len(things), AT_ONCE):  # an owner may have a hundred thousand
                some = slice(begin, begin + AT_ONCE)
                await self._moved(e, things[some], copied[some], at)

    async def _moved(
        self, entry: Entry, things: Sequence[Asset], copied: Sequence[str], at: datetime
    ) -> None:
        step, back = entry.step, bool(entry.step.arguments.from_external_id)
        moved: list[dict[str, Any]] = [
            {
                "step_id": step.id,
                "asset_id": asset.external_id,
                "docket_id": step.docket_id,
                "application_id": step.application_id,
                "kind": asset.kind,
                "name": asset.name,
                "from_account": "" if back else step.account_id,
                "to_account": step.arguments.to_account,
                "at": at,
                "copy_of": copied[n] if copied else "",
            }
            for n, asset in enumerate(things)
        ]
        await self.connection.execute(statement(HANDED_SQL), {"rows": to_json(moved)})
        # The asset's own row follows it; a receiver unknown to us is left to the next reading.
        await self.connection.execute(statement(FOLLOW_SQL), {"rows": to_json(moved)})
        if groups := [m for m in moved if m["kind"] == OWNED_GROUP]:
            await self.connection.execute(statement(GROUPS_SQL), {"rows": to_json(groups)})

    async def _credentials(self, done: Sequence[Entry], at: datetime) -> None:
        rows = [
            {
                "id": e.step.id,
                # A new key is of whoever comes after, and is not what they sign in with.
                "account_id": e.step.arguments.to_account or e.step.account_id,
                "place": e.step.item if e.step.action is Action.REPLACE_KEY else "",
                "contact": e.step.arguments.contact,
                "docket_id": e.step.docket_id,
                "cipher": e.credential,
                "set_at": at,
            }
            for e in done
            if e.credential is not None
        ]
        if rows:
            c = t.credentials
            await self.connection.execute(insert(c).on_conflict_do_nothing(), rows)
            older = sa.and_(
                among(
                    c.c.account_id + sa.literal(" ") + c.c.place,
                    [f"{r['account_id']} {r['place']}" for r in rows],
                ),
                among(c.c.account_id, [str(r["account_id"]) for r in rows]),
                c.c.id.not_in([str(r["id"]) for r in rows]),
                c.c.link_hash.isnot(None),
            )
            await self.connection.execute(sa.update(c).where(older).values(link_hash=None))
