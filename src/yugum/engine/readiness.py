"""Before the first day: who is ready, what somebody would get, and what makes two people the same."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import timedelta
from typing import Any

from yugum.core.accounts import HoldingKind
from yugum.core.decisions import OriginKind
from yugum.core.desired import Subject, desired
from yugum.core.people import Person, as_text, folded, full_name
from yugum.core.readiness import CredentialState, readiness
from yugum.engine.context import load_subjects, load_world
from yugum.ports import Clock, Database, ListPage, Row

ALIKE = ("department", "title", "site", "user_type")
"""Fields that decide about roles and that a move can change."""


class Readiness:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def page(
        self, before: int, ahead: int, cursor: str | None, limit: int
    ) -> tuple[Sequence[Row], ListPage]:
        """Who begins from ``before`` days ago to ``ahead`` days on, each with what is missing."""
        now = await self._clock.now()
        day = timedelta(days=1)
        async with self._database.unit() as unit:
            page = await unit.people.starting(
                (now - before * day).date(), (now + ahead * day).date(), cursor, limit
            )
            ids = [row["id"] for row in page.items]
            known = await unit.accounts.known(ids)
            world = await load_world(unit)
            subjects = await load_subjects(unit, dict(known.people), known, now)
            accounts = [a.id for s in subjects.values() for a in s.accounts]
            credentials = {
                c["account_id"]: CredentialState(c["told_at"], c["opened_at"], bool(c["expired"]))
                for c in await unit.credentials.of(accounts)
            }
            used = await unit.accounts.last_used(accounts)
        rows = []
        for row in page.items:
            lines = readiness(subjects[row["id"]], world, now, credentials, used)
            rows.append(
                {
                    **row,
                    "ready": bool(lines) and not any(line.lacks for line in lines),
                    "lines": [
                        {
                            "application_id": line.application_id,
                            "application_name": world.applications[line.application_id].name,
                            "state": line.state,
                            "lacks": list(line.lacks),
                            "credential": line.credential,
                            "signed_in": line.signed_in,
                        }
                        for line in lines
                    ],
                }
            )
        return rows, page

    async def would_get(self, fields: Mapping[str, Any]) -> list[dict[str, str]]:
        """What somebody with these fields would have, with reasons, before anything is stored."""
        now = await self._clock.now()
        person = Person(id="", **{"user_name": "somebody", **fields})
        async with self._database.unit() as unit:
            world = await load_world(unit)
        rules = world.rules
        approvals = {r.name: r.approval for r in rules.roles if r.approval}
        found = []
        for application_id, want in sorted(desired(Subject(person=person), rules, now).items()):
            application = world.applications.get(application_id)
            name = application.name if application else application_id
            things = [("account", "", want.account)]
            things += [("entitlement", i, w) for i, w in want.entitlements.items()]
            things += [("seat", i, w) for i, w in want.seats.items()]
            lines = [(kind, item, why[0], why[1]) for kind, item, why in things if why]
            lines += [("setting", f"{n}: {v}", o, r) for n, (v, o, r) in want.settings.items()]
            for kind, item, origin, reason in lines:
                pool = world.pools.get((application_id, item)) if kind == "seat" else None
                found.append(
                    {
                        "application_id": application_id,
                        "application_name": name,
                        "kind": kind,
                        "item": item,
                        "because": reason,
                        "note": f"no seat is free; {pool.waiting} wait"
                        if pool and pool.free <= 0
                        else f"after the approval {approvals[origin.name]}"
                        if origin.name in approvals
                        else "",
                    }
                )
        return found

    async def same_as(self, who: str, like: str) -> dict[str, Any]:
        """What it takes for ``who`` to be as ``like``: fields that give roles apart from exceptions.

        What ``like`` merely was found with is named, and not proposed.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            one = await unit.people.resolve(who)
            other = await unit.people.resolve(like)
            known = await unit.accounts.known([one.id, other.id])
            world = await load_world(unit)
            subjects = await load_subjects(unit, dict(known.people), known, now)
        mine, theirs = subjects[one.id], subjects[other.id]
        roles = world.rules.roles_of(folded(other))
        changes = {}
        if roles != world.rules.roles_of(folded(one)):
            changes = {
                name: as_text(getattr(other, name))
                for name in ALIKE
                if getattr(one, name) != getattr(other, name)
            }
        return {
            "who": full_name(one),
            "like": full_name(other),
            "changes": changes,
            "roles": [r.name for r in roles],
            "exceptions": _exceptions(mine, theirs),
            "found": _found(mine, theirs),
        }


def _exceptions(mine: Subject, theirs: Subject) -> list[dict[str, Any]]:
    """The other's decisions that give something, each to be made anew with a reason of its own."""
    have = {tuple(sorted(d.payload.items())) for d in mine.decisions if d.kind == "grant"}
    return [
        {"payload": dict(d.payload), "reason": d.reason, "ends": d.ends}
        for d in theirs.decisions
        if d.kind == "grant" and tuple(sorted(d.payload.items())) not in have
    ]


def _found(mine: Subject, theirs: Subject) -> list[dict[str, str]]:
    held = {
        (a.application_id, kind, item)
        for a in mine.accounts
        for kind, items in (("entitlement", a.entitlements), ("seat", a.seats))
        for item in items
    }
    lines = []
    for account in theirs.accounts:
        for kind, items in (
            (HoldingKind.ENTITLEMENT, account.entitlements),
            (HoldingKind.SEAT, account.seats),
        ):
            for item in sorted(items):
                origin = theirs.ledger.get((account.id, kind.value, item))
                thing = (account.application_id, kind.value, item)
                if (origin is None or origin.kind is OriginKind.FOUND) and thing not in held:
                    lines.append({"application_id": thing[0], "kind": thing[1], "item": item})
    return lines
