"""The contract any connector can run: ours pass it on the real thing, the faulty ones do not."""

from __future__ import annotations

from collections.abc import AsyncIterator, Sequence
from dataclasses import replace
from datetime import datetime
from typing import Any

import httpx
import pytest

from tests.conftest import Theatre
from tests.contract.test_connectors import GROUP, plain, subject  # noqa: F401 - fixtures
from yugum.connectors.manual.connector import ManualConnector
from yugum.connectors.scim import ScimConnector
from yugum.contract import Sample, check
from yugum.core.accounts import AccountState, Observed, Unreadable
from yugum.core.actions import Action, Arguments, Done
from yugum.core.tasks import after_task
from yugum.ports.connectors import AccountRef, Connector
from yugum.storage.database import PostgresDatabase
from yugum.testing import MemoryConnector
from yugum_standins.habits import HABITS
from yugum_standins.morrow import EXCHANGE, PLANNER

OF_USERS = (
    "title",
    "name.familyName",
    "emails.work",
    "phoneNumbers.mobile",
    "addresses.work.locality",
    "enterprise.department",
)
ATTRIBUTES = {"postgres": ("comment",), "ldap": ("mail", "title", "telephoneNumber", "l", "o")}


async def test_every_connector_of_ours_keeps_the_contract(
    subject: tuple[str, Connector],  # noqa: F811
    theatre: Theatre,
) -> None:
    kind, connector = subject
    license = {"scim": PLANNER, "cursor": "Planner"}.get(kind, "")
    sample = Sample(group=GROUP[kind], license=license, attributes=ATTRIBUTES.get(kind, OF_USERS))
    outcomes = await check(connector, sample)
    assert [(o.name, o.problem) for o in outcomes if o.problem] == []
    left_out = {o.left_out for o in outcomes if o.left_out}
    assert left_out <= {"seats", "rename", "trial", "duty_password"}, (
        "what is left out is a lacking capability, and only that one"
    )


@pytest.mark.parametrize("habit", sorted(HABITS))
async def test_habits_of_other_peoples_servers_are_borne(
    theatre: Theatre,
    plain: dict[str, Any],  # noqa: F811
    habit: str,
) -> None:
    url = f"http://127.0.0.1:{plain['port']}"
    headers = {"Authorization": f"Bearer {plain['token']}"}
    httpx.put(f"{url}/panel/faults", json={"habit": habit}, headers=headers).raise_for_status()
    connector = ScimConnector("Plain", f"{url}/scim/v2", plain["token"])
    try:
        outcomes = await check(connector, Sample(group=GROUP["plain"], attributes=OF_USERS))
    finally:
        await connector.close()
        httpx.put(f"{url}/panel/faults", json={"habit": ""}, headers=headers).raise_for_status()
    assert [(o.name, o.problem) for o in outcomes if o.problem] == []


class OwnerAtOnce(ManualConnector):
    """A manual application whose owner carries out every task the moment it is written."""

    async def _ask(self, action: Action, ref: AccountRef, item: str, arguments: Arguments) -> Done:
        before = await self.observe(ref)
        number = ref.external_id or f"m-{ref.account_id}"
        after = after_task(before, action, item, arguments, number, ref.account_id)
        async with self._database.unit() as unit:
            if after is not None:
                await unit.tasks.write(self._id, [after])
            elif before is not None:
                await unit.tasks.remove(self._id, before.external_id)
        return Done(external_id=number, login=ref.login)


async def test_the_manual_connector_keeps_it_with_an_owner_who_acts(
    database: PostgresDatabase,
) -> None:
    connector = OwnerAtOnce("radio", "Radio", database, {"groups": "VHF operator"})
    outcomes = await check(connector, Sample(group="VHF operator"))
    assert [(o.name, o.problem) for o in outcomes if o.problem] == []
    left_out = {o.left_out for o in outcomes if o.left_out}
    assert left_out == {"seats", "credential", "rename", "trial", "duty_password"}


async def test_an_application_that_invites_keeps_it(theatre: Theatre) -> None:
    other = theatre.play.organisation.others[EXCHANGE]
    connector = ScimConnector("Berth exchange", f"{other['url']}/scim/v2", other["token"])
    sample = Sample(group="Berth planners", license="Berth seat", attributes=OF_USERS)
    outcomes = await check(connector, sample)
    assert [(o.name, o.problem) for o in outcomes if o.problem] == []
    assert "whoever is new is invited, and no more once cut off" in {o.name for o in outcomes}
    await connector.close()


async def test_the_example_keeps_it_too() -> None:
    outcomes = await check(MemoryConnector(), SAMPLE)
    assert [o for o in outcomes if o.problem or o.left_out] == []


SAMPLE = Sample(group="Staff", license=MemoryConnector.LICENSE)


class ForgetsWhose(MemoryConnector):
    def create(self, ref: AccountRef, login: str) -> Done:
        return super().create(AccountRef("", "", login), login)


class TakesOver(MemoryConnector):
    def create(self, ref: AccountRef, login: str) -> Done:
        self.rows = {k: r for k, r in self.rows.items() if r.login != login}
        return super().create(ref, login)


class BelievesAnyGroup(MemoryConnector):
    def changed(self, row: Observed, action: Action, item: str) -> Observed:
        if action is Action.GRANT:
            return replace(row, entitlements=row.entitlements | {item})
        return super().changed(row, action, item)


class LeavesSessions(MemoryConnector):
    def changed(self, row: Observed, action: Action, item: str) -> Observed:
        after = super().changed(row, action, item)
        return replace(after, sessions=1) if action is Action.CUT_OFF else after


class TellsTheSecret(MemoryConnector):
    async def act(
        self,
        action: Action,
        ref: AccountRef,
        item: str,
        arguments: Arguments,
        secret: str = "",
    ) -> Done:
        did = await super().act(action, ref, item, arguments, secret)
        return replace(did, note=secret)


class ReadsTwice(MemoryConnector):
    async def read(
        self, since: datetime | None = None
    ) -> AsyncIterator[Sequence[Observed | Unreadable]]:
        rows = list(self.rows.values())
        yield rows
        yield rows[-1:]


class ComesBackOpen(MemoryConnector):
    def changed(self, row: Observed, action: Action, item: str) -> Observed:
        after = super().changed(row, action, item)
        return replace(after, state=AccountState.ACTIVE) if action is Action.RESTORE else after


class KeepsSeats(MemoryConnector):
    def changed(self, row: Observed, action: Action, item: str) -> Observed:
        return row if action is Action.FREE_SEAT else super().changed(row, action, item)


class MakesItOpen(MemoryConnector):
    async def act(
        self,
        action: Action,
        ref: AccountRef,
        item: str,
        arguments: Arguments,
        secret: str = "",
    ) -> Done:
        return await super().act(action, ref, item, replace(arguments, closed=False), secret)


class RenamesNothing(MemoryConnector):
    def changed(self, row: Observed, action: Action, item: str) -> Observed:
        return row if action is Action.RENAME else super().changed(row, action, item)


class SeesAnybody(MemoryConnector):
    async def observe(self, ref: AccountRef, *, assets: bool = False) -> Observed | None:
        return await super().observe(ref) or next(iter(self.rows.values()), None)


class StaysOpen(MemoryConnector):
    def changed(self, row: Observed, action: Action, item: str) -> Observed:
        after = super().changed(row, action, item)
        return replace(after, state=AccountState.ACTIVE) if action is Action.TRY_SIGN_IN else after


class AsksForNothing(MemoryConnector):
    async def act(
        self,
        action: Action,
        ref: AccountRef,
        item: str,
        arguments: Arguments,
        secret: str = "",
    ) -> Done:
        if action is Action.REQUIRE:
            return Done()
        return await super().act(action, ref, item, arguments, secret)


FAULTY = {
    ForgetsWhose: "a new account is seen, by its id and by ours",
    TakesOver: "a login that is taken is refused",
    BelievesAnyGroup: "an unknown entitlement is refused",
    LeavesSessions: "a cut-off ends every way in, and can be repeated",
    TellsTheSecret: "a credential is nowhere told",
    ReadsTwice: "every account is read exactly once",
    ComesBackOpen: "a closed account comes back suspended",
    KeepsSeats: "a seat is taken once and freed",
    MakesItOpen: "an account can be made closed, to be opened later",
    RenamesNothing: "a new name is seen, and the old one is not",
    StaysOpen: "a trial sign-in leaves the account as it was",
    AsksForNothing: "a duty is asked for, and let go",
    SeesAnybody: "an account that is not there is not seen",
}


@pytest.mark.parametrize("faulty", FAULTY, ids=lambda c: c.__name__)
async def test_a_faulty_connector_is_found_out(faulty: type[MemoryConnector]) -> None:
    failed = [o.name for o in await check(faulty(), SAMPLE) if o.problem]
    assert FAULTY[faulty] in failed
