"""Groups as rows: one a group, whatever stands around it."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest

from tests.builders import person
from yugum.core.accounts import Account, AccountKind, AccountState
from yugum.core.applications import Application
from yugum.errors import Ambiguous
from yugum.ports.applications import Access
from yugum.ports.groups import WhichGroups
from yugum.storage.database import PostgresDatabase

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)


def account(key: str, login: str, state: AccountState, **more: object) -> Account:
    return Account(
        id=key,
        application_id="home",
        login=login,
        external_id=key,
        state=state,
        **{"person_id": None, **more},  # type: ignore[arg-type]
    )


async def test_a_group_has_one_row_and_names_one(database: PostgresDatabase) -> None:
    group = {"kind": AccountKind.GROUP, "settings": {"owner_login": "ada"}}
    some = [
        account("a-new", "ada", AccountState.ACTIVE, person_id="ada"),
        account("a-old", "ada", AccountState.PURGED, person_id="bo"),  # had the login before
        account("g1", "Lamps", AccountState.ACTIVE, **group),
        account("g2", "Bells", AccountState.ACTIVE, **group),
        account("g3", "Bells", AccountState.PURGED, **group),
    ]
    async with database.unit() as unit:
        await unit.applications.put(
            Application(id="home", name="Home", kind="ldap"), Access(), None
        )
        await unit.people.insert([person(id=n, user_name=n) for n in ("ada", "bo")])
        for one in some:
            await unit.groups.put(one)
        page = await unit.groups.page(NOW, WhichGroups(), cursor=None, limit=10)
        assert [(r.login, r.owner_id) for r in page.items] == [("Bells", "ada"), ("Lamps", "ada")]
        found = await unit.groups.named("home", "Bells")
        assert found is not None
        assert found.id == "g2"
        await unit.groups.put(account("g4", "Bells", AccountState.DELETED, **group))
        with pytest.raises(Ambiguous, match="two groups Bells"):
            await unit.groups.named("home", "Bells")
