"""Beginning dockets: those whose inputs are unchanged start as planned, the others are planned anew."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from yugum.core.closing import plan_close, plan_credential, plan_purge
from yugum.core.decisions import OriginKind
from yugum.core.dockets import Verb
from yugum.core.people import PersonState, state_at
from yugum.core.plans import Caution, Plan, step_from
from yugum.core.quick import Quick, plan_quick
from yugum.core.undo import plan_undo
from yugum.engine.approvals import GIVING, Approvals, Waiting, needed
from yugum.engine.context import (
    Loaded,
    load_rules,
    load_subjects,
    load_world,
    observe_all,
    plan_document,
    step_documents,
    with_account_ids,
)
from yugum.engine.events import make_event
from yugum.engine.links import revert_of
from yugum.engine.obligations import renew_obligations
from yugum.engine.planning import (
    apply_changes,
    effective_of,
    last_leaving,
    make_plan,
    put_decisions,
    without,
)
from yugum.errors import Conflict
from yugum.ports import Clock, Connectors, Database, DocketRow, Known, UnitOfWork

JOINING = ("first day", "accounts are prepared")
QUIET = frozenset({Verb.RECHECK, Verb.CLOSE, Verb.PURGE})
"""Dockets nobody asked for: with nothing to do they are dropped."""


class Beginner:
    """Brings the due dockets of leased subjects to running."""

    def __init__(
        self,
        database: Database,
        connectors: Connectors,
        clock: Clock,
        actor: str,
        approvals: Approvals,
    ) -> None:
        self._approvals = approvals
        self._database = database
        self._connectors = connectors
        self._clock = clock
        self._actor = actor

    async def begin(self, unit: UnitOfWork, subject_ids: Sequence[str]) -> Sequence[DocketRow]:
        """Begin at most one due docket a subject; returns those that must be planned again first."""
        now = await self._clock.now(unit)
        due = await unit.dockets.due(subject_ids, now)
        ready = [row for row, stale in due if not stale]
        if ready:
            await self._start(unit, ready, now)
        return [row for row, stale in due if stale]

    async def _start(self, unit: UnitOfWork, rows: Sequence[DocketRow], now: datetime) -> None:
        await unit.dockets.supersede([r.subject_id for r in rows], now)
        await unit.dockets.begin([r.id for r in rows], now)
        if leaving := [r.subject_id for r in rows if r.verb == Verb.LEAVER]:
            await self._end_operators(unit, leaving, now)
        await unit.audit.add(
            [
                make_event(now, self._actor, "docket.begun", r.subject_id, {"verb": r.verb}, r.id)
                for r in rows
            ]
        )

    async def _end_operators(
        self, unit: UnitOfWork, subject_ids: Sequence[str], now: datetime
    ) -> None:
        """Who leaves does not work with Yugum any more: every session and token ends."""
        ended = await unit.operators.end_access(subject_ids)
        await unit.audit.add(
            [
                make_event(
                    now, self._actor, "operator.ended", row["person_id"], {"login": row["login"]}
                )
                for row in ended
            ]
        )

    async def plan_again(self, rows: Sequence[DocketRow]) -> None:
        """Plan from what is seen now, under the rules, decisions and holds of this day, and begin."""
        now = await self._clock.now()
        ids = [r.subject_id for r in rows]
        async with self._database.unit() as unit:
            late = [r for r in rows if r.cause.get("changes") and not r.cause.get("applied")]
            await apply_changes(
                unit,
                {
                    r.subject_id: (r.id, r.cause["changes"], effective_of(r.cause, r.due_at))
                    for r in late
                },
                rows[0].author,
                late[0].reason if late else "",
                now,
            )
            for row in rows:
                await put_decisions(unit, row.cause, row.id, now)
            for row in late:
                await unit.dockets.note_cause(row.id, {**row.cause, "applied": True}, row.verb)
            known = await unit.accounts.known(ids)
        await observe_all(self._database, self._connectors, known, now)
        async with self._database.unit() as unit:
            world = await load_world(unit)
            known = await unit.accounts.known(ids)
            subjects = await load_subjects(unit, dict(known.people), known, now)
            loaded = Loaded(known, world.rules.version)
            started, dropped = [], []
            for row in rows:
                plan = await self._plan(unit, row, subjects[row.subject_id], world, now)
                plan = without(plan, row.cause.get("left_out") or {})
                if not plan.steps and row.verb in QUIET:
                    dropped.append(row)
                    continue
                if await self._must_ask(unit, row, plan, known, now):
                    continue
                await unit.dockets.replace_steps(
                    row.id,
                    step_documents(plan),
                    plan_document(plan),
                    loaded.inputs(row.subject_id),
                    plan.digest,
                )
                if row.verb == Verb.RECHECK:
                    verb = _verb_of(plan, subjects[row.subject_id].person, row.cause, now)
                    await unit.dockets.note_cause(row.id, row.cause, verb)
                started.append(row)
            if dropped:
                await unit.dockets.drop([r.id for r in dropped], now)
                await renew_obligations(unit, [r.subject_id for r in dropped], now)
            if started:
                await self._start(unit, started, now)

    async def _must_ask(
        self, unit: UnitOfWork, row: DocketRow, plan: Plan, known: Known, now: datetime
    ) -> bool:
        """Whether somebody must agree first; then they are asked.

        An approved plan that now gives more is asked about again; a docket that nobody asked for
        (a date has come, rules have changed) needs what was not agreed to for this person before.
        """
        rules = await load_rules(unit)
        names = needed(row.verb, plan.steps, rules) if rules.approvals else ()
        if not names:
            return False
        lead = "Nobody has agreed to this yet."
        if row.cause.get("approval"):
            agreed = [step_from(s) for s in await unit.plans.steps_of(row.id)]
            before = {(s.application_id, s.action, s.item) for s in agreed}
            if all(
                (s.application_id, s.action, s.item) in before
                for s in plan.steps
                if s.action in GIVING
            ):
                return False
            await unit.plans.keep_steps(row.id, step_documents(plan), plan.digest)
            lead = "It has grown since it was approved."
        elif row.verb != Verb.RECHECK:
            return False
        else:
            given = await unit.approvals.given_for(row.subject_id)
            names = tuple(n for n in names if n not in given)
            if not names:
                return False
        waiting = Waiting(
            docket_id=row.id,
            number=str(row.number),
            verb=row.verb,
            person=known.people[row.subject_id],
            author=row.author,
            reason=row.reason,
            digest=plan.digest,
            summary=" ".join((lead, *plan.summary)),
            applications=frozenset(s.application_id for s in plan.steps),
        )
        await self._approvals.ask(unit, waiting, names, rules, now)
        return True

    async def _plan(
        self, unit: UnitOfWork, row: DocketRow, subject: Any, world: Any, now: datetime
    ) -> Plan:
        account_id = row.cause.get("account")
        account = next((a for a in subject.accounts if a.id == account_id), None)
        if row.verb == Verb.CLOSE and account is not None:
            return plan_close(subject, world, account, now)
        if row.verb == Verb.PURGE and account is not None:
            return plan_purge(subject, world, account, now)
        if row.verb == Verb.REVERT:
            deviation = await unit.readings.deviation(str(row.cause["deviation"]))
            return revert_of(subject, world, now, deviation)
        if row.verb == Verb.ACCOUNT:
            chosen = [a for a in subject.accounts if a.id in row.cause["accounts"]]
            what = Quick(row.cause["action"])
            try:
                return plan_quick(subject, world, chosen, what, now)
            except Conflict as error:  # things have changed since it was asked for
                caution = Caution(error.code, error.message, what.value)
                return Plan(subject_id=row.subject_id, verb=row.verb, steps=(), cautions=(caution,))
        if row.verb == Verb.CREDENTIAL and account is not None:
            return plan_credential(subject, world, account, now, str(row.cause.get("sealed", "")))
        if row.verb == Verb.UNDO:
            done = await unit.dockets.done_steps(str(row.cause["undoes"]))
            return with_account_ids(plan_undo(subject, world, now, done))
        done = await last_leaving(unit, row.verb, row.subject_id)
        before = str(row.cause.get("renamed_from", ""))
        return make_plan(subject, world, now, row.verb, done, renamed_from=before)


def _verb_of(plan: Plan, person: Any, cause: Mapping[str, Any], now: datetime) -> str:
    """What a recheck turned out to be."""
    if cause.get("basis") in JOINING and state_at(person, now) is not PersonState.LEFT:
        return Verb.JOINER.value
    match state_at(person, now):
        case PersonState.LEFT:
            return Verb.LEAVER.value
        case PersonState.ABSENT:
            return Verb.ABSENCE.value
        case _:
            created = any(s.origin and s.origin.kind is OriginKind.ROLE for s in plan.steps)
            return Verb.RETURNER.value if not created else Verb.MOVER.value
