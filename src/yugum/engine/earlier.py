"""Somebody as they were at a moment of the past."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from yugum.core.facts import fields_of
from yugum.core.people import CHANGEABLE, OWN, Person
from yugum.core.then import accounts_then, fields_then
from yugum.engine.context import load_applications
from yugum.ports.units import UnitOfWork

MOST = 10_000
"""Changes of one person that are looked through: nobody has as many."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownThen:
    """An account as it was last seen then, with what it held."""

    application_name: str
    login: str
    state: str
    entitlements: Sequence[str]
    seats: Sequence[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class PersonThen:
    """Fields that had a value then, a manager by name, and the accounts that were known."""

    id: str
    display_name: str
    at: datetime
    fields: Mapping[str, str]
    accounts: Sequence[ShownThen]


async def person_then(unit: UnitOfWork, person: Person, at: datetime) -> PersonThen:
    """A person as they were at a moment, as far as it is known today."""
    facts = await unit.people.facts_of(person.id, MOST)
    accounts = {a.id: a for a in (await unit.accounts.known([person.id])).accounts[person.id]}
    history = await unit.accounts.history(list(accounts))
    applications = await load_applications(unit)
    own = (f"{OWN}{name}" for name, _ in person.own)
    changed = (name for f in facts for name in (*f.before, *f.after))
    now = fields_of(person, dict.fromkeys((*CHANGEABLE, *own, *changed)))
    fields = fields_then(now, facts, at)
    if boss := fields.pop("manager_id", ""):
        found = await unit.people.many([boss])
        fields["manager"] = found[boss][0].display_name if boss in found else boss
    return PersonThen(
        id=person.id,
        display_name=person.display_name,
        at=at,
        fields=fields,
        accounts=[
            ShownThen(
                application_name=applications[accounts[a.account_id].application_id].name,
                login=accounts[a.account_id].login,
                state=a.state,
                entitlements=a.entitlements,
                seats=a.seats,
            )
            for a in accounts_then(history, at)
        ],
    )
