"""SCIM servers that are not ours: each made of a library that shares nothing with our connector."""

from __future__ import annotations

import secrets
import subprocess
import sys
import time
from collections.abc import AsyncIterator, Iterator
from pathlib import Path

import httpx
import pytest

from yugum.cluster import free_port
from yugum.connectors.scim import ScimConnector
from yugum.contract import Sample, check
from yugum.core.accounts import AccountState, Observed
from yugum.core.actions import NO_ARGUMENTS, Action, Arguments
from yugum.ports.connectors import AccountRef

HERE = Path(__file__).parents[1] / "outside"
GROUPS = ("Deck", "Night duty")
KEPT = {
    "node": (
        "title",
        "name.familyName",
        "emails.work",
        "phoneNumbers.mobile",
        "addresses.work.locality",
        "enterprise.department",
    ),
    "django": ("name.familyName", "name.givenName"),
}
"""Attributes that each really keeps, whatever its schemas say."""


@pytest.fixture(scope="module", params=list(KEPT))
def outside(
    request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory
) -> Iterator[tuple[str, str, str]]:
    """Which server it is, where it is and its token."""
    token, port = secrets.token_urlsafe(12), free_port()
    words = {
        "node": ["node", str(HERE / "server.js"), str(port), token, *GROUPS],
        "django": [
            sys.executable,
            "-m",
            "tests.outside.crew_office",
            str(port),
            token,
            str(tmp_path_factory.mktemp("outside") / "users.db"),
            *GROUPS,
        ],
    }[request.param]
    process = subprocess.Popen(words, stdin=subprocess.PIPE, cwd=HERE.parents[1])
    assert process.stdin is not None
    url = f"http://127.0.0.1:{port}/scim/v2"
    try:
        for _ in range(200):
            try:
                httpx.get(f"{url}/Users", headers={"Authorization": f"Bearer {token}"})
                break
            except httpx.TransportError:
                time.sleep(0.1)
        yield request.param, url, token
    finally:
        process.stdin.close()
        process.kill()
        process.wait()


@pytest.fixture
async def scim(outside: tuple[str, str, str]) -> AsyncIterator[ScimConnector]:
    made = ScimConnector("Outside", outside[1], outside[2])
    yield made
    await made.close()


async def test_they_keep_the_contract(outside: tuple[str, str, str], scim: ScimConnector) -> None:
    sample = Sample(group="Deck", attributes=KEPT[outside[0]], odd_login="o.brien-{}")
    outcomes = await check(scim, sample)
    assert [(o.name, o.problem) for o in outcomes if o.problem] == []
    assert {o.left_out for o in outcomes if o.left_out} <= {"seats", "credential"}


async def test_a_member_is_seen_by_a_connector_that_never_saw_one(
    outside: tuple[str, str, str], scim: ScimConnector
) -> None:
    """Nobody is in any group when it is connected, so where membership is kept cannot be known."""
    refs = []
    for login in ("ada.first", "bo.second"):
        ref = AccountRef(f"id-{login}", "", login)
        arguments = Arguments(login=login, display_name=login, family_name="Berg")
        made = await scim.act(Action.CREATE, ref, "", arguments)
        refs.append(AccountRef(ref.account_id, made.external_id, login))
    for group in GROUPS:
        await scim.act(Action.GRANT, refs[0], group, NO_ARGUMENTS)
    for looking in (scim, ScimConnector("Anew", outside[1], outside[2])):
        seen = await looking.observe(refs[0])
        assert seen is not None
        assert seen.entitlements == set(GROUPS)
        rows = [r async for page in looking.read() for r in page if isinstance(r, Observed)]
        held = {r.login: r.entitlements for r in rows}
        assert held["ada.first"] == set(GROUPS)
        assert not held["bo.second"]
    await scim.act(Action.REVOKE, refs[0], "Deck", NO_ARGUMENTS)
    await scim.act(Action.CUT_OFF, refs[0], "", NO_ARGUMENTS)
    seen = await scim.observe(refs[0])
    assert seen is not None
    assert seen.entitlements == {"Night duty"}
    assert seen.state is AccountState.SUSPENDED
    await looking.close()
