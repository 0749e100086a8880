"""Trying rules against real PostgreSQL: the same as asking about each person one by one."""

from __future__ import annotations

import random
from datetime import UTC, datetime, timedelta

import pytest

from yugum.core.accounts import Account, AccountState, HoldingKind
from yugum.core.applications import Application
from yugum.core.decisions import Origin, OriginKind
from yugum.core.people import Person, PersonState, folded, state_at
from yugum.core.roles import Rules
from yugum.engine.trials import Stock, Thing, things_of, try_rules
from yugum.errors import NotFound
from yugum.ports.applications import Access
from yugum.storage.database import PostgresDatabase
from yugum.wire.rulebook import rules_from
from yugum.wire.rules import RulesDocument

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)
NO_STOCK = Stock({}, frozenset())
DEPARTMENTS = ("Deck", "Safety", "Finance", "")
TITLES = ("Bosun", "Officer", "")


def rules(version: int, **roles: tuple[str, str, list[str]]) -> Rules:
    document = {
        name: {"when": when, "gives": [{"application": app, "entitlements": items}]}
        for name, (when, app, items) in roles.items()
    }
    return rules_from(RulesDocument.model_validate({"roles": document}), version)


BEFORE = rules(
    1,
    Deck=('department eq "Deck"', "crew", ["deck", "rosters"]),
    Bosun=('title eq "Bosun"', "crew", ["radio"]),
    Safety=('department eq "Safety"', "log", ["cases"]),
)
AFTER = rules(
    2,
    Deck=('department eq "Deck" and title pr', "crew", ["deck", "night"]),
    Bosun=('title eq "Bosun"', "crew", ["radio"]),
    Safety=('department ne "Finance"', "log", ["cases"]),
)


async def populated(database: PostgresDatabase) -> tuple[list[Person], dict[str, list[Account]]]:
    rng = random.Random(6)
    people, accounts, ledger = [], {}, []
    for n in range(120):
        ends = rng.choice((None, None, NOW - timedelta(days=1), NOW + timedelta(days=9)))
        person = Person(
            id=f"p{n:03}",
            user_name=f"u{n}",
            display_name=f"U {n}",
            department=rng.choice(DEPARTMENTS),
            title=rng.choice(TITLES),
            employee_number=f"{7000 + n}",
            access_ends=ends,
        )
        people.append(person)
        mine = []
        for app in ("crew", "log"):
            if rng.random() < 0.3:
                continue
            names = ("deck", "rosters", "radio", "cases", "night")
            held = frozenset(e for e in names if rng.random() < 0.5)
            made = Account(
                id=f"{app}-{n}",
                application_id=app,
                person_id=person.id,
                login=f"u{n}",
                external_id=f"{app}{n}",
                state=rng.choice((AccountState.ACTIVE, AccountState.PURGED, AccountState.ACTIVE)),
                entitlements=held,
            )
            mine.append(made)
            ledger += [
                ((made.id, HoldingKind.ENTITLEMENT, e), Origin(OriginKind.ROLE, "x"))
                for e in sorted(held)
                if rng.random() < 0.5
            ]
        accounts[person.id] = mine
    async with database.unit() as unit:
        for app in ("crew", "log"):
            await unit.applications.put(Application(id=app, name=app, kind="scim"), Access(), None)
        await unit.people.insert(people)
        await unit.accounts.refresh([a for mine in accounts.values() for a in mine], NOW)
        await unit.accounts.adopt(ledger, NOW)
    return people, accounts


async def test_a_trial_counts_what_asking_each_person_counts(database: PostgresDatabase) -> None:
    people, accounts = await populated(database)
    async with database.unit() as unit:
        trial = await try_rules(unit, BEFORE, AFTER, NOW, NO_STOCK)
        ruled = set((await unit.accounts.known([p.id for p in people])).ledger)
    gained: dict[Thing, int] = {}
    lost: dict[Thing, int] = {}
    touched = set()
    for person in people:
        if state_at(person, NOW) is PersonState.LEFT:
            continue
        old = things_of(BEFORE.roles_of(folded(person)), BEFORE, None)
        new = things_of(AFTER.roles_of(folded(person)), AFTER, None)
        mine = {a.application_id: a for a in accounts[person.id] if a.state != "purged"}
        for thing in new.keys() - old.keys():
            app, kind, item = thing
            have = mine.get(app)
            if have is None or (kind == "entitlement" and item not in have.entitlements):
                gained[thing] = gained.get(thing, 0) + 1
                touched.add(person.id)
        for thing in old.keys() - new.keys():
            app, kind, item = thing
            have = mine.get(app)
            if have is not None and (have.id, kind, item) in ruled and item in have.entitlements:
                lost[thing] = lost.get(thing, 0) + 1
                touched.add(person.id)
    assert {t: x.gained for t, x in trial.lines.items() if x.gained} == gained
    assert {t: x.lost for t, x in trial.lines.items() if x.lost} == lost
    assert set(trial.people) == touched
    assert gained
    assert lost
    assert trial.combinations <= len(DEPARTMENTS) * len(TITLES)
    assert all(len(x.samples) <= 5 for x in trial.lines.values())


async def test_the_same_rules_change_nothing(database: PostgresDatabase) -> None:
    await populated(database)
    async with database.unit() as unit:
        trial = await try_rules(unit, AFTER, AFTER, NOW, NO_STOCK)
    assert (trial.gained, trial.lost, dict(trial.people)) == (0, 0, {})
    assert trial.looked_at > 50


async def test_a_trial_among_some_is_that_part_of_the_whole(database: PostgresDatabase) -> None:
    """Parts that have nobody in common add up to the trial on everybody, however they are named."""
    await populated(database)
    async with database.unit() as unit:
        whole = await try_rules(unit, BEFORE, AFTER, NOW, NO_STOCK)
        logins = [f"u{n}" for n in range(0, 120, 2)]
        numbers = [f"{7000 + n}" for n in range(1, 120, 2)]
        parts = [await try_rules(unit, BEFORE, AFTER, NOW, NO_STOCK, w) for w in (logins, numbers)]
        twice = await try_rules(unit, BEFORE, AFTER, NOW, NO_STOCK, [*logins, "7000", "u2"])
        with pytest.raises(NotFound, match="'u999'"):
            await try_rules(unit, BEFORE, AFTER, NOW, NO_STOCK, ["u1", "u999"])
    assert {p for part in parts for p in part.people} == set(whole.people)
    assert all(part.people for part in parts)
    for count in ("looked_at", "gained", "lost"):
        assert sum(getattr(p, count) for p in parts) == getattr(whole, count)
        assert getattr(twice, count) == getattr(parts[0], count)
