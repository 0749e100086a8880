"""The contract any connector can run: ours pass it on the real thing, eight faulty ones do not."""

from __future__ import annotations

from collections.abc import AsyncIterator, Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from typing import Any

import pytest

from tests.conftest import Theatre
from tests.contract.test_connectors import GROUP, plain, subject  # noqa: F401 - fixtures
from yugum.contract import Sample, check
from yugum.core.accounts import AccountState, Observed, Unreadable
from yugum.core.actions import Action
from yugum.ports import AccountRef, Connector
from yugum.testing import MemoryConnector
from yugum_standins.morrow import PLANNER


async def test_every_connector_of_ours_keeps_the_contract(
    subject: tuple[str, Connector],  # noqa: F811
    theatre: Theatre,
) -> None:
    kind, connector = subject
    license = {"scim": PLANNER, "cursor": "Planner"}.get(kind, "")
    outcomes = await check(connector, Sample(group=GROUP[kind], license=license))
    assert [(o.name, o.problem) for o in outcomes if o.problem] == []
    left_out = {o.left_out for o in outcomes if o.left_out}
    assert left_out <= {"seats"}, "what is left out is a lacking capability, and only that one"


async def test_the_example_keeps_it_too() -> None:
    outcomes = await check(MemoryConnector(), SAMPLE)
    assert [o for o in outcomes if o.problem or o.left_out] == []


SAMPLE = Sample(group="Staff", license=MemoryConnector.LICENSE)


class ForgetsWhose(MemoryConnector):
    def create(self, ref: AccountRef, login: str) -> Mapping[str, Any]:
        return super().create(AccountRef("", "", login), login)


class TakesOver(MemoryConnector):
    def create(self, ref: AccountRef, login: str) -> Mapping[str, Any]:
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
        arguments: Mapping[str, Any],
        secret: str = "",
    ) -> Mapping[str, Any]:
        did = await super().act(action, ref, item, arguments, secret)
        return {**did, "password": secret}


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


class SeesAnybody(MemoryConnector):
    async def observe(self, ref: AccountRef, *, assets: bool = False) -> Observed | None:
        return await super().observe(ref) or next(iter(self.rows.values()), None)


FAULTY = {
    ForgetsWhose: "a new account is seen, by its id and by ours",
    TakesOver: "a login that is taken is refused",
    BelievesAnyGroup: "an unknown entitlement is refused",
    LeavesSessions: "a cut-off ends every way in, and can be repeated",
    TellsTheSecret: "a credential is nowhere told",
    ReadsTwice: "every account is read exactly once",
    ComesBackOpen: "a closed account comes back suspended",
    KeepsSeats: "a seat is taken once and freed",
    SeesAnybody: "an account that is not there is not seen",
}


@pytest.mark.parametrize("faulty", FAULTY, ids=lambda c: c.__name__)
async def test_a_faulty_connector_is_found_out(faulty: type[MemoryConnector]) -> None:
    failed = [o.name for o in await check(faulty(), SAMPLE) if o.problem]
    assert FAULTY[faulty] in failed
