"""Looking at many together finds of each what looking at each alone finds."""

from __future__ import annotations

import random
from datetime import UTC, datetime, timedelta
from typing import Any

import psycopg
import pytest
from psycopg.types.json import Jsonb

from tests.integration.test_marks import rows, settle
from yugum.core.applications import Application, Profile
from yugum.core.attributes import Shape
from yugum.engine import together
from yugum.ports.applications import Access
from yugum.storage.database import PostgresDatabase

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)
DAY = timedelta(days=1)
LOOKED = NOW - 3 * DAY
CHANGED = NOW - 40 * DAY
"""When what Deck gives changed, for those who begin later only."""
RULES = """{"accounts": {"crew": {"keep": "in_step"}}, "exclusive": {"One of two": {"entitlements": [{"crew": "deck"}, {"crew": "found"}]}},
 "roles": {"Deck": {"when": "department eq \\"Deck\\"", "changes": "later_joiners", "gives": [
  {"application": "crew", "entitlements": ["deck"%s]}, {"application": "rota", "seats": ["planner"]}]},
 "Bridge": {"when": "department eq \\"Bridge\\" and title pr", "gives": [
  {"application": "crew", "entitlements": ["bridge", "radio"]}]},
 "Galley": {"when": "department eq \\"Galley\\"", "gives": [
  {"application": "rota", "settings": {"sign": "{title}"}}]}}}"""
LINES = "SELECT * FROM standing ORDER BY subject_id, application_id, account_id, kind, item, side"
HEADS = "SELECT subject_id, upto_at, shape, leans_on FROM heads ORDER BY 1"
RIGHTS = "SELECT * FROM rights ORDER BY 1, 2"
OWED = "SELECT account_id, kind, due_at, basis, state FROM obligations ORDER BY 1, 2, 3"


async def organisation(database: PostgresDatabase) -> None:
    async with database.unit() as unit:
        for name in ("crew", "rota"):
            profile = Profile(
                close_after_days=7,
                standard_settings={"reply": "yours, {name}"},
                leaver_settings={"reply": "{name} has left"} if name == "crew" else {},
            )
            made = Application(id=name, name=name, kind="scim", profile=profile)
            await unit.applications.put(made, Access(), None)
            shapes = {"title": Shape(), "manager": Shape()}
            await unit.applications.discovered(name, made.capabilities, shapes, {}, NOW)
        await unit.rules.adopt(RULES % "", "", CHANGED - 90 * DAY, "ines", "")
    async with database.unit() as unit:
        await unit.rules.adopt(RULES % ', "mess"', "", CHANGED, "ines", "")


def people(url: str, seed: int) -> None:
    """Some hundred people, most of them alike in all but little."""
    draw = random.Random(seed)

    def mostly(usual: Any, *others: Any, share: float = 0.98) -> Any:
        return usual if draw.random() < share else draw.choice(others)

    with psycopg.connect(url) as c:
        c.execute(
            "TRUNCATE people, subjects, accounts, standing, heads, rights, marks, facts, dockets, decisions, obligations, deviations CASCADE"
        )
        for n in range(900):
            person = f"p{n}"
            begins = mostly(
                None, CHANGED - 9 * DAY, CHANGED + 9 * DAY, NOW - DAY, NOW + DAY, share=0.8
            )
            department = draw.choice(["Deck", "Deck", "Deck", "Bridge", "Galley"])
            title = mostly("Mate", "", "Cook")
            values = {"department": [department.lower()], "title": [title.lower()]}
            c.execute(
                """INSERT INTO people (id, user_name, display_name, department, title, starts, folded,
                   manager_id, access_ends, contract_ends, absent_from) VALUES (%s, %s, %s, %s, %s, %s, %s,
                   %s, %s, %s, %s)""",
                (person, person, person, department, title, begins and begins.date(),
                 Jsonb({k: v for k, v in values.items() if v != [""]}),
                 mostly(None, "p0", "p1") if n > 9 else "p0" if n == 1 else None,
                 (NOW - 9 * DAY) if n == 1 else mostly(None, NOW - DAY, NOW + DAY),
                 mostly(None, (NOW + 9 * DAY).date()), mostly(None, NOW - DAY)),
            )  # fmt: skip
            c.execute("INSERT INTO subjects (id) VALUES (%s) ON CONFLICT DO NOTHING", (person,))
            c.execute("INSERT INTO heads (subject_id, upto_at) VALUES (%s, %s)",
                      (person, mostly(LOOKED, None, NOW - DAY)))  # fmt: skip
            if effective := mostly(None, NOW - 5 * DAY, NOW - DAY, NOW + DAY):
                known = draw.choice([NOW - 2 * DAY, NOW - 9 * DAY])
                c.execute(FACT, (f"f{n}", person, effective, known))
            if draw.random() < 0.02:
                c.execute(DECISION, (f"d{n}", person, NOW - 2 * DAY))
            if draw.random() < 0.02:
                c.execute(
                    DOCKET, (f"k{n}", person, draw.choice(["done", "awaiting", "scheduled"]), NOW)
                )
            for number, application in enumerate(("crew", "rota", "crew")):
                if draw.random() < (0.1, 0.1, 0.9)[number]:
                    continue
                account = f"{draw.randrange(10**6)}-{n}-{number}"
                held = [
                    mostly("deck", "bridge"),
                    *mostly((), ("found",), ("mess", "radio"), ("shanty",), share=0.9),
                ]
                state = mostly("active", "suspended", "deleted", "purged", share=0.8)
                c.execute(
                    """INSERT INTO accounts (id, application_id, person_id, login, external_id, state,
                       kind, entitlements, seats, sessions, settings, recoverable_until, seen_at)
                       VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)""",
                    (account, application, person, account, account,
                     state, mostly("person", "service"),
                     held, draw.choice([[], ["planner"]]), mostly(0, 2), Jsonb(mostly({}, {"sign": "Mate"}) | mostly({"title": title}, {"title": "Cook"}, {})),
                     NOW + DAY if state == "deleted" and draw.random() < 0.5 else None,
                     draw.choice([NOW - 4 * DAY, NOW - DAY / 2])),
                )  # fmt: skip
                for kind, item in (
                    ("account", ""),
                    ("entitlement", mostly(held[0], "shanty", share=0.9)),
                    ("setting", "sign"),
                ):
                    if draw.random() < (0.05 if kind == "setting" else 0.95):
                        c.execute(LEDGER, (account, kind, item, mostly("role", "found"), NOW))
                if draw.random() < 0.02:
                    c.execute(ASKED, (account, application, account, NOW))
                if draw.random() < 0.9:
                    c.execute("INSERT INTO rights (account_id, since_at, until_at) VALUES (%s, %s, %s)",
                              (account, CHANGED - DAY, mostly(None, NOW - 20 * DAY)))  # fmt: skip
        c.execute("DELETE FROM marks")
        c.execute("INSERT INTO marks (subject_id) SELECT id FROM people")


FACT = """INSERT INTO facts (id, person_id, before, after, effective_at, known_at, author)
VALUES (%s, %s, '{}', '{"department": "Deck"}', %s, %s, 'ines')"""
DECISION = """INSERT INTO decisions (id, subject_id, kind, payload, author, reason, made_at)
VALUES (%s, %s, 'grant', '{"application": "crew", "kind": "entitlement", "item": "radio"}', 'ines',
  'stands in', %s)"""
DOCKET = """INSERT INTO dockets (id, subject_id, verb, state, author, made_at, due_at)
VALUES (%s, %s, 'mover', %s, 'ines', now(), %s)"""
ASKED = """INSERT INTO deviations (id, application_id, account_id, kind, item, seen_at)
VALUES (%s, %s, %s, 'attribute', 'title', %s)"""
LEDGER = """INSERT INTO ledger (account_id, kind, item, origin_kind, origin_name, since_at)
VALUES (%s, %s, %s, %s, 'Deck', %s)"""


@pytest.mark.parametrize("seed", [1, 2, 3])
async def test_many_together_are_as_each_alone(
    database: PostgresDatabase, database_url: str, monkeypatch: pytest.MonkeyPatch, seed: int
) -> None:
    await organisation(database)
    shared = []
    of = together.together

    async def counted(*arguments: Any) -> Any:
        found = await of(*arguments)
        shared.append(len(found))
        return found

    monkeypatch.setattr("yugum.engine.standing.together", counted)
    found = []
    for fewest in (10_000, 2):
        monkeypatch.setattr(together, "MANY", fewest)
        people(database_url, seed)
        await settle(database, NOW)
        found.append([rows(database_url, q) for q in (LINES, HEADS, RIGHTS, OWED)])
    alone, many = found
    for one, other in zip(alone, many, strict=True):
        assert one == other
    assert any(row[3] == "attribute" for row in alone[0]), "some are out of step"
    assert sum(shared) > 60, "many have nothing of their own"
