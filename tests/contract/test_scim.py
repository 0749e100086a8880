"""SCIM in particular: client credentials, retries asked for, records that cannot be understood."""

from __future__ import annotations

import asyncio
import base64
from collections.abc import AsyncIterator
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from email.utils import format_datetime
from functools import partial
from typing import Any

import pytest
from aiohttp import web

from yugum.cluster import free_port
from yugum.connectors.scim import ScimConnector
from yugum.connectors.scim.groups import seen
from yugum.connectors.scim.http import ClientCredentials
from yugum.connectors.scim.resources import understood
from yugum.connectors.scim.words import GROUP
from yugum.core.accounts import Observed, Unreadable
from yugum.core.actions import NO_ARGUMENTS, Action
from yugum.errors import ApplicationRejected, ApplicationUnavailable, RateLimited
from yugum.ports.connectors import AccountRef

USERS: list[dict[str, Any]] = [
    {"id": "1", "userName": "ada", "active": True},
    {"id": "2", "active": True},
    {"userName": "no id"},
    {"id": "4", "userName": "bo", "active": False, "groups": "not a list"},
    {"id": "5", "userName": "cy"},
]


@dataclass
class Foreign:
    """Somebody else's SCIM application: tokens that run out, odd records, a limit."""

    port: int = field(default_factory=free_port)
    tokens: list[str] = field(default_factory=list)
    busy: int = 0
    wait: str = "7"

    async def token(self, request: web.Request) -> web.Response:
        form = await request.post()
        good = "Basic " + base64.b64encode(b"yugum:secret").decode()
        if request.headers.get("Authorization") != good or form["scope"] != "accounts":
            return web.json_response({"error": "invalid_client"}, status=401)
        self.tokens.append(f"t{len(self.tokens)}")
        return web.json_response({"access_token": self.tokens[-1], "expires_in": 3600})

    async def answer(self, request: web.Request) -> web.Response:
        if request.headers.get("Authorization") != f"Bearer {self.tokens[-1]}":
            return web.json_response({"detail": "who are you?"}, status=401)
        if self.busy:
            self.busy -= 1
            return web.json_response({}, status=429, headers={"Retry-After": self.wait})
        name = request.match_info["name"]
        if name == "ServiceProviderConfig":
            return web.json_response(
                {"patch": {"supported": False}, "filter": {"supported": False}}
            )
        if name == "ResourceTypes":
            return web.json_response({"Resources": [{"name": "User"}]})
        start = int(request.query.get("startIndex", "1"))
        page = USERS[start - 1 : start + 1]  # two at a time, whatever was asked for
        return web.json_response({"totalResults": len(USERS), "Resources": page})


@pytest.fixture
async def foreign() -> AsyncIterator[Foreign]:
    made = Foreign()
    app = web.Application()
    app.add_routes([web.post("/token", made.token), web.get("/scim/{name}", made.answer)])
    runner = web.AppRunner(app)
    await runner.setup()
    await web.TCPSite(runner, "127.0.0.1", made.port).start()
    yield made
    await runner.cleanup()


def connector(foreign: Foreign, secret: str = "secret") -> ScimConnector:
    base = f"http://127.0.0.1:{foreign.port}"
    credentials = ClientCredentials(f"{base}/token", "yugum", "accounts")
    return ScimConnector("Foreign", f"{base}/scim", secret, credentials=credentials)


async def test_a_token_is_fetched_once_for_many_calls(foreign: Foreign) -> None:
    scim = connector(foreign)
    await scim.discover()
    rows = [r async for page in scim.read() for r in page]
    await scim.close()
    assert foreign.tokens == ["t0"]
    assert [r.login for r in rows if isinstance(r, Observed)] == ["ada", "cy"]


async def test_each_record_that_cannot_be_understood_is_told(foreign: Foreign) -> None:
    scim = connector(foreign)
    bad = [r async for page in scim.read() for r in page if isinstance(r, Unreadable)]
    await scim.close()
    assert [(r.external_id, r.login) for r in bad] == [("2", ""), ("", "no id"), ("4", "bo")]
    assert "userName" in bad[0].reason


def test_a_group_that_cannot_be_understood_is_told() -> None:
    bad = {"id": "7", "displayName": "Lamps", GROUP: {"retiredUntil": "some day"}}
    found = understood(bad, partial(seen, bad), "displayName")
    assert isinstance(found, Unreadable)
    assert (found.external_id, found.login) == ("7", "Lamps")


async def test_a_wrong_client_secret_is_refused_with_the_remedy(foreign: Foreign) -> None:
    scim = connector(foreign, "wrong")
    with pytest.raises(ApplicationRejected) as caught:
        await scim.discover()
    await scim.close()
    assert "yugum apps connect" in caught.value.remedy


async def test_how_long_to_wait_is_what_the_application_says(foreign: Foreign) -> None:
    scim = connector(foreign)
    await scim.discover()
    in_a_minute = format_datetime(datetime.now(UTC) + timedelta(minutes=1), usegmt=True)
    past = "Thu, 01 Jan 2015 00:00:00 GMT"
    told = {"7": 7, in_a_minute: 59, past: 0, "soon": 5, "nan": 5, "1e9": 5, "99999999": 3600}
    for foreign.wait, seconds in told.items():
        foreign.busy = 1
        with pytest.raises(RateLimited) as caught:
            await scim.observe(AccountRef("a", "", "ada"))
        assert caught.value.retry_after == pytest.approx(seconds, abs=2), foreign.wait
    found = await scim.observe(AccountRef("a", "", "ADA"))  # by a scan, upper or lower case
    await scim.close()
    assert found is not None
    assert found.external_id == "1"


@dataclass
class Crowded:
    """An application that knows PUT only, whose one group everybody writes, with odd ids in it."""

    port: int = field(default_factory=free_port)
    members: list[str] = field(default_factory=list)
    version: int = 1
    meddles: int = 0
    puts: int = 0

    async def group(self, request: web.Request) -> web.Response:
        if request.match_info["id"] != "crew/deck 1%":
            return web.json_response({"detail": "no such group"}, status=404)
        if request.method == "PUT":
            self.puts += 1
            if request.headers.get("If-Match") != f'W/"{self.version}"':
                return web.json_response({"detail": "The resource has changed."}, status=412)
            body = await request.json()
            self.members = [m["value"] for m in body["members"]]
            self.version += 1
        shown = {
            "id": "crew/deck 1%",
            "displayName": "Deck",
            "members": [{"value": m} for m in self.members],
        }
        reply = web.json_response(shown, headers={"ETag": f'W/"{self.version}"'})
        if request.method == "GET" and self.meddles:  # somebody else writes right after we read
            self.meddles -= 1
            self.version += 1
            self.members.append(f"other-{self.version}")
        return reply

    async def listed(self, request: web.Request) -> web.Response:
        match request.match_info["name"]:
            case "ServiceProviderConfig":
                return web.json_response({"patch": {"supported": False}})
            case "ResourceTypes":
                return web.json_response({"Resources": [{"name": "User"}, {"name": "Group"}]})
            case _:
                group = {"id": "crew/deck 1%", "displayName": "Deck"}
                return web.json_response({"totalResults": 1, "Resources": [group]})


@pytest.fixture
async def crowded() -> AsyncIterator[Crowded]:
    made = Crowded()
    app = web.Application()
    app.add_routes(
        [
            web.route("*", "/scim/Groups/{id}", made.group),
            web.get("/scim/{name}", made.listed),
        ]
    )
    runner = web.AppRunner(app)
    await runner.setup()
    await web.TCPSite(runner, "127.0.0.1", made.port).start()
    yield made
    await runner.cleanup()


async def test_many_who_join_one_group_at_once_are_all_in_it(crowded: Crowded) -> None:
    scim = ScimConnector("Crowded", f"http://127.0.0.1:{crowded.port}/scim", "x")
    crowded.members = ["before"]
    refs = [AccountRef(f"a{n}", f"u{n}", f"u{n}") for n in range(12)]
    await asyncio.gather(*(scim.act(Action.GRANT, r, "Deck", NO_ARGUMENTS) for r in refs))
    await scim.close()
    assert sorted(crowded.members) == sorted(["before", *(f"u{n}" for n in range(12))])
    assert crowded.puts == 12, "they take turns instead of refusing each other"


async def test_what_somebody_else_wrote_meanwhile_is_kept(crowded: Crowded) -> None:
    scim = ScimConnector("Crowded", f"http://127.0.0.1:{crowded.port}/scim", "x")
    crowded.meddles = 3
    await scim.act(Action.GRANT, AccountRef("a", "u1", "u1"), "Deck", NO_ARGUMENTS)
    assert len(crowded.members) == 4
    assert "u1" in crowded.members
    crowded.meddles = 1000
    with pytest.raises(ApplicationUnavailable) as caught:
        await scim.act(Action.GRANT, AccountRef("a", "u2", "u2"), "Deck", NO_ARGUMENTS)
    await scim.close()
    assert caught.value.retryable
    assert "u2" not in crowded.members
