"""One-time links to initial credentials, on real PostgreSQL."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest
import sqlalchemy as sa

from tests.builders import account, person
from yugum.core.applications import Application
from yugum.errors import NotFound
from yugum.ports.applications import Access
from yugum.storage import tables as t
from yugum.storage.credentials import Credentials
from yugum.storage.database import PostgresDatabase

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)


async def test_nobody_is_mailed_while_a_link_given_by_hand_opens_it(
    database: PostgresDatabase,
) -> None:
    async with database.unit() as unit:
        assert isinstance(unit.credentials, Credentials)
        await unit.applications.put(
            Application(id="crew", name="Crew", kind="scim"), Access(), None
        )
        await unit.people.insert([person()])
        await unit.accounts.refresh([account()], NOW)
        credential = {"id": "c1", "account_id": account().id, "cipher": b"x", "set_at": NOW}
        await unit.credentials.connection.execute(sa.insert(t.credentials).values(**credential))
        assert [r.id for r in await unit.credentials.untold(10)] == ["c1"]
        await unit.credentials.link(account().id, "by hand", 60)
        assert await unit.credentials.untold(10) == []
        await unit.credentials.link(account().id, "by hand", -1)  # it has run out unopened
        with pytest.raises(NotFound, match="expired"):
            await unit.credentials.open("by hand", NOW)
        assert [r.id for r in await unit.credentials.untold(10)] == ["c1"]
        await unit.credentials.link(account().id, "by hand", 60)
        await unit.credentials.open("by hand", NOW)
        assert await unit.credentials.untold(10) == []
