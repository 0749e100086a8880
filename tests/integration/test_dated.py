"""What has a date, a place in line, or another try: obligations, seats, mails, approvals, keys."""

from __future__ import annotations

import asyncio
import random
from collections.abc import Iterable
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any, cast

import psycopg
import pytest

from tests.builders import account, person
from tests.integration.seating import NOBODY_WAITS
from tests.integration.seating import claim as claim_seat
from yugum.core.applications import Application
from yugum.core.approvals import Answer, ApprovalState, AskedPerson
from yugum.core.findings import FindingKind
from yugum.core.forecast import KeptForecast
from yugum.core.licenses import License, WhenEmpty
from yugum.core.mails import MailKind
from yugum.core.obligations import ObligationKind, ObligationState
from yugum.core.seats import Pool, Purchase
from yugum.engine.forecasts import Forecasts
from yugum.engine.mails import Mails
from yugum.engine.rules import Rules as RuleBook
from yugum.errors import InvalidInput, NotFound
from yugum.ports.applications import Access
from yugum.ports.approvals import Approval
from yugum.ports.connectors import Connectors
from yugum.ports.findings import ChosenFindings
from yugum.ports.mails import StoredMail
from yugum.ports.obligations import Obligation
from yugum.ports.operators import Attempt
from yugum.settings import Settings
from yugum.storage.database import PostgresDatabase
from yugum.storage.keys import Keys
from yugum.testing import FixedClock

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)
DAY = timedelta(days=1)


async def people(database: PostgresDatabase, *ids: str) -> None:
    async with database.unit() as unit:
        await unit.applications.put(
            Application(id="crew", name="Crew", kind="scim"), Access(), None
        )
        await unit.people.insert([person(id=i, user_name=i) for i in ids])


def owe(
    subject: str, kind: ObligationKind, due: datetime, account: str | None = None, **more: Any
) -> Obligation:
    return Obligation(
        **{
            "id": f"{account or subject} {kind}",
            "subject_id": subject,
            "account_id": account or subject,
            "kind": kind,
            "due_at": due,
            "basis": "b",
            **more,
        }
    )


async def put(database: PostgresDatabase, *owed: Obligation) -> None:
    async with database.unit() as unit:
        await unit.obligations.put(owed)
        while await unit.standing.take(100):
            continue


async def due(database: PostgresDatabase, now: datetime) -> list[str]:
    """Whose obligations have fallen due, as marks tell."""
    async with database.unit() as unit:
        await unit.obligations.fall_due(now, 100)
        return sorted(await unit.standing.take(100))


async def test_an_obligation_is_due_at_its_moment_and_not_a_second_before(
    database: PostgresDatabase,
) -> None:
    await people(database, "p1", "p2")
    await put(
        database,
        owe("p1", ObligationKind.RECHECK, NOW),
        owe("p2", ObligationKind.REMIND, NOW),
    )
    assert await due(database, NOW - timedelta(seconds=1)) == []
    assert await due(database, NOW) == ["p1"], "a reminder is no work of a docket"
    assert await due(database, NOW) == [], "it is called due once"
    async with database.unit() as unit:
        assert list(await unit.obligations.reminders(NOW, 100)) == ["p2"]
        assert not await unit.obligations.reminders(NOW, 100)


async def test_one_that_ends_makes_room_for_the_next_of_its_kind(
    database: PostgresDatabase,
) -> None:
    await people(database, "p1", "p2")
    old = owe("p1", ObligationKind.CLOSE, NOW, "a1")
    await put(database, old, owe("p2", ObligationKind.RECHECK, NOW))
    new = owe("p1", ObligationKind.CLOSE, NOW + DAY, "a1", id="new")
    for _ in range(2):  # again is the same
        await put(database, new, replace(old, state=ObligationState.CANCELLED))
    async with database.unit() as unit:
        assert [o.id for o in await unit.obligations.of(["p1"])] == ["new"]
        assert await unit.obligations.next_moment(NOW) == NOW + DAY
    assert await due(database, NOW) == ["p2"], "others are left alone"
    assert await due(database, NOW + DAY) == ["p1"]
    async with database.unit() as unit:
        assert await unit.obligations.next_moment(NOW + DAY) is None


async def test_two_workers_never_call_the_same_obligation_due(database: PostgresDatabase) -> None:
    ids = [f"p{n}" for n in range(20)]
    await people(database, *ids)
    await put(database, *(owe(i, ObligationKind.RECHECK, NOW) for i in ids))

    async def take() -> int:
        async with database.unit() as unit:
            found = await unit.obligations.fall_due(NOW, 10)
            await asyncio.sleep(0.1)
            return found

    assert list(await asyncio.gather(take(), take())) == [10, 10]
    async with database.unit() as unit:
        assert set(await unit.standing.take(100)) == set(ids)


# --- seats --------------------------------------------------------------------------------


@pytest.mark.parametrize("seed", range(4))
async def test_a_pool_is_never_overrun_and_the_line_keeps_its_order(
    database: PostgresDatabase, seed: int
) -> None:
    """Claims of any priority and first day, and bought seats, in any order: as a simple model says."""
    dice = random.Random(seed)
    ids = [f"p{n}" for n in range(12)]
    await people(database, *ids)
    bought = 2
    async with database.unit() as unit:
        await unit.seats.put(Pool(id="x", application_id="crew", license="planner", bought=bought))
    days = [None, date(2031, 3, 3), date(2031, 3, 10)]
    ranks = {who: (dice.randrange(3), dice.choice(days)) for who in ids}
    async with database.unit() as unit:
        known = await unit.people.many(ids)
        await unit.people.change([replace(p, starts=ranks[i][1]) for i, (p, _) in known.items()])

    async def claim(who: str) -> int | None:
        async with database.unit() as unit:
            return await claim_seat(unit, f"a-{who}", who, NOW, rank=ranks[who][0])

    held: set[str] = set()
    came: dict[str, int] = {}
    for turn in range(40):
        who = dice.choice(ids)
        if dice.random() < 0.15:
            bought += 1
            pool = Pool(id="x", application_id="crew", license="planner", bought=bought)
            async with database.unit() as unit:
                await unit.seats.put(pool)
            continue
        if who not in held:
            came.setdefault(who, turn)
        line = sorted(came, key=lambda w: (ranks[w][0], ranks[w][1] or date.max, came[w]))
        if who in came and line.index(who) < bought - len(held):
            del came[who]
            held.add(who)
        place = await claim(who)
        assert place == (None if who in held else line.index(who) + 1), (who, held, line, bought)
        async with database.unit() as unit:
            pool = (await unit.seats.pools())["crew", "planner"]
        assert (pool.held, pool.waiting) == (len(held), len(came))
        assert pool.held <= bought


async def test_where_none_is_free_a_license_may_let_nobody_wait_or_be_overrun(
    database: PostgresDatabase,
) -> None:
    await people(database, "p1", "p2", "p3")
    async with database.unit() as unit:
        await unit.seats.put(Pool(id="x", application_id="crew", license="planner", bought=1))
        block, over = License(when_empty=WhenEmpty.BLOCK), License(when_empty=WhenEmpty.OVERRUN)
        assert await claim_seat(unit, "a1", "p1", NOW, block) is None
        assert await claim_seat(unit, "a2", "p2", NOW, block) == NOBODY_WAITS
        assert await claim_seat(unit, "a2", "p2", NOW) == 1
        assert await claim_seat(unit, "a2", "p2", NOW, block) == 1, "who stands in line stays"
        assert await claim_seat(unit, "a3", "p3", NOW, over) is None
        pool = (await unit.seats.pools())["crew", "planner"]
        assert (pool.held, pool.waiting, pool.over) == (2, 1, 1)


async def test_seats_are_there_while_their_term_lasts(database: PostgresDatabase) -> None:
    await people(database, "p1")
    async with database.unit() as unit:
        await unit.seats.put(Pool(id="x", application_id="crew", license="planner", bought=0))
        for count, begins, ends in ((5, None, None), (3, 10, 19), (2, 15, None)):
            days = [date(2031, 3, d) if d else None for d in (begins, ends)]
            bought = Purchase(
                id=f"b{count}", pool_id="x", count=count, begins=days[0], ends=days[1]
            )
            await unit.seats.buy(bought)
        for day, there in ((9, 5), (10, 8), (15, 10), (19, 10), (20, 7)):
            await unit.seats.terms(date(2031, 3, day), NOW)
            pool = (await unit.seats.pools())["crew", "planner"]
            assert pool.bought == there, day
            known = await unit.seats.purchases(["x"])
            assert pool.bought == sum(b.count for b in known if b.counts_on(date(2031, 3, day)))
        assert not await unit.seats.terms(date(2031, 3, 20), NOW), "nothing changes twice"


def forecasts(database: PostgresDatabase, at: datetime) -> Forecasts:
    clock = FixedClock(at)
    return Forecasts(database, clock, RuleBook(database, clock, cast("Connectors", None)))


async def test_what_was_forecast_is_kept_once_a_day_and_told_later(
    database: PostgresDatabase,
) -> None:
    await people(database, "p1", "p2")
    async with database.unit() as unit:
        await unit.seats.put(Pool(id="x", application_id="crew", license="planner", bought=1))
        await unit.seats.buy(Purchase(id="first", pool_id="x", count=1))
        for who in ("p1", "p2"):
            await claim_seat(unit, f"a-{who}", who, NOW)
    first = forecasts(database, NOW)
    assert (await first.of("x")).before is None
    assert await first.keep_all() == 1
    assert await first.keep_all() == 0, "once a day"
    async with database.unit() as unit:
        await unit.seats.buy(Purchase(id="more", pool_id="x", count=4))
    later = forecasts(database, NOW + DAY)
    found = await later.of("x")
    assert found.forecast.short_on is None
    assert found.before == KeptForecast(made_on=NOW.date(), short_on=NOW.date(), lacking=1)


async def test_a_seat_is_asked_about_once_until_it_is_used_again(
    database: PostgresDatabase,
) -> None:
    await people(database, "p1")
    async with database.unit() as unit:
        await unit.accounts.refresh([account("crew", id="a1")], NOW)
        await unit.seats.put(Pool(id="x", application_id="crew", license="planner", bought=1))
        await claim_seat(unit, "a1", "p1", NOW)
        (claim,) = (await unit.seats.holders("x", None, 5)).items
    later = NOW + timedelta(seconds=2)
    async with database.unit() as unit:
        assert list(await unit.questions.ask({claim.id: "one"}, NOW, NOW + DAY)) == [claim.id]
        assert not await unit.questions.ask({claim.id: "two"}, later, NOW + DAY), (
            "another worker has just asked: the link that was sent stays"
        )
        assert (await unit.questions.behind("one")).claim_id == claim.id


async def test_only_pools_that_are_overrun_stay_marked(database: PostgresDatabase) -> None:
    await people(database, "p1", "p2")
    over = License(when_empty=WhenEmpty.OVERRUN)

    async def found() -> list[str]:
        async with database.unit() as unit:
            page = await unit.findings.page(
                NOW, ChosenFindings(kind=FindingKind.SEATS_OVER), cursor=None, limit=5
            )
            return [f.other_login for f in page.items]

    async with database.unit() as unit:
        await unit.seats.put(Pool(id="x", application_id="crew", license="planner", bought=1))
        await claim_seat(unit, "a1", "p1", NOW)
        await unit.seats.mark_over()
    assert await found() == []
    async with database.unit() as unit:
        await claim_seat(unit, "a2", "p2", NOW, over)
    assert await found() == ["1"], "a claim marks it"
    async with database.unit() as unit:
        await unit.seats.mark_over()
    assert await found() == ["1"], "and it stays marked"


async def test_a_seat_of_no_pool_and_a_pool_of_no_seats(database: PostgresDatabase) -> None:
    await people(database, "p1")
    async with database.unit() as unit:
        assert await unit.seats.hold("crew", "planner") is None
        await unit.seats.put(Pool(id="x", application_id="crew", license="planner", bought=0))
        assert await claim_seat(unit, "a1", "p1", NOW) == 1
    async with database.unit() as unit:
        with pytest.raises(NotFound):
            await unit.seats.holders("no-such", None, 10)


# --- mails --------------------------------------------------------------------------------


def mail(number: int) -> StoredMail:
    return StoredMail(
        id=f"m{number}",
        address="mara@ships.example",
        subject="Your account",
        text="Open the link.",
        kind=MailKind.CREDENTIAL,
        sealed=b"cipher",
        made_at=NOW,
    )


async def test_a_mail_goes_out_once_and_what_opens_something_is_erased(
    database: PostgresDatabase, database_url: str
) -> None:
    async with database.unit() as unit:
        await unit.mails.post([mail(n) for n in range(6)])

    async def take() -> list[str]:
        mine = []
        for _ in range(3):
            async with database.unit() as unit:
                taken = await unit.mails.claim()
                await asyncio.sleep(0.05)
                mine += [taken.id] if taken else []
        return mine

    one, two = await asyncio.gather(take(), take())
    assert sorted(one + two) == [f"m{n}" for n in range(6)]
    assert await take() == [], "each waits for its next try"
    async with database.unit() as unit:
        await unit.mails.sent("m0", NOW)
        await unit.mails.failed("m1", "the server is away")
    with psycopg.connect(database_url) as connection:
        rows: dict[str, bytes | None] = dict(
            connection.execute("SELECT id, sealed FROM mails").fetchall()
        )
        waits = connection.execute(
            "SELECT id, retry - now() FROM mails WHERE sent_at IS NULL AND retry > now()"
        ).fetchall()
        connection.execute("UPDATE mails SET retry = now() WHERE id = 'm1'")
    assert rows["m0"] is None
    assert rows["m1"] == b"cipher"
    assert len(waits) == 5
    assert await take() == ["m1"], "what was sent is not sent again"
    async with database.unit() as unit:
        page = await unit.mails.page("", None, 10)
    shown = {m.id: (m.tries, m.problem) for m in page.items}
    assert shown["m1"] == (2, "the server is away")
    assert not hasattr(page.items[0], "sealed"), "no list shows it"


async def test_tries_grow_apart_but_never_beyond_an_hour(
    database: PostgresDatabase, database_url: str
) -> None:
    async with database.unit() as unit:
        await unit.mails.post([mail(1)])
    waits: list[float] = []
    for _ in range(9):
        async with database.unit() as unit:
            taken = await unit.mails.claim()
            assert taken is not None
            await unit.mails.failed(taken.id, "the server is away")
        with psycopg.connect(database_url) as connection:
            row = connection.execute(
                "SELECT extract(epoch FROM retry - now()) / 60 FROM mails"
            ).fetchone()
            connection.execute("UPDATE mails SET retry = now()")
        assert row is not None
        waits.append(round(float(row[0])))
    assert waits == [1, 2, 4, 8, 16, 32, 60, 60, 60]


# --- approvals ----------------------------------------------------------------------------


def approval(number: int, **more: Any) -> Approval:
    made = Approval(
        id=f"ap{number}",
        docket_id="d1",
        subject_id="p1",
        name="owner",
        digest="x",
        asked=(AskedPerson(key="operator:iholm", name="Ines Holm"),),
        everyone=False,
        made_at=NOW,
        remind_at=NOW + DAY,
        expires_at=NOW + 3 * DAY,
    )
    return replace(made, **more)


def answer_of(who: str) -> Answer:
    return Answer(key=who, name=who, agrees=True, note="", at=NOW)


async def marked(database: PostgresDatabase, at: datetime) -> list[tuple[str, str]]:
    async with database.unit() as unit:
        return sorted((a.id, a.state.value) for a in await unit.approvals.remind_or_expire(at))


async def test_an_approval_is_reminded_of_once_then_expires_once(
    database: PostgresDatabase,
) -> None:
    async with database.unit() as unit:
        await unit.approvals.ask([approval(1), approval(2, expires_at=NOW + 9 * DAY)], wait=False)
    assert await marked(database, NOW) == []
    assert await marked(database, NOW + DAY) == [("ap1", "open"), ("ap2", "open")]
    assert await marked(database, NOW + 2 * DAY) == []
    assert await marked(database, NOW + 3 * DAY - timedelta(seconds=1)) == []
    assert await marked(database, NOW + 3 * DAY) == [("ap1", "expired")]
    assert await marked(database, NOW + 4 * DAY) == []
    async with database.unit() as unit:
        assert await unit.approvals.open_for("d1") == 1
        await unit.approvals.answer("ap2", [answer_of("operator:iholm")], ApprovalState.GIVEN, NOW)
        assert await unit.approvals.open_for("d1") == 0
        assert await unit.approvals.given_for("p1") == {}, "no docket of theirs was asked about"
    assert await marked(database, NOW + 20 * DAY) == [], "what is answered does not expire"


async def test_two_who_answer_at_once_are_one_after_the_other(database: PostgresDatabase) -> None:
    async with database.unit() as unit:
        await unit.approvals.ask([approval(1)], wait=False)

    async def answer(who: str) -> list[str]:
        async with database.unit() as unit:
            before = await unit.approvals.one("ap1")
            given = [*before.answers, answer_of(who)]
            await asyncio.sleep(0.05)
            await unit.approvals.answer("ap1", given, ApprovalState.OPEN, NOW)
            return [a.key for a in given]

    both = await asyncio.gather(answer("a"), answer("b"))
    assert sorted(map(len, both)) == [1, 2], "the second sees what the first said"


# --- requests that are repeated -----------------------------------------------------------


async def test_of_requests_with_one_key_one_is_the_first(database: PostgresDatabase) -> None:
    async def begin(fingerprint: str) -> bool:
        async with database.unit() as unit:
            first = await unit.idempotency.begin("op", "key", fingerprint, 30) is None
            await asyncio.sleep(0.05)
            return first

    firsts = await asyncio.gather(*(begin("f") for _ in range(5)))
    assert firsts.count(True) == 1
    async with database.unit() as unit:
        assert await unit.idempotency.begin("other", "key", "f", 30) is None, "keys are one's own"
        await unit.idempotency.end("op", "key", 201, {"id": 7})
    async with database.unit() as unit:
        await unit.idempotency.drop("op", "key")  # an answered one stays
        row = await unit.idempotency.begin("op", "key", "f", 30)
    assert row is not None
    assert (row.status, row.reply) == (201, {"id": 7})


async def test_the_key_of_a_request_whose_process_died_is_free_again(
    database: PostgresDatabase,
) -> None:
    async def begin(fingerprint: str, seconds: float) -> bool:
        async with database.unit() as unit:
            return await unit.idempotency.begin("op", "key", fingerprint, seconds) is None

    assert await begin("f", 0.5)
    assert not await begin("f", 0.5), "it may still run"
    async with database.unit() as unit:
        await unit.idempotency.hold("op", "key", 1.5)
    await asyncio.sleep(0.7)
    assert not await begin("f", 30), "it has said that it runs"
    await asyncio.sleep(1)
    assert not await begin("other", 30), "another request has another key"
    assert await begin("f", 30)
    async with database.unit() as unit:
        await unit.idempotency.end("op", "key", 201, {"id": 7})
        await unit.idempotency.forget_old(1)
    assert not await begin("f", 30), "it is kept long enough"
    async with database.unit() as unit:
        await unit.idempotency.forget_old(0)
    assert await begin("f", 30)


async def test_attempts_to_sign_in_are_counted_before_they_are_tried(
    database: PostgresDatabase,
) -> None:
    async def attempt() -> Attempt:
        async with database.unit() as unit:
            return await unit.operators.attempt({"vera 10.0.0.1": 3, "* 10.0.0.1": 9}, 15)

    at_once = await asyncio.gather(*(attempt() for _ in range(12)))
    assert sum(bool(a.ids) for a in at_once) == 3, "all at once are as one after the other"
    assert all(a.wait > 60 for a in at_once if not a.ids)
    async with database.unit() as unit:
        elsewhere = await unit.operators.attempt({"vera 10.0.0.2": 3}, 15)
        assert elsewhere.ids, "one address locks nobody out elsewhere"
        first = next(a for a in at_once if a.ids)
        await unit.operators.forget(first.ids, "vera 10.0.0.1")
    assert (await attempt()).ids, "who knew the password begins anew"


async def test_what_is_wrong_with_one_mail_stops_no_other(
    database: PostgresDatabase, tmp_path: Path
) -> None:
    class Mailer:
        async def send(self, mail_id: str, address: str, subject: str, text: str) -> None:
            if mail_id == "bad":
                raise UnicodeEncodeError("ascii", subject, 0, 1, "no header")

    async with database.unit() as unit:
        await unit.mails.post(
            [
                StoredMail(
                    id=i,
                    address="a@morrow.example",
                    subject=i,
                    text="text",
                    kind=MailKind.NOTICE,
                    made_at=NOW,
                )
                for i in ("bad", "good")
            ]
        )
    keys = Keys.load(tmp_path / "keys.json")
    mails = Mails(database, FixedClock(NOW), keys, Settings(), Mailer())
    assert await mails.deliver() == 1
    async with database.unit() as unit:
        found = {m.id: m for m in (await unit.mails.page("", None, 10)).items}
    assert found["good"].sent_at == NOW
    assert "UnicodeEncodeError" in found["bad"].problem


BAD: Iterable[tuple[str, Any]] = [
    ("user_name", "nul\x00"),
    ("display_name", "\x00"),
    ("title", "lone \ud800"),
]


@pytest.mark.parametrize(("field", "value"), BAD)
async def test_what_no_table_takes_is_refused_and_nothing_is_kept(
    database: PostgresDatabase, field: str, value: str
) -> None:
    async def insert() -> None:
        async with database.unit() as unit:
            await unit.people.insert([person(id="good", user_name="good")])
            await unit.people.insert([person(**{field: value})])

    with pytest.raises((InvalidInput, UnicodeEncodeError)):
        await insert()
    async with database.unit() as unit:
        assert await unit.people.many(["good"]) == {}
