"""Who is declined is no person any more, and what was planned and asked stays on record; told once."""

from __future__ import annotations

import asyncio
from contextvars import Context
from datetime import UTC, datetime, timedelta

import pytest
import sqlalchemy as sa

from tests.builders import person
from tests.integration.test_merging import naming, put
from yugum.core.facts import fields_of
from yugum.core.mails import MailKind
from yugum.core.people import CHANGEABLE
from yugum.engine.declined import decline
from yugum.engine.standing import look_again
from yugum.errors import Conflict
from yugum.ports.declined import Declined
from yugum.ports.dockets import ChosenDockets
from yugum.ports.mails import StoredMail
from yugum.storage import tables as t
from yugum.storage.database import PostgresDatabase
from yugum.storage.declined import ON_RECORD
from yugum.storage.people import People

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)
GONE = "gone-1"


def declined() -> Declined:
    who = person(id=GONE, user_name="nia", employee_number="4711")
    return Declined(
        id=GONE,
        user_name="nia",
        display_name="Nia New",
        employee_number="4711",
        author="ines",
        reason="the post is gone",
        at=NOW,
        record=fields_of(who, CHANGEABLE),
    )


async def test_nothing_is_left_of_who_was_declined_but_the_record(
    database: PostgresDatabase,
) -> None:
    async with database.unit() as unit:
        people = unit.people
        assert isinstance(people, People)
        connection = people.connection
        await people.insert([person(id=GONE, user_name="nia", employee_number="4711")])
        await connection.execute(sa.text("SET LOCAL session_replication_role = replica"))
        for column in naming():
            if column.table is not t.people:
                is_docket = column.table is t.dockets
                more = {"state": "cancelled", "verb": "joiner"} if is_docket else {}
                await put(connection, column.table, **{column.name: GONE}, **more)
    async with database.unit() as unit:
        await unit.declined.decline(declined())
    async with database.unit() as unit:
        people = unit.people
        assert isinstance(people, People)
        found = set()
        for column in naming():
            query = sa.select(sa.func.count()).where(column == GONE)
            if await people.connection.scalar(query):
                found.add(column.table.name)
        assert found == ON_RECORD
        count = sa.select(sa.func.count()).select_from(t.accounts)
        assert await people.connection.scalar(count) == 1, "the account found for them is nobody's"
        (line,) = (await unit.declined.page(None, 10)).items
        assert line == declined()
        (docket,) = (await unit.dockets.page(ChosenDockets())).items
        assert docket.subject_name == "Nia New", "what was planned can be looked at"
        assert [d.id for d in await unit.declined.like([("nia", "")])] == [GONE]
        assert [d.id for d in await unit.declined.like([("other", "4711")])] == [GONE]
        assert await unit.declined.like([("other", "")]) == []


@pytest.mark.parametrize("state", ["running", "done", "superseded"])
async def test_nobody_is_declined_for_whom_something_was_carried_out(
    database: PostgresDatabase, state: str
) -> None:
    async with database.unit() as unit:
        people = unit.people
        assert isinstance(people, People)
        await people.insert([person(id=GONE, user_name="nia")])
        await put(people.connection, t.dockets, subject_id=GONE, state=state, verb="joiner")
        with pytest.raises(Conflict, match="carried out"):
            await unit.declined.decline(declined())
        assert (await people.resolve("nia")).id == GONE


async def test_somebody_like_a_new_person_is_found(database: PostgresDatabase) -> None:
    known = person(
        id="p1",
        user_name="abo",
        given_name="Ada",
        family_name="Bo",
        employee_number="1",
        outside_mail="ada@outside.example",
    )
    async with database.unit() as unit:
        await unit.people.insert([known])
        for more, same in (
            ({"employee_number": "1"}, "number"),
            ({"outside_mail": "ada@outside.example"}, "outside address"),
            ({"given_name": "Ada", "family_name": "Bo"}, "name"),
        ):
            (found,) = await unit.people.like([person(id="p2", user_name="new", **more)], {}, NOW)
            assert (found.same, found.user_name, found.new) == (same, "abo", "new")
        new = person(id="p2", user_name="new", given_name="Ada")
        assert await unit.people.like([new], {}, NOW) == []
        await unit.birthdays.put({"p1": "born"})
        (found,) = await unit.people.like([new], {"p2": "born"}, NOW)
        assert (found.same, found.user_name) == ("birthday", "abo")
        namesake = person(id="p2", user_name="new", given_name="Ada", family_name="Bo")
        assert await unit.people.like([namesake], {"p2": "another day"}, NOW) == []
        assert [s.same for s in await unit.people.like([namesake], {}, NOW)] == ["name"]


async def test_of_one_event_one_mail_is_kept(database: PostgresDatabase) -> None:
    def mail(id_: str, event: str | None) -> StoredMail:
        return StoredMail(
            id=id_,
            address="a@b.example",
            subject="s",
            text="t",
            kind=MailKind.NOTICE,
            made_at=NOW,
            event=event,
        )

    async with database.unit() as unit:
        await unit.mails.post([mail("m1", "x"), mail("m2", "x"), mail("m3", "y")])
        await unit.mails.post([mail("m4", "x"), mail("m5", None), mail("m6", None)])
        kept = {m.id for m in (await unit.mails.page("", None, 50)).items}
        assert kept == {"m1", "m3", "m5", "m6"}


async def test_what_was_agreed_to_ends_when_it_is_taken_away(database: PostgresDatabase) -> None:
    async with database.unit() as unit:
        people = unit.people
        assert isinstance(people, People)
        connection = people.connection
        await people.insert([person(id="p1", user_name="abo")])
        await put(connection, t.dockets, id="d1", subject_id="p1", verb="mover", state="done")
        covers = [["crew", "grant", "deck", ""], ["crew", "grant", "shore", ""]]
        more = {"state": "given", "name": "captains", "covers": covers, "ended_at": NOW}
        await put(connection, t.approvals, docket_id="d1", subject_id="p1", **more)
        assert await unit.approvals.given_for("p1") == {
            "captains": {("crew", "grant", "deck", ""), ("crew", "grant", "shore", "")}
        }
        for number, (item, at) in enumerate(
            [("deck", NOW + timedelta(days=1)), ("shore", NOW - timedelta(days=1))]
        ):
            step = f"s{number}"
            known = {"application_id": "crew", "action": "revoke", "item": item, "id": step}
            await put(connection, t.steps, docket_id="d1", subject_id="p1", **known)
            await put(
                connection,
                t.receipts,
                step_id=step,
                docket_id="d1",
                outcome="done",
                at=at,
                took_ms=1,
            )
        left = await unit.approvals.given_for("p1")
        assert left == {"captains": {("crew", "grant", "shore", "")}}, (
            "taken before, then agreed to"
        )


async def test_a_look_that_is_under_way_and_declining_do_not_wait_for_each_other(
    database: PostgresDatabase,
) -> None:
    """A look writes of its subject to the end; who takes that out waits before locking anything."""
    async with database.unit() as unit:
        await unit.people.insert([person(id=GONE, user_name="nia", employee_number="4711")])
        await unit.standing.mark([GONE])

    async def declining() -> None:
        async with database.unit() as unit:
            who = await unit.people.resolve("nia")
            await decline(unit, who, "ines", "the post is gone", NOW)

    async with database.unit() as unit:
        assert GONE in await unit.standing.take(10)
        task = asyncio.create_task(declining(), context=Context())
        await asyncio.sleep(0.3)
        await look_again(unit, [GONE], NOW, "schedule", "first day")
    await asyncio.wait_for(task, 10)
    async with database.unit() as unit:
        assert await unit.people.many([GONE]) == {}
