"""Calls over HTTP: where they may lead, how long they may take, what cannot be sent at all."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from dataclasses import dataclass, field

import pytest
from aiohttp import web

from yugum.cluster import free_port
from yugum.connectors.caldav.server import Server
from yugum.connectors.scim.http import ScimHttp, at
from yugum.connectors.web import Web
from yugum.errors import ApplicationRejected, ApplicationUnavailable

STATUS = (
    '<D:multistatus xmlns:D="DAV:"><D:response><D:href>&x;</D:href></D:response></D:multistatus>'
)
ANSWERS = {
    "/laughs/": f'<!DOCTYPE a [<!ENTITY y "ha"><!ENTITY x "&y;&y;">]>{STATUS}',
    "/outside/": f'<!DOCTYPE a [<!ENTITY x SYSTEM "file:///etc/hostname">]>{STATUS}',
    "/garbage/": "<D:multistatus",
}


@dataclass
class Host:
    port: int = field(default_factory=free_port)
    asked: list[str] = field(default_factory=list)

    async def answer(self, request: web.Request) -> web.StreamResponse:
        self.asked.append(request.path)
        match request.path:
            case "/away":
                return web.Response(status=302, headers={"Location": "/elsewhere"})
            case "/cookie":
                reply = web.Response(text=request.headers.get("Cookie", "none"))
                reply.set_cookie("session", "1")
                return reply
            case "/slow":
                await asyncio.sleep(5)
            case "/cut":
                assert request.transport is not None
                request.transport.close()
            case "/long":
                return web.Response(body=b"x" * 1_000_000)
            case "/laughs/" | "/outside/" | "/garbage/" | "/down/" | "/no/":
                status = {"/down/": 503, "/no/": 403}.get(request.path, 207)
                return web.Response(status=status, text=ANSWERS.get(request.path, ""))
        return web.Response(text="here")

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"


@pytest.fixture
async def host(monkeypatch: pytest.MonkeyPatch) -> AsyncIterator[Host]:
    for name in ("http_proxy", "HTTP_PROXY", "ALL_PROXY", "all_proxy"):
        monkeypatch.setenv(name, "http://127.0.0.1:9")
    made = Host()
    app = web.Application()
    app.add_routes([web.route("*", "/{path:.*}", made.answer)])
    runner = web.AppRunner(app)
    await runner.setup()
    await web.TCPSite(runner, "127.0.0.1", made.port).start()
    yield made
    await runner.cleanup()


async def test_a_call_goes_where_it_is_sent_and_nowhere_else(host: Host) -> None:
    """No proxy of the environment, no redirect, and no cookie is carried to the next call."""
    calls = Web("Desk", 5)
    away = await calls.send(calls.request("GET", f"{host.url}/away"))
    cookies = [(await calls.send(calls.request("GET", f"{host.url}/cookie"))).body for _ in "ab"]
    await calls.close()
    assert (away.status, away.headers.get("location")) == (302, "/elsewhere")
    assert cookies == [b"none", b"none"]
    assert host.asked == ["/away", "/cookie", "/cookie"]


async def test_an_answer_is_read_so_far_and_no_further(host: Host) -> None:
    calls = Web("Desk", 5)
    answer = await calls.send(calls.request("GET", f"{host.url}/long"), longest=1000)
    await calls.close()
    assert answer.body == b"x" * 1000


async def test_whoever_waits_for_a_connection_waits_no_longer_than_a_call_may_take(
    host: Host,
) -> None:
    """They are told at the same time as who has it, and are not sent one after the other."""
    calls = Web("Desk", 0.5, connections=1)
    told = await asyncio.gather(
        *(calls.send(calls.request("GET", f"{host.url}/slow")) for _ in range(4)),
        return_exceptions=True,
    )
    await calls.close()
    assert [type(t) for t in told] == [ApplicationUnavailable] * 4
    assert len(host.asked) < 4


async def test_nobody_there_is_unavailable(host: Host) -> None:
    calls = Web("Desk", 5)
    for url in (f"{host.url}/cut", f"http://127.0.0.1:{free_port()}/"):
        with pytest.raises(ApplicationUnavailable, match="Desk does not answer"):
            await calls.send(calls.request("GET", url))
    await calls.close()


@pytest.mark.parametrize(
    ("url", "token"), [("nowhere", "t"), ("http://[::1", "t"), ("http://127.0.0.1:9", "a\nb")]
)
async def test_what_cannot_be_sent_is_refused_with_the_remedy(url: str, token: str) -> None:
    scim = ScimHttp("Desk", url, token, timeout=2, connections=2)
    with pytest.raises(ApplicationRejected) as caught:
        await scim.send("GET", "/Users")
    await scim.close()
    assert "yugum apps connect" in caught.value.remedy
    assert "a\nb" not in caught.value.message


@pytest.mark.parametrize("key", [".", ".."])
def test_an_id_that_would_lead_to_another_resource_is_refused(key: str) -> None:
    """An address is normalized on the way (RFC 3986 5.2.4): deleting it would delete another."""
    with pytest.raises(ApplicationRejected, match="cannot be addressed"):
        at("Users", key)


@pytest.mark.parametrize(
    ("login", "error"),
    [
        ("laughs", ApplicationUnavailable),
        ("outside", ApplicationUnavailable),
        ("garbage", ApplicationUnavailable),
        ("down", ApplicationUnavailable),
        ("no", ApplicationRejected),
    ],
)
async def test_what_a_calendar_server_says_is_read_with_care(
    host: Host, login: str, error: type[Exception]
) -> None:
    """No entity is resolved, nothing outside is fetched, and what cannot be read is said."""
    server = Server("Desk", host.url, "yugum", "secret", 5)
    try:
        with pytest.raises(error) as said:
            await server.calendars(login)
    finally:
        await server.close()
    assert "secret" not in str(said.value)
    assert host.asked == [f"/{login}/"]
