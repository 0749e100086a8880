"""SCIM servers that are not ours: each made of a library that shares nothing with our connector."""

from __future__ import annotations

from collections.abc import AsyncIterator, Iterator

import pytest

from tests.outside import GROUPS, KEPT, Outside
from yugum.connectors.scim import ScimConnector
from yugum.contract import Sample, check
from yugum.core.accounts import AccountState, Observed
from yugum.core.actions import NO_ARGUMENTS, Action, Arguments
from yugum.ports.connectors import AccountRef


@pytest.fixture(scope="module", params=list(KEPT))
def outside(request: pytest.FixtureRequest) -> Iterator[Outside]:
    with Outside(request.param) as made:
        yield made


@pytest.fixture
async def scim(outside: Outside) -> AsyncIterator[ScimConnector]:
    made = ScimConnector(
        "Outside", outside.url, outside.token, timeout=30
    )  # it may wait for a core
    yield made
    await made.close()


async def test_they_keep_the_contract(outside: Outside, scim: ScimConnector) -> None:
    sample = Sample(group="Deck", attributes=KEPT[outside.kind], odd_login="o.brien-{}")
    outcomes = await check(scim, sample)
    assert [(o.name, o.problem) for o in outcomes if o.problem] == []
    left_out = {o.left_out for o in outcomes if o.left_out}
    assert left_out <= {"seats", "credential", "trial", "duty_password"}


async def test_a_member_is_seen_by_a_connector_that_never_saw_one(
    outside: Outside, scim: ScimConnector
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
    for looking in (scim, ScimConnector("Anew", outside.url, outside.token)):
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
