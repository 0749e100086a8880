"""Leases, the journal's epoch check, seats under contention, the audit log: on real PostgreSQL."""

from __future__ import annotations

import asyncio
import uuid
from contextvars import Context
from datetime import UTC, datetime, timedelta
from typing import Any

import psycopg
import pytest

from tests.builders import account, person
from tests.integration.seating import claim as claim_seat
from yugum.cluster import Cluster
from yugum.core.accounts import HoldingKind
from yugum.core.actions import NOT_SHOWN, Action, Phase
from yugum.core.applications import Application
from yugum.core.causes import JoinerCause
from yugum.core.decisions import Origin, OriginKind
from yugum.core.dockets import Inputs, Outcome, Step, StepState
from yugum.core.plans import NO_NOTES, PlannedStep, step_document
from yugum.core.seats import Pool
from yugum.core.verbs import Verb
from yugum.engine.audit import AuditLog, Sealer, verify
from yugum.engine.events import make_event
from yugum.engine.whom import people_named
from yugum.errors import Ambiguous, Conflict, InvalidInput, NotFound
from yugum.ports.applications import Access
from yugum.ports.journal import Entry
from yugum.ports.leases import Lease
from yugum.ports.plans import NewPlan
from yugum.ports.views import Installation
from yugum.storage.database import PostgresDatabase, migrate
from yugum.storage.keys import Keys, rotate
from yugum.testing import FixedClock

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)


async def docket(database: PostgresDatabase, count: int = 1) -> tuple[Lease, list[Step]]:
    """A person with a running docket of ``count`` grants, under a lease of worker w1."""
    async with database.unit() as unit:
        await unit.applications.put(
            Application(id="crew", name="Crew", kind="scim"), Access(), None
        )
        await unit.people.insert([person()])
        steps = [
            PlannedStep(
                application_id="crew",
                account_id="a-crew",
                action=Action.GRANT,
                item=f"g{n}",
                before="",
                after="",
                reason="",
                origin=Origin(OriginKind.ROLE, "Deck"),
            )
            for n in range(count)
        ]
        plan = NewPlan(
            id=str(uuid.uuid4()),
            batch_id="b",
            subject_id="p1",
            verb=Verb.JOINER,
            cause=JoinerCause(),
            steps=[step_document(s) for s in steps],
            notes=NO_NOTES,
            inputs=Inputs(person=1, accounts={}, rules=0),
            digest="d",
            due_at=NOW,
            made_at=NOW,
            author="ines",
        )
        await unit.plans.keep([plan])
        await unit.plans.confirm("b", now=NOW, reference="", reason="", undoes=None)
        await unit.leases.wake(["p1"], priority=5)
    async with database.unit() as unit:
        (lease,) = await unit.leases.claim("w1", 10, 30)
        (due,) = await unit.dockets.due(["p1"], NOW)
        assert not due.stale
        await unit.dockets.begin([due.docket.id], NOW)
        return lease, list(await unit.dockets.open_steps(["p1"]))


def receipt(step: Step, epoch: int, **more: Any) -> Entry:
    mine = account(entitlements=frozenset({step.item}), person_id="p1")
    return Entry(
        step=step,
        epoch=epoch,
        state=StepState.DONE,
        attempts=1,
        outcome=Outcome.DONE,
        found=NOT_SHOWN,
        account=mine,
        origins=[(("a-crew", HoldingKind.ENTITLEMENT, step.item), step.origin)],
        **more,
    )


async def test_receipt_projection_ledger_and_history_commit_together(
    database: PostgresDatabase,
) -> None:
    lease, (step,) = await docket(database)
    async with database.unit() as unit:
        assert await unit.journal.write([receipt(step, lease.epoch)], [], NOW) == {step.id}
    async with database.unit() as unit:
        known = await unit.accounts.known(["p1"])
        assert known.accounts["p1"][0].entitlements == {"g0"}
        assert known.ledger["a-crew", HoldingKind.ENTITLEMENT, "g0"] == Origin(
            OriginKind.ROLE, "Deck"
        )
        kinds = {(h.kind, h.item) for h in await unit.accounts.history(["a-crew"])}
        assert kinds == {("state", "active"), ("entitlement", "g0")}
        assert [d.id for d in await unit.dockets.finish(["p1"], NOW)] == [step.docket_id]
        done = await unit.dockets.done_steps(step.docket_id)
    assert done[0].outcome is Outcome.DONE


async def test_people_are_named_in_many_ways_and_never_taken_for_another(
    database: PostgresDatabase,
) -> None:
    names = {"p1": ("ada", "100"), "p2": ("bo", "200"), "p3": ("300", "301"), "p4": ("di", "300")}
    async with database.unit() as unit:
        await unit.people.insert(
            [
                person(id=i, user_name=login, employee_number=number, display_name=f"{login} Moss")
                for i, (login, number) in names.items()
            ]
        )
        asked = ["p1", "BO", "200", "di", "Ada Moss", "301"]
        found = await people_named(unit, asked)
        assert [found[a].id for a in asked] == ["p1", "p2", "p2", "p4", "p1", "p3"]
        with pytest.raises(Ambiguous):  # one's login, another's number
            await people_named(unit, ["p1", "300"])
        with pytest.raises(NotFound):
            await people_named(unit, ["p1", "nobody"])


async def test_a_worker_that_lost_its_lease_writes_nothing(database: PostgresDatabase) -> None:
    lease, (step,) = await docket(database)
    async with database.unit() as unit:
        await unit.leases.release([lease])
        await unit.leases.wake(["p1"], priority=5)
    async with database.unit() as unit:
        (later,) = await unit.leases.claim("w2", 10, 30)
    assert later.epoch == lease.epoch + 1
    async with database.unit() as unit:
        assert await unit.journal.write([receipt(step, lease.epoch)], [], NOW) == set()
    async with database.unit() as unit:
        assert (await unit.accounts.known(["p1"])).accounts["p1"] == []
        assert await unit.journal.write([receipt(step, later.epoch)], [], NOW) == {step.id}


async def test_a_claim_waits_for_a_journal_that_is_being_written(
    database: PostgresDatabase,
) -> None:
    """The epoch check and the write are one: no claim can slip in between."""
    lease, (step,) = await docket(database)
    async with database.unit() as first:
        await first.journal.write([receipt(step, lease.epoch)], [], NOW)

        async def claim() -> int:
            async with database.unit() as second:
                await second.leases.wake(["p1"], priority=5)
                return len(await second.leases.claim("w2", 10, 30))

        claiming = asyncio.create_task(claim(), context=Context())  # as from another process
        await asyncio.sleep(0.3)
        assert not claiming.done()
    assert await claiming == 0  # w1's lease is still good


async def test_a_bad_row_fails_its_own_step_only(database: PostgresDatabase) -> None:
    from yugum.engine.work.journal import Journal

    lease, steps = await docket(database, 3)
    journal = Journal(database, FixedClock(NOW), "test", lambda: 0.05)
    entries = [receipt(s, lease.epoch) for s in steps]
    entries[1].account = account(application_id="nowhere", id="bad")
    results = await asyncio.gather(*(journal.write(e) for e in entries), return_exceptions=True)
    assert [isinstance(r, Exception) for r in results] == [False, True, False]
    async with database.unit() as unit:
        left = await unit.dockets.open_steps(["p1"])
    assert [s.item for s in left] == ["g1"]


async def test_an_intent_does_not_wait_until_receipts_are_gathered(
    database: PostgresDatabase,
) -> None:
    from dataclasses import replace

    from yugum.engine.work.journal import Journal

    lease, (one, two) = await docket(database, 2)
    gather = asyncio.Event()

    class Lingering(Journal):
        """Receipts wait here until the test lets them go."""

        async def _flush(self, entries: Any) -> Any:
            if any(e.state is StepState.DONE for e in entries):
                await gather.wait()
            return await super()._flush(entries)

    journal = Lingering(database, FixedClock(NOW), "test", lambda: 0.05)
    receiving = asyncio.create_task(journal.write(receipt(one, lease.epoch)))
    await asyncio.sleep(0.1)
    intent = replace(receipt(two, lease.epoch), state=StepState.INTENT, account=None, origins=[])
    async with asyncio.timeout(5):
        await journal.write(intent)
    assert not receiving.done()
    gather.set()
    await receiving
    async with database.unit() as unit:
        (left,) = await unit.dockets.open_steps(["p1"])
    assert (left.item, left.state) == (two.item, StepState.INTENT)


async def test_a_finished_step_is_not_written_again(database: PostgresDatabase) -> None:
    lease, (step,) = await docket(database)
    for wanted in ({step.id}, set()):
        async with database.unit() as unit:
            assert await unit.journal.write([receipt(step, lease.epoch)], [], NOW) == wanted


async def test_an_unfinished_lease_is_recovered_after_its_end_only(
    database: PostgresDatabase,
) -> None:
    await docket(database)
    async with database.unit() as unit:
        assert await unit.leases.recover() == 0
    async with database.unit() as unit:
        await unit.leases.renew("w1", ["p1"], 0.1)
    await asyncio.sleep(0.2)
    async with database.unit() as unit:
        assert await unit.leases.renew("w1", ["p1"], 30) == []
        assert await unit.leases.recover() == 1
        assert len(await unit.leases.claim("w2", 10, 30)) == 1


async def test_two_claims_share_out_and_the_urgent_go_first(database: PostgresDatabase) -> None:
    people = [person(id=f"p{n}", user_name=f"u{n}") for n in range(30)]
    async with database.unit() as unit:
        await unit.people.insert(people)
        await unit.leases.wake([p.id for p in people], priority=5)
        await unit.leases.wake(["p17"], priority=0)

    async def claim(worker: str) -> list[str]:
        async with database.unit() as unit:
            leases = await unit.leases.claim(worker, 15, 30)
            await asyncio.sleep(0.05)
            return [lease.subject_id for lease in leases]

    one, two = await asyncio.gather(claim("w1"), claim("w2"))
    assert len(set(one) | set(two)) == 30
    async with database.unit() as unit:
        await unit.leases.wake(["p1"], priority=5)
    async with database.unit() as unit:
        assert await unit.leases.claim("w3", 10, 30) == []


async def test_writers_never_take_the_same_last_seat(database: PostgresDatabase) -> None:
    async with database.unit() as unit:
        await unit.applications.put(
            Application(id="crew", name="Crew", kind="scim"), Access(), None
        )
        await unit.seats.put(Pool(id="x", application_id="crew", license="planner", bought=3))
        await unit.people.insert([person(id=f"p{n}", user_name=f"u{n}") for n in range(10)])

    async def claim(n: int) -> int | None:
        async with database.unit() as unit:
            return await claim_seat(unit, f"a{n}", f"p{n}", NOW)

    places = await asyncio.gather(*(claim(n) for n in range(10)))
    assert places.count(None) == 3
    assert sorted(p for p in places if p is not None) == list(range(1, 8))
    waiting = [n for n, p in enumerate(places) if p is not None]
    first = next(n for n in waiting if places[n] == 1)
    last = next(n for n in waiting if places[n] == 7)
    async with database.unit() as unit:
        await unit.seats.put(Pool(id="x", application_id="crew", license="planner", bought=4))
    assert await claim(last) == 7  # whoever comes later in line is not served before
    assert await claim(first) is None


async def test_the_audit_log_is_sealed_in_order_and_a_change_is_found(
    database: PostgresDatabase, tmp_path: Any
) -> None:
    keys = Keys.load(tmp_path / "keys.json")
    sealer = Sealer(database, keys)

    async def add(name: str, hold: float = 0) -> None:
        async with database.unit() as unit:
            await unit.audit.add([make_event(NOW, "ines", name, "p1", {"n": name})])
            await asyncio.sleep(hold)

    slow = asyncio.create_task(add("slow", 0.5))
    await asyncio.sleep(0.1)
    await add("quick")
    await sealer.seal_all()  # the slow one has begun before: nothing may be sealed past it
    async with database.unit() as unit:
        assert await unit.audit.head() is None
    await slow
    await sealer.seal_all()
    lines = [line async for line in AuditLog(database, keys.public_key).lines()]
    assert verify(lines, keys.public_key) == 2
    for bad in (
        [line.replace("quick", "quack") for line in lines],
        lines[1:],
        lines[:-1],
        [lines[1], lines[0], lines[2]],
        [lines[0], lines[0], lines[1], lines[2]],
    ):
        with pytest.raises(InvalidInput):
            verify(bad, keys.public_key)
    other = Keys.load(tmp_path / "other.json")
    with pytest.raises(InvalidInput):
        verify(lines, other.public_key)


async def test_time_goes_forward_in_a_demo_only(database: PostgresDatabase) -> None:
    async with database.unit() as unit:
        await unit.views.found(Installation(organisation="Us", prefix="YG", zone="UTC", demo=False))
    with pytest.raises(Conflict):
        async with database.unit() as unit:
            await unit.clock.set(NOW)


async def test_time_never_goes_back(database: PostgresDatabase) -> None:
    async with database.unit() as unit:
        await unit.views.found(Installation(organisation="Us", prefix="YG", zone="UTC", demo=True))
        await unit.clock.set(NOW)
    with pytest.raises(Conflict):
        async with database.unit() as unit:
            await unit.clock.set(NOW - timedelta(seconds=1))


def test_two_migrations_at_once_are_one(cluster: Cluster) -> None:
    import concurrent.futures

    cluster.create_database("twice")
    with concurrent.futures.ThreadPoolExecutor(2) as pool:
        list(pool.map(lambda _: migrate(cluster.url("twice")), range(2)))
    with psycopg.connect(cluster.url("twice")) as connection:
        assert connection.execute("SELECT version_num FROM alembic_version").fetchall() == [
            ("0043",)
        ]


def test_secrets_open_after_a_rotation_and_the_key_file_is_private(tmp_path: Any) -> None:
    path = tmp_path / "keys.json"
    sealed = Keys.load(path).seal("a secret")
    assert path.stat().st_mode & 0o777 == 0o600
    rotate(path)
    again = Keys.load(path)
    assert again.open(sealed) == "a secret"
    path.chmod(0o644)
    with pytest.raises(Exception, match="read by others"):
        Keys.load(path)


async def test_a_connector_follows_what_another_process_changed(
    database: PostgresDatabase, tmp_path: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    from yugum.bootstrap import ConnectorRegistry
    from yugum.settings import Settings

    keys = Keys.load(tmp_path / "keys.json")
    registry = ConnectorRegistry(database, keys, Settings(state=tmp_path))
    application = Application(id="crew", name="Crew", kind="scim")
    async with database.unit() as unit:
        await unit.applications.put(application, Access(url="http://x"), keys.seal("old"))
    first = await registry.of("crew")
    assert await registry.of("crew") is first
    async with database.unit() as unit:
        await unit.applications.put(application, Access(url="http://x"), keys.seal("new"))
    assert await registry.of("crew") is first
    monkeypatch.setattr(ConnectorRegistry, "LOOK_AGAIN", 0.0)
    second = await registry.of("crew")
    assert second is not first
    assert await registry.of("crew") is second
    await registry.close()


async def test_a_lease_that_was_let_go_runs_out_and_is_taken_up(database: PostgresDatabase) -> None:
    async with database.unit() as unit:
        await unit.people.insert([person(), person(id="p2", user_name="other")])
        await unit.leases.wake(["p1", "p2"], priority=5)
        assert len(await unit.leases.claim("one", 10, 0.3)) == 2
        kept = await unit.leases.renew("one", ["p1"], 30.0)
        assert [x.subject_id for x in kept] == ["p1"]
    await asyncio.sleep(0.4)
    async with database.unit() as unit:
        assert await unit.leases.recover() == 1
        assert [x.subject_id for x in await unit.leases.claim("two", 10, 5.0)] == ["p2"]


async def test_only_a_cut_off_that_comes_first_is_loaded_alone(database: PostgresDatabase) -> None:
    """An account that is brought back and then cut off is not cut off before it is there."""
    _, steps = await docket(database, 5)
    made = (("a", "secure"), ("a", "reclaim"), ("b", "access"), ("b", "secure"), ("c", "secure"))

    async def heads() -> list[str]:
        async with database.unit() as unit:
            return sorted(s.item for s in await unit.dockets.open_steps(["p1"], Phase.SECURE))

    with psycopg.connect(database.url) as connection:
        for step, (account_id, phase) in zip(steps, made, strict=True):
            sql = "UPDATE steps SET account_id = %s, phase = %s WHERE id = %s"
            connection.execute(sql, (account_id, phase, step.id))
    assert await heads() == ["g0", "g4"]
    with psycopg.connect(database.url) as connection:
        connection.execute("UPDATE steps SET state = 'done' WHERE item IN ('g2', 'g4')")
    assert await heads() == ["g0", "g3"]
    async with database.unit() as unit:
        left = await unit.dockets.open_steps(["p1"])
    assert [s.item for s in left] == ["g0", "g1", "g3"]
