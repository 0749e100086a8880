"""People: who they are, what they hold and why, and their lifeline."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from yugum.core.accounts import AccountState
from yugum.core.dates import parse_day
from yugum.core.facts import difference, from_document
from yugum.core.lifeline import Bar, Change, future, past
from yugum.core.nesting import held_through
from yugum.core.people import (
    CHANGEABLE,
    FILTER_ATTRIBUTES,
    Person,
    changed,
    folded,
    full_name,
    state_at,
    term_end,
)
from yugum.core.procedures import ready_steps
from yugum.engine.context import load_subjects, load_world
from yugum.engine.events import make_event
from yugum.engine.obligations import look_again, renew_obligations
from yugum.errors import Conflict, InvalidInput, PlanStale
from yugum.ports import Clock, Database, ListPage
from yugum.wire.filters import parse_filter

DAYS = ("starts", "last_working_day", "contract_ends")


class People:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def page(
        self, *, filter_text: str, query: str, state: str, cursor: str | None, limit: int
    ) -> ListPage:
        condition = parse_filter(filter_text, FILTER_ATTRIBUTES) if filter_text else None
        now = await self._clock.now()
        async with self._database.unit() as unit:
            return await unit.people.page(
                now, condition=condition, query=query, state=state, cursor=cursor, limit=limit
            )

    async def create(self, rows: Sequence[Mapping[str, Any]], author: str) -> list[Person]:
        """New people; all are checked before any is stored.

        Days may be written as operators do (``Monday``). Managers are named by anything
        `resolve` takes.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            people = []
            ids = {row["user_name"]: str(uuid.uuid4()) for row in rows}
            bosses = {str(row["manager"]) for row in rows if row.get("manager")} - set(ids)
            known = await unit.people.by_keys(bosses, bosses)
            ids_of = {k: r["id"] for r in known for k in (r["user_name"], r["employee_number"])}
            installation = await unit.views.installation()
            zone = installation["zone"] if installation else "UTC"
            for row in rows:
                fields = {k: v for k, v in row.items() if k != "manager" and v not in (None, "")}
                fields.setdefault("time_zone", zone)
                for name in DAYS:
                    if fields.get(name):
                        fields[name] = parse_day(
                            str(fields[name]), now, fields["time_zone"]
                        ).isoformat()
                if row.get("manager"):
                    name = str(row["manager"])
                    found = ids.get(name) or ids_of.get(name)
                    fields["manager_id"] = found or (await unit.people.resolve(name)).id
                base = Person(id=ids[row["user_name"]], user_name=row["user_name"])
                person = changed(base, from_document(fields))
                if person.contract_ends and person.access_ends is None:
                    ends = term_end(person.contract_ends, person.time_zone)
                    person = changed(person, {"access_ends": ends})
                if not person.display_name:
                    person = changed(
                        person,
                        {"display_name": f"{person.given_name} {person.family_name}".strip()},
                    )
                people.append(person)
            taken = await unit.people.logins_taken([p.user_name for p in people])
            if len(ids) < len(people):
                raise InvalidInput("A login is named twice.", place="user_name")
            if taken:
                raise Conflict(
                    f"The login {min(taken)} is taken.",
                    place="user_name",
                    remedy="Choose another one, for example with a number.",
                )
            await unit.people.insert(people)
            await renew_obligations(unit, [p.id for p in people], now)
            await unit.audit.add(
                [
                    make_event(now, author, "person.created", p.id, {"user_name": p.user_name})
                    for p in people
                ]
            )
            return people

    async def change(
        self, who: str, changes: Mapping[str, Any], rev: int | None, author: str, reason: str
    ) -> tuple[Person, int]:
        """Correct fields without a move; access follows with the next plan.

        Raises:
            PlanStale: ``rev`` is not the person's revision any more.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            before = await unit.people.resolve(who)
            _, current = (await unit.people.many([before.id]))[before.id]
            if rev is not None and rev != current:
                raise PlanStale(
                    "The person was changed by somebody else meanwhile.",
                    remedy="Load the person again and repeat the change.",
                )
            if "access_ends" in changes:
                raise InvalidInput(
                    "The end of access is set by a leaver plan.",
                    place="access_ends",
                    remedy=f"Use: yugum leaver {before.user_name} --at DATE.",
                )
            after = changed(before, from_document(changes))
            was, becomes = difference(before, after)
            if becomes:
                await unit.people.change([after])
                await unit.people.record(
                    [
                        {
                            "id": str(uuid.uuid4()),
                            "person_id": after.id,
                            "effective_at": now,
                            "known_at": now,
                            "before": was,
                            "after": becomes,
                            "author": author,
                            "reason": reason,
                            "docket_id": None,
                        }
                    ]
                )
                subjects, world = await renew_obligations(unit, [after.id], now)
                if ready_steps(subjects[after.id], world, now):
                    basis = "a step need not wait any longer"
                    await look_again(unit, [after.id], now, author, basis)
                payload = {"before": was, "after": becomes}
                await unit.audit.add([make_event(now, author, "person.changed", after.id, payload)])
            return after, current + bool(becomes)

    async def merge(self, keep: str, gone: str, author: str, reason: str) -> Person:
        """Make one person of two who are the same: everything of ``gone`` becomes ``keep``'s.

        Fields that are empty are filled from the other, among them the number a source knows. A
        second account in an application stays, and is the person's like the first.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            person = await unit.people.resolve(keep)
            other = await unit.people.resolve(gone)
            if person.id == other.id:
                raise InvalidInput("These are one person already.", place="other")
            fields = {
                name: getattr(other, name)
                for name in CHANGEABLE
                if name != "user_name"
                and getattr(person, name) in (None, "")
                and getattr(other, name) not in (None, "")
            }
            if fields.get("manager_id") == person.id:
                del fields["manager_id"]
            moved = await unit.people.merge(person.id, other.id)
            merged = changed(person, fields) if fields else person
            await unit.people.change([merged])
            await renew_obligations(unit, [person.id], now)
            payload = {
                "gone": other.user_name,
                "number": other.employee_number,
                "accounts": moved,
                "filled": sorted(fields),
                "reason": reason,
            }
            await unit.audit.add([make_event(now, author, "person.merged", person.id, payload)])
            return merged

    async def show(self, who: str) -> dict[str, Any]:
        """One person over all applications: accounts, what is held and why, what comes next."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            person = await unit.people.resolve(who)
            world = await load_world(unit)
            known = await unit.accounts.known([person.id])
            subjects = await load_subjects(unit, {person.id: person}, known, now)
            accounts = known.accounts[person.id]
            ids = [a.id for a in accounts]
            history = await unit.accounts.history(ids)
            decisions = await unit.decisions.page(person.id, None, 50)
            obligations = await unit.obligations.of(person.id)
            dockets = await unit.dockets.page(subject_id=person.id, limit=20)
            seats = await unit.seats.held_by([person.id])
            facts = await unit.people.facts_of(person.id)
            manager = None
            if person.manager_id:
                found = await unit.people.many([person.manager_id])
                manager = found[person.manager_id][0] if person.manager_id in found else None
        states: dict[str, list[Change]] = {}
        for row in history:
            if row["kind"] == "state":
                change = Change(row["from_at"], AccountState(row["item"]))
                states.setdefault(row["account_id"], []).append(change)
        successor = subjects[person.id].successor
        reasons = {d["id"]: d["reason"] for d in decisions.items}
        return {
            "person": person,
            "rev": known.revisions[person.id],
            "state": state_at(person, now).value,
            "now": now,
            "manager": {"id": manager.id, "name": full_name(manager)} if manager else None,
            "successor": {"id": successor.person.id, "name": full_name(successor.person)}
            if successor
            else None,
            "roles": [
                {"name": r.name, "when": r.when_text} for r in world.rules.roles_of(folded(person))
            ],
            "accounts": [
                {
                    "account": a,
                    "application": world.applications[a.application_id],
                    "holdings": _holdings(
                        a, known.ledger, reasons, world.applications[a.application_id].nested
                    ),
                    "bars": past(states.get(a.id, ()), now)
                    + future(a, person, world.applications[a.application_id], now),
                }
                for a in accounts
            ],
            "coming": _coming(person, world, {a.application_id for a in accounts}, now),
            "seats": seats,
            "decisions": decisions.items,
            "obligations": obligations,
            "dockets": dockets.items,
            "facts": facts,
        }


def _holdings(
    account: Any,
    ledger: Mapping[Any, Any],
    reasons: Mapping[str, str],
    nested: Mapping[str, Sequence[str]],
) -> list[dict[str, str]]:
    """Everything the account holds, each with where it comes from.

    What is held through other groups (kind ``nested``) tells the path and where it is cut.
    """
    rows = []
    held = [("entitlement", e) for e in sorted(account.entitlements)]
    held += [("seat", s) for s in sorted(account.seats)]
    for kind, item in held:
        origin = ledger.get((account.id, kind, item))
        because = "found there, no rule gave it"
        if origin is not None and origin.kind.value == "role":
            because = f"role {origin.name}"
        elif origin is not None and origin.kind.value == "decision":
            because = f"exception: {reasons.get(origin.name, origin.name)}"
        rows.append({"kind": kind, "item": item, "because": because})
    for item, ways in sorted(held_through(account.entitlements, nested).items()):
        paths = ", ".join(" → ".join(way) for way in ways)
        first = " and ".join(way[0] for way in ways)
        because = f"{paths}; ends when {first} {'is' if len(ways) == 1 else 'are'} taken away"
        rows.append({"kind": "nested", "item": item, "because": because})
    return rows


def _coming(person: Person, world: Any, have: set[str], now: datetime) -> list[dict[str, Any]]:
    """Applications in which the person will get an account, with hatched bars."""
    given = {
        g.application_id
        for role in world.rules.roles_of(folded(person))
        for g in role.gives
        if g.application_id in world.applications and g.application_id not in have
    }
    result = []
    for application_id in sorted(given):
        application = world.applications[application_id]
        bars: list[Bar] = future(None, person, application, now)
        if bars:
            result.append({"application": application, "bars": bars})
    return result
